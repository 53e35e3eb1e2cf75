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
	// Rows is the FROM clause in which the expression is to stand.
	Rows Rows
	// Param adds a parameter and gives its placeholder, cast to the type.
	Param   func(value any, sqlType string) string
	Catalog *Catalog
	Clock   Clock
	// MeKnown tells that somebody is signed in, so that me is not empty.
	MeKnown bool

	inner []Rows // the FROM clauses inside of lists, the outermost first
}

// Moment is a parameter that depends on what time it is.
type Moment string

func (m Moment) String() string { return string(m) }

// Rows is a FROM clause under construction, with one record in hand in each of
// its rows. It grows by what expressions need.
type Rows interface {
	// Column gives the SQL of the value at the end of a path from the root,
	// NULL where a link on the way is empty. The types are uuid for records,
	// text for texts, choices and files, numeric, boolean, date, timestamptz,
	// and arrays of them for lists that a record holds itself. An empty path
	// is the root record itself, of the table given.
	Column(root Root, path []*Field, table string) (string, error)
	// Held tells whether the value at the end of a path is that of a column or
	// a parameter, just as it is.
	Held(root Root, path []*Field) bool
	// Label gives the SQL of the label of the record at the end of a path.
	Label(root Root, path []*Field, table string) (string, error)
	// Through starts the rows of the records to which a link to many of the
	// record with the id leads, or of the values that the record holds in f.
	Through(id string, f *Field) (Rows, error)
	// Flat gives the rows of what f leads to for each of these rows.
	Flat(f *Field) (Rows, error)
	// All starts the rows of all records of a table.
	All(table string) (Rows, error)
	// Where keeps only the rows for which the condition holds.
	Where(condition string)
	// Item gives the SQL of the record in hand, or of the value where the rows
	// are those of values.
	Item() string
	// Order gives the SQL by which the rows are in order.
	Order() []string
	// Derived starts the rows of what a statement gives: column v for the
	// item, and n for the order. The table is "" for values.
	Derived(sql, table string) (Rows, error)
	// Select gives the statement that reads an expression from these rows.
	Select(what string) string
	// Share gives the SQL of an aggregate over rows, computed beside the row in
	// hand. Aggregates over rows of the same key are computed together: start
	// is asked for the rows where there are none of the key yet.
	Share(key string, start func() (Rows, error), aggregate func(Rows) (string, error)) (string, error)
}

// rows gives the FROM clause to which a level belongs.
func (c *Compiler) rows(level int) Rows {
	if level == 0 {
		return c.Rows
	}
	return c.inner[level-1]
}

// here is the innermost FROM clause.
func (c *Compiler) here() Rows { return c.rows(len(c.inner)) }

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
		return c.rows(n.Level).Column(n.Root, n.Path, n.Type.Table)
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
		col, err := c.rows(n.Level).Column(n.Root, n.Path, n.Type.Table)
		return filled(n.Type, col), err
	case OpCall:
		return functions[n.Func].callSQL(c, n)
	case OpStep:
		return c.step(n)
	case OpColumn:
		return c.column(n)
	case OpToDate:
		x, err := c.Value(n.Args[0])
		return c.local(x) + "::date", err
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
	None: "text", Text: "text", Number: "numeric", YesNo: "boolean", Date: "date", Choice: "text", Record: "uuid", Time: "timestamptz",
	File: "text",
}

// filled makes a yes/no that is not filled in no.
func filled(t Type, sql string) string {
	if t == (Type{Kind: YesNo}) {
		return "COALESCE(" + sql + ", false)"
	}
	return sql
}

// zone gives the parameter that names the app's time zone.
func (c *Compiler) zone() string { return c.Param(c.Clock.zone().String(), "text") }

// local gives what clocks in the app's time zone show at an instant.
func (c *Compiler) local(x string) string { return "(" + x + " AT TIME ZONE " + c.zone() + ")" }

// zoned calls a function that needs the time zone behind its arguments.
func (c *Compiler) zoned(name string, nodes []*Node) (string, error) {
	args, err := c.values(nodes)
	return "pinegate." + name + "(" + strings.Join(append(args, c.zone()), ", ") + ")", err
}

// negated compiles NOT for a place where NULL counts as no.
func (c *Compiler) negated(n *Node) (string, error) {
	x, err := c.Value(n.Args[0])
	return "(NOT " + x + ")", err
}

// column compiles an extra column of a choice.
func (c *Compiler) column(n *Node) (string, error) {
	x, err := c.Value(n.Args[0])
	if err != nil {
		return "", err
	}
	list := c.Catalog.Lists[n.Args[0].Type.List]
	sqlType := sqlTypes[n.Type.Kind]
	var b strings.Builder
	for _, ch := range list.Choices {
		if v := ch.Values[n.Column]; !v.IsEmpty() {
			fmt.Fprintf(&b, " WHEN %s THEN %s", c.Param(ch.ID, "text"), c.Param(v.String(), sqlType))
		}
	}
	if b.Len() == 0 {
		return filled(n.Type, "NULL::"+sqlType), nil
	}
	return filled(n.Type, "(CASE "+x+b.String()+" END)"), nil
}

// text compiles the conversion to text of a number, a date, a time stamp or a
// choice.
func (c *Compiler) text(n *Node) (string, error) {
	x, err := c.Value(n)
	if err != nil {
		return "", err
	}
	return c.textOf(x, n.Type)
}

func (c *Compiler) textOf(x string, t Type) (string, error) {
	switch t.Kind {
	case Text:
		return x, nil
	case Number:
		return "(trim_scale(" + x + ")::text)", nil
	case Date:
		return "pinegate.date_text(" + x + ")", nil
	case Time:
		return "pinegate.time_text(" + c.local(x) + ")", nil
	case Choice:
		list := c.Catalog.Lists[t.List]
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
	return "", fmt.Errorf("compile expression: no text of %s", t.Kind)
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

// equality writes the operator = only between columns and parameters. Of what is
// computed from both sides of an outer join, PostgreSQL before 16 makes a class
// of equal values that it checks below the join as well, and then gives the
// records on the other side of that join wrongly as empty.
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
	case n.Op == OpEq && !value && (filled(0) || filled(1)) && c.held(n.Args[0]) && c.held(n.Args[1]):
		return fmt.Sprintf("(%s = %s)", x, y)
	case n.Op == OpEq:
		return fmt.Sprintf("(%s IS NOT DISTINCT FROM %s)", x, y)
	}
	return fmt.Sprintf("(%s IS DISTINCT FROM %s)", x, y)
}

// held tells whether the SQL of an expression is a column or a parameter.
func (c *Compiler) held(n *Node) bool {
	return n.Op == OpConst || n.Op == OpRef && c.rows(n.Level).Held(n.Root, n.Path)
}
