package expr

import (
	"fmt"
	"strings"
)

// Op says what a checked node does.
type Op string

// The operations of checked nodes. Comparison and arithmetic operators are
// held as they are written.
const (
	OpConst  Op = "const"
	OpRef    Op = "ref"
	OpCall   Op = "call"
	OpNeg    Op = "negate"
	OpNot    Op = "not"
	OpAnd    Op = "and"
	OpOr     Op = "or"
	OpJoin   Op = "&"
	OpAdd    Op = "+"
	OpSub    Op = "-"
	OpMul    Op = "*"
	OpDiv    Op = "/"
	OpEq     Op = "="
	OpNe     Op = "<>"
	OpLt     Op = "<"
	OpLe     Op = "<="
	OpGt     Op = ">"
	OpGe     Op = ">="
	OpToText Op = "text of" // inserted by the checker around operands of &
)

// Root says where a reference starts.
type Root string

// The roots of references.
const (
	RootRow  Root = "row"  // the record in hand
	RootMe   Root = "me"   // the signed-in person's record
	RootPage Root = "page" // the record of the page
)

// Node is a node of a checked expression.
type Node struct {
	Op    Op
	Type  Type
	Args  []*Node
	Value Value    // for OpConst
	Func  string   // for OpCall
	Root  Root     // for OpRef
	Path  []*Field // for OpRef: the fields followed; none means the record itself
	At    Span
}

// Ref tells that a piece of the source names a field, so that renaming the
// field can rewrite it.
type Ref struct {
	Table, Field string
	Bracketed    bool
	At           Span
}

// Checked is an expression whose names and types are known.
type Checked struct {
	Source string
	Root   *Node
	Refs   []Ref
	UsesMe bool // whether the value depends on who is signed in
	offset int  // where Source starts in a text with placeholders
}

// Type is the type of the expression's value.
func (c *Checked) Type() Type { return c.Root.Type }

type checker struct {
	scope Scope
	out   *Checked
}

// Check parses the source and resolves names and types in the scope. The
// error, if any, is an [*Error].
func Check(src string, scope Scope) (*Checked, error) {
	syntax, err := Parse(src)
	if err != nil {
		return nil, err
	}
	c := &checker{scope: scope, out: &Checked{Source: src}}
	root, cerr := c.node(syntax)
	if cerr != nil {
		return nil, cerr
	}
	c.out.Root = root
	return c.out, nil
}

// CheckCondition is [Check] for an expression that must be yes or no.
func CheckCondition(src string, scope Scope) (*Checked, error) {
	return CheckAs(src, scope, Type{Kind: YesNo})
}

// CheckAs is [Check] for an expression whose value must be of the type.
func CheckAs(src string, scope Scope, want Type) (*Checked, error) {
	c, err := Check(src, scope)
	if err != nil {
		return nil, err
	}
	if root, ok := coerce(scope, c.Root, want); ok {
		c.Root = root
		return c, nil
	}
	if want.Kind == Text && textable(c.Root.Type) {
		c.Root = toText(c.Root)
		return c, nil
	}
	if want.Kind == YesNo {
		return nil, errorAt(c.Root.At, "A condition must be yes or no; this is %s. Compare it with something, as in \"x = 1\".", describe(scope, c.Root.Type))
	}
	return nil, errorAt(c.Root.At, "This must be %s; it is %s.", describe(scope, want), describe(scope, c.Root.Type))
}

// describe says a type in words for messages.
func describe(s Scope, t Type) string {
	switch t.Kind {
	case Text:
		return "a text"
	case Number:
		return "a number"
	case Date:
		return "a date"
	case YesNo:
		return "yes or no"
	case Choice:
		if s.Catalog != nil && s.Catalog.Lists[t.List] != nil {
			return fmt.Sprintf("a choice of %s", s.Catalog.Lists[t.List].Name)
		}
		return "a choice"
	case Record:
		if tb := s.table(t.Table); tb != nil {
			return fmt.Sprintf("a record of %s", tb.Name)
		}
		return "a record"
	}
	return "empty"
}

func (c *checker) node(s Syntax) (*Node, *Error) {
	switch s := s.(type) {
	case *Literal:
		kind := s.Value.Kind
		if kind == "" {
			kind = None
		}
		return &Node{Op: OpConst, Type: Type{Kind: kind}, Value: s.Value, At: s.At}, nil
	case *Path:
		return c.path(s)
	case *Unary:
		return c.unary(s)
	case *Binary:
		return c.binary(s)
	case *Call:
		return c.call(s)
	}
	return nil, errorAt(s.Span(), "This is not understood.")
}

