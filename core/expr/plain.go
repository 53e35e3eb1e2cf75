package expr

// Group is a plain condition: rows that must all hold, or of which one must.
// It is what people write who do not write expressions.
type Group struct {
	Any  bool  `json:"any"`
	Rows []Row `json:"rows"`
}

// Row is one comparison of a plain condition, or a group inside of it. Value is
// a number, a date or a text as it is written in an expression, without quotes.
type Row struct {
	Field    string   `json:"field,omitempty"` // the path, by keys
	Relation Relation `json:"relation,omitempty"`
	Value    string   `json:"value,omitempty"`
	Group    *Group   `json:"group,omitempty"`
}

// Relation says how a field is compared in a plain condition.
type Relation string

// The relations beside the operators of comparison.
const (
	IsFilled Relation = "filled"
	IsEmpty  Relation = "empty"
	IsYes    Relation = "yes"
	IsNo     Relation = "no"
	Contains Relation = "contains"
	IsMe     Relation = "me"
)

// mostPlain is how many rows a plain condition may have.
const mostPlain = 20

// Plain gives a condition as a group of comparisons, where it is no more than
// that.
func Plain(c *Checked, catalog *Catalog) (*Group, bool) {
	g := &Group{}
	if !g.add(c.Root, catalog, 0) || len(g.Rows) > mostPlain {
		return nil, false
	}
	return g, true
}

// add adds what a node says to the group.
func (g *Group) add(n *Node, catalog *Catalog, depth int) bool {
	if n.Op == OpAnd || n.Op == OpOr {
		isAny := n.Op == OpOr
		if len(g.Rows) == 0 && depth == 0 {
			g.Any = isAny
		}
		if g.Any == isAny {
			return g.add(n.Args[0], catalog, 1) && g.add(n.Args[1], catalog, 1)
		}
		if depth > 1 {
			return false
		}
		inner := &Group{Any: isAny}
		if !inner.add(n.Args[0], catalog, 2) || !inner.add(n.Args[1], catalog, 2) {
			return false
		}
		g.Rows = append(g.Rows, Row{Group: inner})
		return true
	}
	row, ok := plainRow(n, catalog)
	if ok {
		g.Rows = append(g.Rows, row)
	}
	return ok
}

func plainRow(n *Node, catalog *Catalog) (Row, bool) {
	switch {
	case n.Op == OpRef:
		path, ok := plainPath(n)
		return Row{Field: path, Relation: IsYes}, ok
	case n.Op == OpNot:
		path, ok := plainPath(n.Args[0])
		return Row{Field: path, Relation: IsNo}, ok
	case n.Op == OpCall && (n.Func == "ISBLANK" || n.Func == "CONTAINS"):
		path, ok := plainPath(n.Args[0])
		if n.Func == "ISBLANK" {
			return Row{Field: path, Relation: IsEmpty}, ok
		}
		return Row{Field: path, Relation: Contains, Value: n.Args[1].Value.Text}, ok && n.Args[1].Op == OpConst
	case len(n.Args) != 2 || binaryPrec[string(n.Op)] != precCompare:
		return Row{}, false
	}
	path, ok := plainPath(n.Args[0])
	right := n.Args[1]
	row := Row{Field: path, Relation: Relation(n.Op)}
	switch {
	case !ok:
		return row, false
	case right.Op == OpRef && right.Root == RootMe && len(right.Path) == 0 && n.Op == OpEq:
		row.Relation = IsMe
		return row, true
	case right.Op != OpConst:
		return row, false
	case right.Value.IsEmpty():
		row.Relation = map[Op]Relation{OpEq: IsEmpty, OpNe: IsFilled}[n.Op]
		return row, row.Relation != ""
	case right.Type.Kind == YesNo:
		row.Relation = map[bool]Relation{true: IsYes, false: IsNo}[right.Value.Yes == (n.Op == OpEq)]
		return row, true
	case right.Type.Kind == Choice:
		row.Value = catalog.Lists[right.Type.List].Label(right.Value.Text)
		return row, true
	}
	row.Value = right.Value.String()
	return row, right.Type.Kind == Text || right.Type.Kind == Number || right.Type.Kind == Date
}

// plainPath gives the path of a field of the record in hand, or of an answer, or of a value that is
// kept or given.
func plainPath(n *Node) (string, bool) {
	if n.Op != OpRef || n.Root == RootMe || n.Root == RootPage || n.Level != 0 || len(n.Path) == 0 || n.Type.Many {
		return "", false
	}
	path := ""
	if n.Root != RootRow {
		path = string(n.Root) + "."
	}
	for i, f := range n.Path {
		if i > 0 {
			path += "."
		}
		path += f.Key
	}
	return path, true
}
