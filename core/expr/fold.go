package expr

// Fold computes those pieces of an expression that are made of the answers of a form and of
// no record in hand, so that what is left can be asked of a database.
func Fold(c *Checked, catalog *Catalog, env Env) *Checked {
	out := *c
	out.Root = (&folder{env, catalog}).fold(c.Root, 0)
	return &out
}

type folder struct {
	env     Env
	catalog *Catalog
}

// fold computes what it can of a node that stands inside of so many lists.
func (f *folder) fold(n *Node, inside int) *Node {
	if n == nil {
		return nil
	}
	if n.names(RootAnswers, -1) && !n.names(RootRow, inside) && !n.Type.Many {
		e := &evaluator{env: f.env, catalog: f.catalog, rows: make([]Value, inside)}
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

// names tells whether something in the node starts at a root; of a record in hand, at one that is
// so inside of at most so many lists, as those of lists in the node itself are further in.
func (n *Node) names(root Root, level int) bool {
	if n == nil {
		return false
	}
	if n.Op == OpRef && n.Root == root && (level < 0 || n.Level <= level) || n.Body.names(root, level) {
		return true
	}
	for _, a := range n.Args {
		if a.names(root, level) {
			return true
		}
	}
	return false
}