func (c *checker) path(p *Path) (*Node, *Error) {
	n := &Node{Op: OpRef, Root: RootRow, At: p.At}
	table := c.scope.table(c.scope.Row)
	names := p.Names
	switch first := names[0]; {
	case first.Bracketed:
	case first.Text == "me":
		if c.scope.Me == "" {
			return nil, errorAt(first.At, "Nobody is signed in here, so there is no \"me\".")
		}
		n.Root, table = RootMe, c.scope.table(c.scope.Me)
		c.out.UsesMe = true
		names = names[1:]
	case first.Text == "page":
		if c.scope.Page == "" {
			return nil, errorAt(first.At, "This page is not about one record, so there is no \"page.record\".")
		}
		if len(names) < 2 || names[1].Text != "record" {
			return nil, errorAt(first.At, "Write page.record for the record that the page is about.")
		}
		n.Root, table = RootPage, c.scope.table(c.scope.Page)
		names = names[2:]
	case first.Text == "this":
		names = names[1:]
	}
	if table == nil && len(names) == 0 {
		return nil, errorAt(p.At, "There is no record in hand here.")
	}
	if table == nil {
		return nil, errorAt(names[0].At, "There is no record in hand here, so %q means nothing.", names[0].Text)
	}
	n.Type = Type{Kind: Record, Table: table.ID}
	for i, name := range names {
		if n.Type.Kind != Record {
			return nil, errorAt(name.At, "%s is not a link, so nothing can follow it.", n.Path[i-1].Name)
		}
		table = c.scope.table(n.Type.Table)
		f, err := c.field(table, name, n.Root == RootRow && i == 0)
		if err != nil {
			return nil, err
		}
		n.Path = append(n.Path, f)
		n.Type = f.Type
		c.out.Refs = append(c.out.Refs, Ref{Table: table.ID, Field: f.ID, Bracketed: name.Bracketed, At: name.At})
	}
	return n, nil
}

func (c *checker) field(t *Table, name Name, bare bool) (*Field, *Error) {
	var keys []string
	for _, f := range t.Fields {
		if (name.Bracketed && strings.EqualFold(f.Name, name.Text)) || (!name.Bracketed && strings.EqualFold(f.Key, name.Text)) {
			return f, nil
		}
		if name.Bracketed {
			keys = append(keys, f.Name)
		} else {
			keys = append(keys, f.Key)
		}
	}
	if bare && c.scope.Me != "" {
		keys = append(keys, "me")
	}
	err := errorAt(name.At, "There is no %s in %s.", name.Text, t.Name)
	if near := closest(name.Text, keys); near != "" {
		err.Suggestion = fmt.Sprintf("Did you mean %s?", near)
	}
	return nil, err
}

func (c *checker) unary(u *Unary) (*Node, *Error) {
	x, err := c.node(u.X)
	if err != nil {
		return nil, err
	}
	op, want := OpNeg, Type{Kind: Number}
	if u.Op == "not" {
		op, want = OpNot, Type{Kind: YesNo}
	}
	x, err = c.want(x, want, u.Op)
	if err != nil {
		return nil, err
	}
	return &Node{Op: op, Type: want, Args: []*Node{x}, At: u.At}, nil
}

// want converts a node to the type where that loses nothing, or says why not.
func (c *checker) want(n *Node, want Type, op string) (*Node, *Error) {
	if got, ok := coerce(c.scope, n, want); ok {
		return got, nil
	}
	return nil, errorAt(n.At, "%q needs %s here; this is %s.", op, describe(c.scope, want), describe(c.scope, n.Type))
}

func (c *checker) binary(b *Binary) (*Node, *Error) {
	x, err := c.node(b.X)
	if err != nil {
		return nil, err
	}
	y, err := c.node(b.Y)
	if err != nil {
		return nil, err
	}
	n := &Node{Op: Op(b.Op), At: b.At}
	switch n.Op {
	case OpAnd, OpOr:
		n.Type = Type{Kind: YesNo}
	case OpAdd, OpSub, OpMul, OpDiv:
		n.Type = Type{Kind: Number}
	case OpJoin:
		n.Type = Type{Kind: Text}
		for _, a := range []*Node{x, y} {
			if !textable(a.Type) {
				return nil, errorAt(a.At, "%q joins texts; this is %s. Name one of its fields instead.", b.Op, describe(c.scope, a.Type))
			}
			n.Args = append(n.Args, toText(a))
		}
		return n, nil
	default:
		n.Type = Type{Kind: YesNo}
		n.Args, err = c.comparable(n.Op, x, y)
		return n, err
	}
	for _, a := range []*Node{x, y} {
		a, err = c.want(a, n.Type, b.Op)
		if err != nil {
			return nil, err
		}
		n.Args = append(n.Args, a)
	}
	return n, nil
}

