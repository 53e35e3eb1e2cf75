package expr

// Env gives the evaluator the values that references stand for.
type Env interface {
	// Ref gives the value at the end of the path from the root, empty where
	// a link on the way is empty.
	Ref(root Root, path []*Field) Value
	// Today is the current date of the app as ISO 8601.
	Today() string
}

type evaluator struct {
	env     Env
	catalog *Catalog
}

// Eval computes the value of a checked expression. It never fails: what cannot
// be computed is empty.
func Eval(c *Checked, catalog *Catalog, env Env) Value {
	return (&evaluator{env: env, catalog: catalog}).eval(c.Root)
}

func (e *evaluator) eval(n *Node) Value {
	switch n.Op {
	case OpConst:
		return n.Value
	case OpRef:
		v := e.env.Ref(n.Root, n.Path)
		if n.Type.Kind == YesNo {
			return YesNoOf(v.True())
		}
		return v
	case OpCall:
		return functions[n.Func].eval(e, n)
	case OpNot:
		return YesNoOf(!e.eval(n.Args[0]).True())
	case OpAnd:
		return YesNoOf(e.eval(n.Args[0]).True() && e.eval(n.Args[1]).True())
	case OpOr:
		return YesNoOf(e.eval(n.Args[0]).True() || e.eval(n.Args[1]).True())
	case OpNeg:
		if x := e.eval(n.Args[0]); !x.IsEmpty() {
			return NumberOf(x.Num.Neg())
		}
		return Empty()
	case OpToText:
		return e.text(n.Args[0])
	case OpJoin:
		return TextOf(e.eval(n.Args[0]).Text + e.eval(n.Args[1]).Text)
	case OpAdd, OpSub, OpMul, OpDiv:
		return arithmetic(n.Op, e.eval(n.Args[0]), e.eval(n.Args[1]))
	}
	return YesNoOf(compareOp(n.Op, e.eval(n.Args[0]), e.eval(n.Args[1])))
}

func (e *evaluator) text(n *Node) Value {
	v := e.eval(n)
	if v.Kind == Choice {
		if list := e.catalog.Lists[n.Type.List]; list != nil {
			return TextOf(list.Label(v.Text))
		}
		return Empty()
	}
	return TextOf(v.String())
}

func arithmetic(op Op, x, y Value) Value {
	if x.IsEmpty() && y.IsEmpty() {
		return Empty()
	}
	if x.IsEmpty() || y.IsEmpty() {
		switch {
		case op == OpMul || op == OpDiv:
			return Empty()
		case y.IsEmpty():
			return x
		case op == OpAdd:
			return y
		default:
			return NumberOf(y.Num.Neg())
		}
	}
	switch op {
	case OpAdd:
		return NumberOf(x.Num.Add(y.Num))
	case OpSub:
		return NumberOf(x.Num.Sub(y.Num))
	case OpMul:
		return NumberOf(x.Num.Mul(y.Num))
	}
	if y.Num.IsZero() {
		return Empty()
	}
	return NumberOf(x.Num.DivRound(y.Num, divisionPlaces))
}

func compareOp(op Op, x, y Value) bool {
	switch op {
	case OpEq:
		return Equal(x, y)
	case OpNe:
		return !Equal(x, y)
	}
	if x.IsEmpty() || y.IsEmpty() {
		return false
	}
	d := compare(x, y)
	switch op {
	case OpLt:
		return d < 0
	case OpLe:
		return d <= 0
	case OpGt:
		return d > 0
	default:
		return d >= 0
	}
}
