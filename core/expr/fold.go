package expr

// Fold computes those pieces of an expression that are made of the answers of a form and of
// no record in hand, so that what is left can be asked of a database.
func Fold(c *Checked, catalog *Catalog, env Env) *Checked {
	e, out := &evaluator{env: env, catalog: catalog}, *c
	out.Root = c.Root.replaced(func(n *Node) *Node {
		if !n.names(RootAnswers) || n.names(RootRow) || n.Type.Many {
			return nil
		}
		return &Node{Op: OpConst, Type: n.Type, Value: e.eval(n), At: n.At}
	})
	return &out
}

// names tells whether something in the node starts at a root.
func (n *Node) names(root Root) bool {
	if n == nil {
		return false
	}
	if n.Op == OpRef && n.Root == root || n.Body.names(root) {
		return true
	}
	for _, a := range n.Args {
		if a.names(root) {
			return true
		}
	}
	return false
}
