package expr

import "slices"

// Env gives the evaluator the values that references stand for.
type Env interface {
	// Start gives the record at a root, or empty.
	Start(root Root) Value
	// Field gives a field of a record; for links to many, a list of records.
	Field(record Value, f *Field) Value
	// Records lists the records of a table in the order of making.
	Records(table string) []Value
	// Label gives the text by which a record is known.
	Label(table string, record Value) Value
	// Clock says what time it is.
	Clock() Clock
}

// Holding is an environment with a record in hand.
type Holding struct {
	Env
	Record Value
}

// Start gives the record at a root.
func (h Holding) Start(root Root) Value {
	if root == RootRow {
		return h.Record
	}
	return h.Env.Start(root)
}

type evaluator struct {
	env     Env
	catalog *Catalog
	rows    []Value // the records in hand inside of lists, the outermost first
}

// Eval computes the value of a checked expression. It never fails: what cannot
// be computed is empty.
func Eval(c *Checked, catalog *Catalog, env Env) Value {
	return (&evaluator{env: env, catalog: catalog}).eval(c.Root)
}

func (e *evaluator) clock() Clock { return e.env.Clock() }

func (e *evaluator) eval(n *Node) Value {
	switch n.Op {
	case OpConst:
		return n.Value
	case OpRef:
		return e.follow(e.start(n), n)
	case OpStep:
		return e.follow(e.eval(n.Args[0]), &Node{Path: []*Field{n.Field}, Type: n.Type})
	case OpCall:
		return functions[n.Func].call(e, n)
	case OpColumn:
		return e.column(n)
	case OpAll:
		return ListValue(e.env.Records(n.Type.Table))
	case OpFlat, OpMap, OpFilter, OpSort:
		return e.list(n)
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
		return e.textOf(e.eval(n.Args[0]), n.Args[0].Type)
	case OpToDate:
		if x := e.eval(n.Args[0]); !x.IsEmpty() {
			return dateOf(e.clock().Local(instant(x)))
		}
		return Empty()
	case OpJoin:
		return TextOf(e.eval(n.Args[0]).Text + e.eval(n.Args[1]).Text)
	case OpAdd, OpSub, OpMul, OpDiv:
		return arithmetic(n.Op, e.eval(n.Args[0]), e.eval(n.Args[1]))
	}
	return YesNoOf(compareOp(n.Op, e.eval(n.Args[0]), e.eval(n.Args[1])))
}

func (e *evaluator) start(n *Node) Value {
	if n.Root == RootRow && n.Level > 0 {
		return e.rows[n.Level-1]
	}
	return e.env.Start(n.Root)
}

// follow gives what stands at the end of a path from a record.
func (e *evaluator) follow(v Value, n *Node) Value {
	for _, f := range n.Path {
		if v.IsEmpty() {
			break
		}
		v = e.env.Field(v, f)
	}
	if n.Type == (Type{Kind: YesNo}) {
		return YesNoOf(v.True())
	}
	return v
}

func (e *evaluator) column(n *Node) Value {
	out := Empty()
	if l := e.catalog.Lists[n.Args[0].Type.List]; l != nil {
		out = l.Value(e.eval(n.Args[0]).Text, n.Column)
	}
	if n.Type.Kind == YesNo {
		return YesNoOf(out.True())
	}
	return out
}

// each computes a body for each record.
func (e *evaluator) each(items []Value, body *Node, use func(i int, v Value)) {
	for i, x := range items {
		e.rows = append(e.rows, x)
		use(i, e.eval(body))
		e.rows = e.rows[:len(e.rows)-1]
	}
}

func (e *evaluator) list(n *Node) Value {
	items := e.eval(n.Args[0]).Items
	var out []Value
	switch n.Op {
	case OpFlat:
		for _, x := range items {
			out = append(out, e.env.Field(x, n.Field).Items...)
		}
	case OpMap:
		e.each(items, n.Body, func(_ int, v Value) { out = append(out, v) })
	case OpFilter:
		e.each(items, n.Body, func(i int, v Value) {
			if v.True() {
				out = append(out, items[i])
			}
		})
	case OpSort:
		out = e.sorted(items, n)
	}
	return ListValue(out)
}

// sorted puts records without a key last.
func (e *evaluator) sorted(items []Value, n *Node) []Value {
	type keyed struct{ item, key Value }
	list := make([]keyed, len(items))
	for i, x := range items {
		list[i] = keyed{x, x}
	}
	if n.Body != nil {
		e.each(items, n.Body, func(i int, v Value) { list[i].key = v })
	}
	slices.SortStableFunc(list, func(a, b keyed) int {
		switch {
		case a.key.IsEmpty() || b.key.IsEmpty():
			return boolInt(a.key.IsEmpty()) - boolInt(b.key.IsEmpty())
		case n.Func == "falling":
			return compare(b.key, a.key)
		}
		return compare(a.key, b.key)
	})
	out := make([]Value, len(list))
	for i, k := range list {
		out[i] = k.item
	}
	return out
}

// all gives the items of a list, or several values that are filled.
func (e *evaluator) all(args []*Node) Value {
	if args[0].Type.Many {
		return e.eval(args[0])
	}
	var out []Value
	for _, a := range args {
		out = append(out, e.eval(a))
	}
	return ListValue(out)
}

// textOf gives a value as it stands in a text.
func (e *evaluator) textOf(v Value, t Type) Value {
	switch v.Kind {
	case Choice:
		if list := e.catalog.Lists[t.List]; list != nil {
			return TextOf(list.Label(v.Text))
		}
	case Time:
		return TextOf(e.clock().Local(instant(v)).Format("2006-01-02 15:04"))
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
	return NumberOf(x.Num.DivRound(y.Num, places))
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
