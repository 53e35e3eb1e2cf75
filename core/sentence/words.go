package sentence

import (
	"strings"

	"pinegate/core/expr"
)

// conditionWords tells a condition in words: owner = me becomes "Owner is the
// signed-in person". What cannot be read is told as it is written.
func conditionWords(src string, scope expr.Scope) []Part {
	c, err := expr.CheckCondition(src, scope)
	if err != nil {
		return []Part{{Text: src}}
	}
	w := &worder{catalog: scope.Catalog, inner: scope.Inner != ""}
	w.node(c.Root, false)
	return w.parts
}

// expressionWords tells an expression of a type, or of any for the zero type.
func expressionWords(src string, scope expr.Scope, want expr.Type) []Part {
	c, err := check(src, scope, want)
	if err != nil {
		return []Part{{Text: src}}
	}
	w := &worder{catalog: scope.Catalog, inner: scope.Inner != ""}
	w.node(c.Root, false)
	return w.parts
}

func check(src string, scope expr.Scope, want expr.Type) (*expr.Checked, error) {
	if want == (expr.Type{}) {
		return expr.Check(src, scope)
	}
	return expr.CheckAs(src, scope, want)
}

// labelWords tells what a label is made of, without signs between: Name
// (Registration).
func labelWords(src string, scope expr.Scope) []Part {
	c, err := expr.CheckAs(src, scope, expr.Type{Kind: expr.Text})
	if err != nil {
		return []Part{{Text: src}}
	}
	w := &worder{catalog: scope.Catalog}
	w.joined(c.Root)
	return w.parts
}

func (w *worder) joined(n *expr.Node) {
	switch {
	case n.Op == expr.OpJoin:
		for _, a := range n.Args {
			w.joined(a)
		}
	case n.Op == expr.OpToText:
		w.joined(n.Args[0])
	case n.Op == expr.OpConst && n.Type.Kind == expr.Text:
		w.say(n.Value.Text)
	default:
		w.node(n, true)
	}
}

// templateWords tells a text with placeholders.
func templateWords(src string, scope expr.Scope) []Part {
	t, err := expr.CheckTemplate(src, scope)
	if err != nil {
		return []Part{{Text: src}}
	}
	w := &worder{catalog: scope.Catalog}
	for _, piece := range t {
		if piece.Expression == nil {
			w.say(piece.Text)
		} else {
			w.node(piece.Expression.Root, true)
		}
	}
	return w.parts
}

type worder struct {
	catalog *expr.Catalog
	inner   bool // it is about records of a list, so that the record outside is told as such
	parts   []Part
}

func (w *worder) say(s string) { w.parts = append(w.parts, Part{Text: s}) }

var comparisonWords = map[expr.Op]string{
	expr.OpEq: " is ", expr.OpNe: " is not ", expr.OpLt: " is less than ", expr.OpLe: " is at most ",
	expr.OpGt: " is more than ", expr.OpGe: " is at least ", expr.OpAnd: " and ", expr.OpOr: " or ",
	expr.OpAdd: " + ", expr.OpSub: " − ", expr.OpMul: " × ", expr.OpDiv: " ÷ ", expr.OpJoin: " & ",
}

var dateWords = map[expr.Op]string{
	expr.OpLt: " is before ", expr.OpLe: " is not after ", expr.OpGt: " is after ", expr.OpGe: " is not before ",
}

func (w *worder) node(n *expr.Node, inside bool) {
	switch n.Op {
	case expr.OpConst:
		w.constant(n)
	case expr.OpRef:
		w.ref(n)
		if n.Type.Kind == expr.YesNo && !inside {
			w.say(" is yes")
		}
	case expr.OpToText:
		w.node(n.Args[0], inside)
	case expr.OpNot:
		if x := n.Args[0]; x.Op == expr.OpRef {
			w.ref(x)
			w.say(" is no")
			return
		}
		w.say("not ")
		w.node(n.Args[0], true)
	case expr.OpNeg:
		w.say("−")
		w.node(n.Args[0], true)
	case expr.OpCall:
		w.call(n)
	case expr.OpToDate:
		w.node(n.Args[0], inside)
	case expr.OpStep, expr.OpFlat, expr.OpMap, expr.OpColumn:
		w.possessive(n)
	case expr.OpAll:
		w.say("all ")
		w.parts = append(w.parts, named(w.catalog.Tables[n.Type.Table].Name, n.Type.Table))
	case expr.OpFilter:
		w.node(n.Args[0], true)
		w.say(" where ")
		w.node(n.Body, true)
	case expr.OpSort:
		w.node(n.Args[0], true)
		w.say(" by size")
		if n.Body != nil {
			w.parts[len(w.parts)-1].Text = " by "
			w.node(n.Body, true)
		}
		if n.Func != "" {
			w.say(", largest first")
		}
	default:
		w.binary(n, inside)
	}
}

