package expr

import (
	"fmt"
	"strings"
)

// Compiler turns checked expressions into PostgreSQL expressions. Values enter
// only as parameters.
//
// The statements use the functions of the schema pinegate (number_add,
// number_subtract, number_multiply, number_divide, number_negate, text_join),
// which hold the rules about empties and limits.
type Compiler struct {
	// Column gives the SQL of the value at the end of a path, NULL where a
	// link on the way is empty. The types are uuid for records, text for
	// texts and choices, numeric, boolean and date.
	// An empty path is the root record itself, of the table given.
	Column func(root Root, path []*Field, table string) (string, error)
	// Param adds a parameter and gives its placeholder, cast to the type.
	Param   func(value any, sqlType string) string
	Catalog *Catalog
	Today   string // ISO 8601
	// MeKnown tells that somebody is signed in, so that me is not empty.
	MeKnown bool
}

// Condition compiles a yes/no expression for a place where NULL counts as no,
// such as WHERE, so that an index can serve it.
func (c *Compiler) Condition(n *Node) (string, error) {
	switch n.Op {
	case OpAnd, OpOr:
		x, err := c.Condition(n.Args[0])
		if err != nil {
			return "", err
		}
		y, err := c.Condition(n.Args[1])
		return fmt.Sprintf("(%s %s %s)", x, strings.ToUpper(string(n.Op)), y), err
	case OpRef:
		return c.Column(n.Root, n.Path, n.Type.Table)
	case OpEq, OpNe, OpLt, OpLe, OpGt, OpGe:
		return c.comparison(n, false)
	}
	return c.Value(n)
}

// Value compiles an expression to its value; a yes/no is never NULL.
func (c *Compiler) Value(n *Node) (string, error) {
	switch n.Op {
	case OpConst:
		return c.constant(n), nil
	case OpRef:
		col, err := c.Column(n.Root, n.Path, n.Type.Table)
		if n.Type.Kind == YesNo {
			col = "COALESCE(" + col + ", false)"
		}
		return col, err
	case OpCall:
		return functions[n.Func].sql(c, n)
	case OpToText:
		return c.text(n.Args[0])
	case OpEq, OpNe, OpLt, OpLe, OpGt, OpGe:
		return c.comparison(n, true)
	}
	args, err := c.values(n.Args)
	if err != nil {
		return "", err
	}
	switch n.Op {
	case OpNot:
		return "(NOT " + args[0] + ")", nil
	case OpAnd, OpOr:
		return fmt.Sprintf("(%s %s %s)", args[0], strings.ToUpper(string(n.Op)), args[1]), nil
	}
	name, ok := map[Op]string{
		OpNeg: "number_negate", OpAdd: "number_add", OpSub: "number_subtract",
		OpMul: "number_multiply", OpDiv: "number_divide", OpJoin: "text_join",
	}[n.Op]
	if !ok {
		return "", fmt.Errorf("compile expression: unknown operation %q", n.Op)
	}
	return "pinegate." + name + "(" + strings.Join(args, ", ") + ")", nil
}

func (c *Compiler) values(nodes []*Node) ([]string, error) {
	out := make([]string, len(nodes))
	for i, n := range nodes {
		s, err := c.Value(n)
		if err != nil {
			return nil, err
		}
		out[i] = s
	}
	return out, nil
}

func (c *Compiler) constant(n *Node) string {
	sqlType := sqlTypes[n.Type.Kind]
	if n.Value.IsEmpty() {
		return "NULL::" + sqlType
	}
	if n.Type.Kind == YesNo {
		return fmt.Sprintf("%t", n.Value.Yes)
	}
	return c.Param(n.Value.String(), sqlType)
}

var sqlTypes = map[Kind]string{
	None: "text", Text: "text", Number: "numeric", YesNo: "boolean", Date: "date", Choice: "text", Record: "uuid",
}

// text compiles the conversion to text of a number, a date or a choice.
func (c *Compiler) text(n *Node) (string, error) {
	x, err := c.Value(n)
	if err != nil {
		return "", err
	}
	switch n.Type.Kind {
	case Number:
		return "(trim_scale(" + x + ")::text)", nil
	case Date:
		return "to_char(" + x + ", 'YYYY-MM-DD')", nil
	case Choice:
		list := c.Catalog.Lists[n.Type.List]
		if list == nil || len(list.Choices) == 0 {
			return "NULL::text", nil
		}
		var b strings.Builder
		b.WriteString("(CASE " + x)
		for _, ch := range list.Choices {
			fmt.Fprintf(&b, " WHEN %s THEN NULLIF(%s, '')", c.Param(ch.ID, "text"), c.Param(ch.Label, "text"))
		}
		return b.String() + " END)", nil
	}
	return "", fmt.Errorf("compile expression: no text of %s", n.Type.Kind)
}

// comparison compiles a comparison; as a value it is never NULL.
func (c *Compiler) comparison(n *Node, value bool) (string, error) {
	args, err := c.values(n.Args)
	if err != nil {
		return "", err
	}
	x, y := args[0], args[1]
	if n.Op == OpEq || n.Op == OpNe {
		return c.equality(n, x, y, value), nil
	}
	if n.Args[0].Type.Kind == Text {
		x, y = x+` COLLATE "C"`, y+` COLLATE "C"`
	}
	s := fmt.Sprintf("(%s %s %s)", x, n.Op, y)
	if value {
		s = "COALESCE" + s[:len(s)-1] + ", false)"
	}
	return s, nil
}

func (c *Compiler) equality(n *Node, x, y string, value bool) string {
	isNull := func(i int) bool { return n.Args[i].Op == OpConst && n.Args[i].Value.IsEmpty() }
	filled := func(i int) bool {
		return n.Args[i].Op == OpConst && !n.Args[i].Value.IsEmpty() ||
			c.MeKnown && n.Args[i].Op == OpRef && n.Args[i].Root == RootMe && len(n.Args[i].Path) == 0
	}
	not := map[bool]string{true: "", false: "NOT "}[n.Op == OpEq]
	switch {
	case isNull(1):
		return fmt.Sprintf("(%s IS %sNULL)", x, not)
	case isNull(0):
		return fmt.Sprintf("(%s IS %sNULL)", y, not)
	case n.Op == OpEq && !value && (filled(0) || filled(1)):
		return fmt.Sprintf("(%s = %s)", x, y)
	case n.Op == OpEq:
		return fmt.Sprintf("(%s IS NOT DISTINCT FROM %s)", x, y)
	}
	return fmt.Sprintf("(%s IS DISTINCT FROM %s)", x, y)
}
