package expr

// Ids of what stands for tables of values that are no records: those that are kept for
// somebody, those that are given to a part where it is used, the answers of a form, what the
// earlier steps of a workflow made, and what a record held before it was changed.
// Their fields are what can be named.
const (
	KeptTable    = "kept"
	VarsTable    = "vars"
	AnswersTable = "answers"
	MadeTable    = "made"
	WasTable     = "was"
)

// Named is a table of values that are no records, with the fields that can be named.
func Named(id, name string, fields []*Field) *Table {
	for _, f := range fields {
		f.Table = id
	}
	return &Table{ID: id, Key: id, Name: name, Fields: fields}
}

// replaced is the node with others in the places of those for which there are some.
func (n *Node) replaced(by func(*Node) *Node) *Node {
	if n == nil {
		return nil
	}
	if x := by(n); x != nil {
		return x
	}
	out := *n
	out.Body = n.Body.replaced(by)
	out.Args = make([]*Node, len(n.Args))
	for i, a := range n.Args {
		out.Args[i] = a.replaced(by)
	}
	return &out
}

// Bind puts what is given for the values of [VarsTable], by the ids of their fields, in
// their places. What is not given is empty.
func Bind(c *Checked, given map[string]*Checked) *Checked {
	out := *c
	out.Root = c.Root.replaced(func(n *Node) *Node {
		if n.Op != OpRef || n.Root != RootVars {
			return nil
		}
		if g := given[n.Path[0].ID]; g != nil {
			return g.Root
		}
		return n.emptied()
	})
	for _, g := range given {
		out.UsesMe = out.UsesMe || g.UsesMe
	}
	return &out
}

// emptied is an empty value instead of the node.
func (n *Node) emptied() *Node {
	empty := Empty()
	if n.Type.Kind == YesNo { // which is never empty
		empty = YesNoOf(false)
	}
	return &Node{Op: OpConst, Type: n.Type, Value: empty, At: n.At}
}

// OfNone makes of an expression over the record in hand one for which there is none: what it
// names of that is empty.
func OfNone(c *Checked) *Checked {
	out := *c
	out.Root = c.Root.replaced(func(n *Node) *Node {
		if n.Op != OpRef || n.Root != RootRow || n.Level != 0 {
			return nil
		}
		return n.emptied()
	})
	return &out
}

// OfPage makes of an expression over the record in hand one over that of the page.
func OfPage(c *Checked) *Checked {
	out := *c
	out.Root = c.Root.replaced(func(n *Node) *Node {
		if n.Op != OpRef || n.Root != RootRow || n.Level != 0 {
			return nil
		}
		of := *n
		of.Root = RootPage
		return &of
	})
	return &out
}

// Bind is [Bind] for each placeholder.
func (t Template) Bind(given map[string]*Checked) Template {
	return t.each(func(c *Checked) *Checked { return Bind(c, given) })
}

// Fold is [Fold] for each placeholder, in words of a page.
func (t Template) Fold(catalog *Catalog, env Env) Template {
	return t.each(func(c *Checked) *Checked { return Fold(OfPage(c), catalog, env) })
}

func (t Template) each(of func(*Checked) *Checked) Template {
	out := make(Template, len(t))
	for i, p := range t {
		if out[i] = p; p.Expression != nil {
			out[i].Expression = of(p.Expression)
		}
	}
	return out
}

// And is the condition that both hold; either may be nil.
func And(x, y *Checked) *Checked {
	if x == nil || y == nil {
		if x == nil {
			return y
		}
		return x
	}
	return &Checked{Root: &Node{Op: OpAnd, Type: Type{Kind: YesNo}, Args: []*Node{x.Root, y.Root}}, UsesMe: x.UsesMe || y.UsesMe}
}

// Kept lists the ids of the kept values that the expression names.
func (c *Checked) Kept() []string {
	var out []string
	for _, r := range c.Refs {
		if r.Table == KeptTable {
			out = append(out, r.Field)
		}
	}
	return out
}