func (w *worder) binary(n *expr.Node, inside bool) {
	word := comparisonWords[n.Op]
	if d, ok := dateWords[n.Op]; ok && n.Args[0].Type.Kind == expr.Date {
		word = d
	}
	if inside {
		w.say("(")
	}
	for i, a := range n.Args {
		if i == 1 {
			w.say(word)
		}
		w.node(a, a.Op == expr.OpRef && comparison(n.Op) || a.Op != n.Op &&
			(a.Op == expr.OpAnd || a.Op == expr.OpOr || len(a.Args) == 2 && a.Op != expr.OpCall && !comparison(a.Op)))
	}
	if inside {
		w.say(")")
	}
}

func comparison(op expr.Op) bool {
	switch op {
	case expr.OpEq, expr.OpNe, expr.OpLt, expr.OpLe, expr.OpGt, expr.OpGe:
		return true
	}
	return false
}

func (w *worder) constant(n *expr.Node) {
	switch {
	case n.Type.Kind == expr.YesNo && n.Value.Yes:
		w.say("yes")
	case n.Type.Kind == expr.YesNo:
		w.say("no")
	case n.Value.IsEmpty():
		w.say("empty")
	case n.Type.Kind == expr.Choice:
		label := n.Value.Text
		if l := w.catalog.Lists[n.Type.List]; l != nil {
			label = l.Label(n.Value.Text)
		}
		w.parts = append(w.parts, named("“"+label+"”", n.Value.Text))
	case n.Type.Kind == expr.Number:
		w.say(n.Value.String())
	default:
		w.say("“" + n.Value.Text + "”")
	}
}

// ref tells a path: Owner; Owner’s Name; the signed-in person.
func (w *worder) ref(n *expr.Node) {
	possessive := ""
	switch {
	case n.Root == expr.RootMe:
		w.say("the signed-in person")
		possessive = "’s "
	case n.Root == expr.RootPage:
		w.say("this page’s record")
		possessive = "’s "
	case n.Root == expr.RootKept:
		w.say("the kept ")
	case n.Root == expr.RootVars:
		w.say("the part’s ")
	case n.Root == expr.RootMade:
		w.say("the ")
	case n.Root == expr.RootWas:
		w.say("the former ")
	case len(n.Path) == 0 && given(n):
		return
	case len(n.Path) == 0:
		w.say("this record")
	case w.inner && n.Root == expr.RootRow && n.Level == 0:
		w.say("this record")
		possessive = "’s "
	}
	for _, f := range n.Path {
		w.say(possessive)
		w.parts = append(w.parts, named(f.Name, f.ID))
		possessive = genitive(f)
	}
}

// genitive stands between a field and what is told of it: of several, after whose name an s stands, only the apostrophe.
func genitive(f *expr.Field) string {
	if f.Type.Many && strings.HasSuffix(f.Name, "s") {
		return "’ "
	}
	return "’s "
}

// genitiveOf is that of what a node gives.
func genitiveOf(n *expr.Node) string {
	switch path := n.Path; {
	case n.Op == expr.OpRef && len(path) > 0:
		return genitive(path[len(path)-1])
	case n.Field != nil:
		return genitive(n.Field)
	}
	return "’s "
}

// given tells whether a node is what holds values that are given, of which one is named.
func given(n *expr.Node) bool {
	switch n.Root {
	case expr.RootKept, expr.RootVars, expr.RootMade, expr.RootWas, expr.RootAnswers:
		return n.Op == expr.OpRef && len(n.Path) == 0
	}
	return false
}

// possessive tells something of a record, of each record, or of a choice.
func (w *worder) possessive(n *expr.Node) {
	w.node(n.Args[0], true)
	of := genitiveOf(n.Args[0])
	if n.Field != nil && !given(n.Args[0]) {
		w.say(of)
	}
	switch {
	case n.Op == expr.OpMap && n.Body.Op != expr.OpRef:
		w.say(": ")
		w.node(n.Body, true)
	case n.Op == expr.OpMap:
		for _, f := range n.Body.Path {
			w.say(of)
			w.parts = append(w.parts, named(f.Name, f.ID))
			of = genitive(f)
		}
	case n.Op == expr.OpColumn:
		w.say(of)
		if l := w.catalog.Lists[n.Args[0].Type.List]; l != nil {
			for _, col := range l.Columns {
				if col.ID == n.Column {
					w.parts = append(w.parts, named(col.Name, col.ID))
				}
			}
		}
	default:
		w.parts = append(w.parts, named(n.Field.Name, n.Field.ID))
	}
}

func (w *worder) call(n *expr.Node) {
	switch n.Func {
	case "TODAY":
		w.say("today")
	case "ISBLANK":
		w.node(n.Args[0], true)
		w.say(" is empty")
	default:
		w.say(n.Func + "(")
		for i, a := range n.Args {
			if i > 0 {
				w.say(", ")
			}
			w.node(a, false)
		}
		w.say(")")
	}
}

// Condition tells a condition as plain words.
func Condition(src string, scope expr.Scope) string { return plain(conditionWords(src, scope)) }

// Words tells a checked expression as plain words.
func Words(c *expr.Checked, catalog *expr.Catalog) string {
	w := &worder{catalog: catalog}
	w.node(c.Root, false)
	return plain(w.parts)
}
