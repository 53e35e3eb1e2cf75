package expr

import (
	"strings"
)

// Told is a piece of an expression as people read it: words or, where there are none, a value.
type Told struct {
	Words string
	Value Value
	Type  Type
	Field *Field // that holds the value; nil for one that stands in the expression
}

// Names tells an expression with the names of what it looks at.
func Names(c *Checked, catalog *Catalog) []Told {
	t := teller{source: c.Source, catalog: catalog}
	return t.tell(c.Root, 0)
}

// Values tells an expression with what these are: of several ways the one that was taken.
func Values(c *Checked, catalog *Catalog, env Env) []Told {
	t := teller{source: c.Source, catalog: catalog, env: env}
	return t.tell(c.Root, 0)
}

// Zero tells by what the expression would divide that is 0, in names; "" where it would not. What a function takes
// that is there to make something of what is empty is not looked at.
func Zero(c *Checked, catalog *Catalog, env Env) string {
	t := teller{source: c.Source, catalog: catalog, env: env}
	if n := t.zero(c.Root); n != nil {
		return t.named(n.Args[1])
	}
	return ""
}

// Lacks tells what is empty, so that the expression is, in names; "" where it is not empty, or where nothing is by
// itself.
func Lacks(c *Checked, catalog *Catalog, env Env) string {
	t := teller{source: c.Source, catalog: catalog, env: env}
	if n := t.lacks(c.Root); n != nil && n.looks() {
		return t.named(n)
	}
	return ""
}

// teller tells an expression; with an environment, the values in it.
type teller struct {
	source  string
	catalog *Catalog
	env     Env
}

func (t teller) eval(n *Node) Value { return Eval(&Checked{Root: n}, t.catalog, t.env) }

// named is the node in names, as one text.
func (t teller) named(n *Node) string {
	var b strings.Builder
	for _, p := range (teller{source: t.source, catalog: t.catalog}).tell(n, 0) {
		if p.Words == "" {
			b.WriteString(p.Value.String())
		}
		b.WriteString(p.Words)
	}
	return b.String()
}

// signs are how people write what the language writes otherwise.
var signs = map[Op]string{OpMul: "×", OpDiv: "÷", OpSub: "−", OpNe: "≠", OpLe: "≤", OpGe: "≥"}

// looks tells whether a node looks something up, and calculates nothing that can be told.
func (n *Node) looks() bool {
	switch n.Op {
	case OpRef, OpStep, OpColumn, OpAll, OpFlat, OpMap, OpFilter, OpSort:
		return true
	case OpCall: // a total of a list, or the day that it is
		return len(n.Args) == 0 || n.Args[0].Type.Many
	}
	return false
}

// cases tells whether a node gives one of several values.
func (n *Node) cases() bool { return n.Op == OpCall && functions[n.Func].cases }

// taken gives the value of cases that counts, with the conditions that were asked.
func (t teller) taken(n *Node) (value *Node, asked []*Node) {
	i := 0
	for ; i+1 < len(n.Args); i += 2 {
		asked = append(asked, n.Args[i])
		if t.eval(n.Args[i]).True() {
			return n.Args[i+1], asked
		}
	}
	return n.Args[i], asked
}

func word(s string) []Told { return []Told{{Words: s}} }

// tell tells a node that stands where what binds weaker needs parentheses.
func (t teller) tell(n *Node, around int) []Told {
	switch {
	case n.Op == OpConst:
		return t.constant(n)
	case n.looks():
		return t.look(n)
	case n.Op == OpToText || n.Op == OpToDate:
		return t.tell(n.Args[0], around)
	case n.Op == OpNeg:
		return append(word("−"), t.tell(n.Args[0], precUnary)...)
	case n.Op == OpNot:
		return append(word("not "), t.tell(n.Args[0], precNot)...)
	case n.cases() && t.env != nil:
		value, _ := t.taken(n)
		return t.tell(value, around)
	case n.cases():
		return t.choice(n, around)
	case n.Op == OpCall:
		return t.call(n)
	}
	prec := binaryPrec[string(n.Op)]
	sign := signs[n.Op]
	if sign == "" {
		sign = string(n.Op)
	}
	right := prec
	if n.Op == OpSub || n.Op == OpDiv {
		right++
	}
	out := append(append(t.tell(n.Args[0], prec), Told{Words: " " + sign + " "}), t.tell(n.Args[1], right)...)
	if prec < around {
		out = append(append(word("("), out...), Told{Words: ")"})
	}
	return out
}

