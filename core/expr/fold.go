package expr

// Fold computes those pieces of an expression that are made of the answers of a form, or of what
// a workflow knows, and of no record in hand, so that what is left can be asked of a database.
func Fold(c *Checked, catalog *Catalog, env Env) *Checked {
	out := *c
	out.Root = (&folder{env, catalog, 0}).fold(c.Root, 0)
	return &out
}

// Ground makes of a condition about the records of a list (see [Scope].Inner) one over a record
// in hand: what it names of the record outside is computed.
func Ground(c *Checked, catalog *Catalog, env Env) *Checked {
	out := *c
	out.Root = lowered((&folder{env, catalog, 1}).fold(c.Root, 0))
	return &out
}

// Grounded tells whether [Ground] leaves nothing that a database would have to know from
// elsewhere, and where what it leaves stands.
func Grounded(c *Checked) (Span, bool) {
	n := (&folder{base: 1}).left(c.Root, 0)
	if n == nil {
		return Span{}, true
	}
	return n.At, false
}

// folder computes what does not depend on the record in hand, whose level is base.
type folder struct {
	env     Env
	catalog *Catalog
	base    int
}

// folds tells whether a node that stands inside of so many lists is computed.
func (f *folder) folds(n *Node, inside int) bool {
	return n.outside(f.base) && !n.namesRow(f.base, f.base+inside) && !n.Type.Many && !n.given()
}

// given tells whether the node is all that is given: what of it is meant is named by the node in
// which it stands.
func (n *Node) given() bool { return n.Op == OpRef && len(n.Path) == 0 && n.Root != RootRow }

// fold computes what it can of a node that stands inside of so many lists.
func (f *folder) fold(n *Node, inside int) *Node {
	if n == nil {
		return nil
	}
	if f.folds(n, inside) {
		e := &evaluator{env: f.env, catalog: f.catalog, rows: make([]Value, f.base+inside)}
		return &Node{Op: OpConst, Type: n.Type, Value: e.eval(n), At: n.At}
	}
	out := *n
	out.Body = f.fold(n.Body, inside+1)
	out.Args = make([]*Node, len(n.Args))
	for i, a := range n.Args {
		out.Args[i] = f.fold(a, inside)
	}
	return &out
}

// left finds a reference to what is outside that folding leaves, or nil.
func (f *folder) left(n *Node, inside int) *Node {
	switch {
	case n == nil || f.folds(n, inside):
		return nil
	case n.Op == OpRef && n.outside(f.base), n.Op == OpStep && n.Args[0].given() && n.outside(f.base):
		return n
	}
	for _, a := range n.Args {
		if x := f.left(a, inside); x != nil {
			return x
		}
	}
	return f.left(n.Body, inside+1)
}

// outside tells whether something in the node is known from elsewhere: answers, what a workflow
// knows, or a record in hand of a level under base.
func (n *Node) outside(base int) bool {
	if n == nil {
		return false
	}
	if n.Op == OpRef {
		switch n.Root {
		case RootAnswers, RootMade, RootWas:
			return true
		case RootRow:
			return n.Level < base
		}
	}
	if n.Body.outside(base) {
		return true
	}
	for _, a := range n.Args {
		if a.outside(base) {
			return true
		}
	}
	return false
}

// namesRow tells whether something in the node starts at a record in hand of a level from least
// to most; those of lists in the node itself are further in.
func (n *Node) namesRow(least, most int) bool {
	if n == nil {
		return false
	}
	if n.Op == OpRef && n.Root == RootRow && n.Level >= least && n.Level <= most || n.Body.namesRow(least, most) {
		return true
	}
	for _, a := range n.Args {
		if a.namesRow(least, most) {
			return true
		}
	}
	return false
}

// lowered is the node with each record in hand a level further out.
func lowered(n *Node) *Node {
	if n == nil {
		return nil
	}
	out := *n
	if out.Op == OpRef && out.Root == RootRow && out.Level > 0 {
		out.Level--
	}
	out.Body = lowered(n.Body)
	out.Args = make([]*Node, len(n.Args))
	for i, a := range n.Args {
		out.Args[i] = lowered(a)
	}
	return &out
}
