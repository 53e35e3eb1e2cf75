package expr

import (
	"strings"
)

// Type is the type of the expression's value.
func (c *Checked) Type() Type { return c.Root.Type }

type checker struct {
	scope Scope
	out   *Checked
	rows  []string // ids of the tables of the records in hand, the outermost first
}

// Check parses the source and resolves names and types in the scope. The
// error, if any, is an [*Error].
func Check(src string, scope Scope) (*Checked, error) {
	syntax, err := Parse(src)
	if err != nil {
		return nil, err
	}
	c := &checker{scope: scope, out: &Checked{Source: src}, rows: []string{scope.Row}}
	if scope.Inner != "" {
		c.rows = append(c.rows, scope.Inner)
	}
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
		return nil, errorAt(c.Root.At, "expr-condition", "type", describe(scope, c.Root.Type))
	}
	return nil, errorAt(c.Root.At, "expr-type", "want", describe(scope, want), "type", describe(scope, c.Root.Type))
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
	case *Step:
		x, err := c.node(s.X)
		if err != nil {
			return nil, err
		}
		return c.steps(x, s.Names, false)
	case *Unary:
		return c.unary(s)
	case *Binary:
		return c.binary(s)
	case *Call:
		return c.call(s)
	}
	return nil, errorAt(s.Span(), "expr-unknown")
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
	return c.fold(&Node{Op: op, Type: want, Args: []*Node{x}, At: u.At}), nil
}

// want converts a node to the type where that loses nothing, or says why not.
func (c *checker) want(n *Node, want Type, op string) (*Node, *Error) {
	if got, ok := coerce(c.scope, n, want); ok {
		return got, nil
	}
	return nil, errorAt(n.At, "expr-needs", "sign", string(op), "want", describe(c.scope, want), "type", describe(c.scope, n.Type))
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
	if err := c.operands(n, x, y); err != nil {
		return nil, err
	}
	return c.fold(n), nil
}

// operands brings both sides of an operator to the types that it needs.
func (c *checker) operands(n, x, y *Node) *Error {
	var err *Error
	switch n.Op {
	case OpAnd, OpOr:
		n.Type = Type{Kind: YesNo}
	case OpAdd, OpSub, OpMul, OpDiv:
		n.Type = Type{Kind: Number}
		if err := c.notADate(n.Op, x, y); err != nil {
			return err
		}
	case OpJoin:
		n.Type = Type{Kind: Text}
	default:
		n.Type = Type{Kind: YesNo}
		n.Args, err = c.comparable(n.Op, x, y)
		return err
	}
	for _, a := range []*Node{x, y} {
		if n.Op == OpJoin {
			a, err = c.asText(a, "&")
		} else {
			a, err = c.want(a, n.Type, string(n.Op))
		}
		if err != nil {
			return err
		}
		n.Args = append(n.Args, a)
	}
	return nil
}

// notADate tells how to reckon with dates, which + and - do not do.
func (c *checker) notADate(op Op, x, y *Node) *Error {
	for _, a := range []*Node{x, y} {
		if a.Type.Many || a.Type.Kind != Date && a.Type.Kind != Time {
			continue
		}
		err := errorAt(a.At, "expr-needs-numbers", "sign", string(op), "type", describe(c.scope, a.Type))
		if op == OpSub && y.Type.Kind == x.Type.Kind {
			err.hint("expr-use-days")
		} else {
			err.hint("expr-use-adddays")
		}
		return err
	}
	return nil
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
	if cx.Type.Many || cy.Type.Many {
		return nil, errorAt(Span{x.At.Start, y.At.End}, "expr-list-compared")
	}
	if !ok {
		return nil, errorAt(Span{x.At.Start, y.At.End}, "expr-compared", "left", describe(c.scope, x.Type), "right",
			describe(c.scope, y.Type))
	}
	if op != OpEq && op != OpNe {
		switch cx.Type.Kind {
		case YesNo, Record, Choice, File:
			return nil, errorAt(Span{x.At.Start, y.At.End}, "expr-no-order", "sign", string(op), "type", describe(c.scope, cx.Type))
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
	err := errorAt(lit.At, "expr-no-choice", "value", lit.Value.Text, "list", list.Name)
	if near := closest(lit.Value.Text, labels); near != "" {
		err.hint("expr-near-text", "near", near)
	} else if len(labels) > 0 && len(labels) <= 8 {
		err.hint("expr-choices", "choices", strings.Join(labels, ", "))
	}
	return err
}

func (c *checker) call(call *Call) (*Node, *Error) {
	f, ok := functions[call.Name]
	if !ok {
		err := errorAt(call.NameAt, "expr-no-function", "name", call.Name)
		if near := closest(call.Name, functionNames()); near != "" {
			err.hint("expr-near", "near", near)
		}
		return nil, err
	}
	n := &Node{Op: OpCall, Func: call.Name, At: call.At}
	if f.rows != nil {
		return f.rows(c, call)
	}
	if len(call.Args) < f.least() || len(call.Args) > f.most() {
		return nil, errorAt(call.At, "expr-usage", "name", call.Name, "usage", f.usage)
	}
	for _, a := range call.Args {
		x, err := c.node(a)
		if err != nil {
			return nil, err
		}
		n.Args = append(n.Args, x)
	}
	check := f.check
	if check == nil {
		check = f.checkParams
	}
	if err := check(c, n); err != nil {
		return nil, err
	}
	return c.fold(n), nil
}

// fold computes what depends on nothing.
func (c *checker) fold(n *Node) *Node {
	if n.Op == OpCall && functions[n.Func].changes || n.Type.Many || n.Body != nil || len(n.Args) == 0 {
		return n
	}
	for _, a := range n.Args {
		if a.Op != OpConst || a.Type.Kind == Choice {
			return n
		}
	}
	v := (&evaluator{catalog: c.scope.Catalog}).eval(n)
	return &Node{Op: OpConst, Type: n.Type, Value: v, At: n.At}
}