// choice tells cases as people say them: "a if x, b if y, otherwise c".
func (t teller) choice(n *Node, around int) []Told {
	var out []Told
	last := len(n.Args) - 1
	for i := 0; i < last; i += 2 {
		out = append(append(append(out, t.tell(n.Args[i+1], 0)...), Told{Words: " if "}), t.tell(n.Args[i], 0)...)
		out = append(out, Told{Words: ", "})
	}
	out = append(append(out, Told{Words: "otherwise "}), t.tell(n.Args[last], 0)...)
	if around > 0 {
		out = append(append(word("("), out...), Told{Words: ")"})
	}
	return out
}

func (t teller) call(n *Node) []Told {
	out := word(n.Func + "(")
	for i, a := range n.Args {
		if a.Op == OpConst && a.Value.IsEmpty() { // which was not written
			continue
		}
		if i > 0 {
			out = append(out, Told{Words: ", "})
		}
		out = append(out, t.tell(a, 0)...)
	}
	return append(out, Told{Words: ")"})
}

func (t teller) constant(n *Node) []Told {
	switch {
	case n.Value.IsEmpty():
		return word("nothing")
	case n.Type.Kind == Choice && t.catalog.Lists[n.Type.List] != nil:
		return word(t.catalog.Lists[n.Type.List].Label(n.Value.Text))
	case n.Type.Kind == Text:
		return word("“" + n.Value.Text + "”")
	}
	return []Told{{Value: n.Value, Type: n.Type}}
}

// look tells what a node looks up: by its name, or by its value, but for a list.
func (t teller) look(n *Node) []Told {
	if t.env == nil || n.Type.Many {
		return word(t.name(n))
	}
	var of *Field
	switch {
	case n.Op == OpRef && len(n.Path) > 0:
		of = n.Path[len(n.Path)-1]
	case n.Op == OpStep:
		of = n.Field
	}
	return []Told{{Value: t.eval(n), Type: n.Type, Field: of}}
}

// name is by what people know what a node looks up.
func (t teller) name(n *Node) string {
	switch {
	case n.Op == OpRef && len(n.Path) > 0:
		out := n.Path[len(n.Path)-1].Name
		for i := len(n.Path) - 2; i >= 0; i-- {
			out += " of " + n.Path[i].Name
		}
		return out
	case n.Op == OpStep:
		return n.Field.Name + " of " + t.name(n.Args[0])
	case n.Op == OpColumn:
		if l := t.catalog.Lists[n.Args[0].Type.List]; l != nil {
			for _, c := range l.Columns {
				if c.ID == n.Column {
					return c.Name + " of " + t.name(n.Args[0])
				}
			}
		}
	}
	if n.At.End <= len(t.source) && n.At.Start < n.At.End {
		return strings.ReplaceAll(t.source[n.At.Start:n.At.End], AnswersTable+".", "")
	}
	return n.Func
}

// zero finds the division by 0 that the value of a node rests on, or nil.
func (t teller) zero(n *Node) *Node {
	switch {
	case n.looks(), n.Op == OpCall && functions[n.Func].blanks:
		return nil
	case n.cases():
		value, asked := t.taken(n)
		for _, a := range append(asked, value) {
			if z := t.zero(a); z != nil {
				return z
			}
		}
		return nil
	}
	for _, a := range n.Args {
		if z := t.zero(a); z != nil {
			return z
		}
		if yes := a.Type.Kind == YesNo; yes && (n.Op == OpAnd && !t.eval(a).True() || n.Op == OpOr && t.eval(a).True()) {
			return nil // the other was not asked
		}
	}
	if n.Op != OpDiv {
		return nil
	}
	if by := t.eval(n.Args[1]); !by.IsEmpty() && by.Num.IsZero() {
		return n
	}
	return nil
}

// lacks finds what is empty, so that a node is, or nil.
func (t teller) lacks(n *Node) *Node {
	if !t.eval(n).IsEmpty() {
		return nil
	}
	if n.cases() {
		value, _ := t.taken(n)
		return t.lacks(value)
	}
	if !n.looks() {
		for _, a := range n.Args {
			if x := t.lacks(a); x != nil {
				return x
			}
		}
	}
	return n
}