// comparable brings both sides of a comparison to one type.
func (c *checker) comparable(op Op, x, y *Node) ([]*Node, *Error) {
	for _, side := range []struct{ lit, of *Node }{{x, y}, {y, x}} {
		if err := c.notAChoice(side.lit, side.of); err != nil {
			return nil, err
		}
	}
	cx, cy := x, y
	ok := true
	if x.Type != y.Type {
		if cy, ok = coerce(c.scope, y, x.Type); !ok || x.Type.Kind == None {
			cy = y
			cx, ok = coerce(c.scope, x, y.Type)
		}
	}
	if !ok {
		return nil, errorAt(Span{x.At.Start, y.At.End}, "%s cannot be compared with %s.", capital(describe(c.scope, x.Type)), describe(c.scope, y.Type))
	}
	if op != OpEq && op != OpNe {
		switch cx.Type.Kind {
		case YesNo, Record, Choice:
			return nil, errorAt(Span{x.At.Start, y.At.End}, "%q needs numbers, dates or texts; this is %s. Use = or <>.", op, describe(c.scope, cx.Type))
		}
	}
	return []*Node{cx, cy}, nil
}

// notAChoice refuses a text that is compared with a choice of whose list it is
// not part.
func (c *checker) notAChoice(lit, of *Node) *Error {
	if of.Type.Kind != Choice || lit.Op != OpConst || lit.Type.Kind != Text {
		return nil
	}
	list := c.scope.Catalog.Lists[of.Type.List]
	if _, ok := coerce(c.scope, lit, of.Type); ok || list == nil {
		return nil
	}
	var labels []string
	for _, ch := range list.Choices {
		labels = append(labels, ch.Label)
	}
	err := errorAt(lit.At, "%q is no choice of %s.", lit.Value.Text, list.Name)
	if near := closest(lit.Value.Text, labels); near != "" {
		err.Suggestion = fmt.Sprintf("Did you mean %q?", near)
	} else if len(labels) > 0 && len(labels) <= 8 {
		err.Suggestion = "The choices are: " + strings.Join(labels, ", ") + "."
	}
	return err
}

func (c *checker) call(call *Call) (*Node, *Error) {
	f, ok := functions[call.Name]
	if !ok {
		err := errorAt(call.NameAt, "There is no function %s.", call.Name)
		if near := closest(call.Name, functionNames()); near != "" {
			err.Suggestion = fmt.Sprintf("Did you mean %s?", near)
		}
		return nil, err
	}
	if len(call.Args) < f.min || len(call.Args) > f.max {
		return nil, errorAt(call.At, "%s is written %s.", call.Name, f.usage)
	}
	n := &Node{Op: OpCall, Func: call.Name, At: call.At}
	for _, a := range call.Args {
		x, err := c.node(a)
		if err != nil {
			return nil, err
		}
		n.Args = append(n.Args, x)
	}
	return n, f.check(c, n)
}

// coerce gives the node as the type, where it is of it already, is empty, or
// is a literal text that is a choice's label.
func coerce(s Scope, n *Node, want Type) (*Node, bool) {
	if n.Type == want {
		return n, true
	}
	if n.Type.Kind == None {
		v := Empty()
		if want.Kind == YesNo {
			v = YesNoOf(false)
		}
		return &Node{Op: OpConst, Type: want, Value: v, At: n.At}, want.Kind != None
	}
	if want.Kind == Choice && n.Op == OpConst && n.Type.Kind == Text && s.Catalog != nil && s.Catalog.Lists[want.List] != nil {
		for _, ch := range s.Catalog.Lists[want.List].Choices {
			if ch.Label == n.Value.Text {
				return &Node{Op: OpConst, Type: want, Value: ChoiceOf(ch.ID), At: n.At}, true
			}
		}
	}
	return n, false
}

func textable(t Type) bool {
	switch t.Kind {
	case Text, Number, Date, Choice, None:
		return true
	}
	return false
}

func toText(n *Node) *Node {
	switch n.Type.Kind {
	case Text:
		return n
	case None:
		return &Node{Op: OpConst, Type: Type{Kind: Text}, At: n.At}
	}
	return &Node{Op: OpToText, Type: Type{Kind: Text}, Args: []*Node{n}, At: n.At}
}

func capital(s string) string {
	if s == "" {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}
