package expr

import (
	"fmt"
	"maps"
	"slices"
	"strings"
)

// Op says what a checked node does.
type Op string

// The operations of checked nodes. Comparison and arithmetic operators are
// held as they are written.
const (
	OpConst  Op = "const"
	OpRef    Op = "ref"
	OpCall   Op = "call"
	OpNeg    Op = "negate"
	OpNot    Op = "not"
	OpAnd    Op = "and"
	OpOr     Op = "or"
	OpJoin   Op = "&"
	OpAdd    Op = "+"
	OpSub    Op = "-"
	OpMul    Op = "*"
	OpDiv    Op = "/"
	OpEq     Op = "="
	OpNe     Op = "<>"
	OpLt     Op = "<"
	OpLe     Op = "<="
	OpGt     Op = ">"
	OpGe     Op = ">="
	OpToText Op = "text of"    // inserted by the checker where a text is needed
	OpToDate Op = "date of"    // the day of a time stamp in the app's time zone
	OpStep   Op = "field of"   // Field of the record that Args[0] is
	OpFlat   Op = "lists of"   // the lists that Field is for each record of a list, one after the other
	OpMap    Op = "each of"    // Body for each record of a list, where it is filled
	OpFilter Op = "those of"   // the records of a list for which Body holds
	OpSort   Op = "sorted"     // a list by Body, or by itself; Func says "falling"
	OpAll    Op = "records of" // all records of the table
	OpColumn Op = "column of"  // Column of a choice
)

// Root says where a reference starts.
type Root string

// The roots of references.
const (
	RootRow  Root = "row"  // the record in hand
	RootMe   Root = "me"   // the signed-in person's record
	RootPage Root = "page" // the record of the page
	RootKept Root = "kept" // the values that are kept for whoever looks
	RootVars Root = "vars" // what is given to a part where it is used

	RootAnswers Root = "answers" // what is answered in a form
	RootMade    Root = "made"    // what earlier steps of a workflow made
	RootWas     Root = "was"     // the record that set a workflow off, as it was before
)

// Node is a node of a checked expression.
type Node struct {
	Op     Op
	Type   Type
	Args   []*Node
	Body   *Node    // what is computed for each record of Args[0]
	Value  Value    // for OpConst
	Func   string   // for OpCall
	Root   Root     // for OpRef
	Level  int      // for OpRef from the row: how many lists it stands inside of
	Path   []*Field // for OpRef: the links to one that are followed, and a field; none means the record itself
	Field  *Field   // for OpStep and OpFlat
	Column string   // for OpColumn
	At     Span

	format *format // for TEXT
}

// key gives a text that is the same for nodes that mean the same.
func (n *Node) key() string {
	var b strings.Builder
	n.writeKey(&b)
	return b.String()
}

func (n *Node) writeKey(b *strings.Builder) {
	if n == nil {
		return
	}
	fmt.Fprintf(b, "(%s %v %s %s %d %s", n.Op, n.Type, n.Func, n.Root, n.Level, n.Column)
	if n.Op == OpConst {
		fmt.Fprintf(b, " %q", n.Value.String())
	}
	for _, f := range n.Path {
		fmt.Fprintf(b, " .%s.%s", f.Table, f.ID)
	}
	if n.Field != nil {
		fmt.Fprintf(b, " .%s.%s", n.Field.Table, n.Field.ID)
	}
	for _, a := range n.Args {
		a.writeKey(b)
	}
	n.Body.writeKey(b)
	b.WriteByte(')')
}

// Ref tells that a piece of the source names a field, or a table where Field is
// "", so that renaming can rewrite it. For a column of a choice list, Table is
// the list.
type Ref struct {
	Table, Field string
	Bracketed    bool
	At           Span
}

// Checked is an expression whose names and types are known.
type Checked struct {
	Source string
	Root   *Node
	Refs   []Ref
	UsesMe bool // whether the value depends on who is signed in
	offset int  // where Source starts in a text with placeholders
}

// Own tells whether the value depends on the record's own fields and on
// nothing else: not on links, other tables, the words of choices, the time or
// the place.
func (c *Checked) Own() bool { return c.Root.own() }

func (n *Node) own() bool {
	switch n.Op {
	case OpConst:
		return n.Type.Kind != Record
	case OpRef:
		if n.Root != RootRow || n.Level > 0 || len(n.Path) != 1 {
			return false
		}
		f := n.Path[0]
		return !f.Type.Many && (f.Computed == nil && !f.Recorded || f.Computed != nil && f.Computed.Own())
	case OpToText:
		if k := n.Args[0].Type.Kind; k == Choice || k == Time {
			return false
		}
	case OpCall:
		f := functions[n.Func]
		if f.changes || n.Func == "HOUR" || n.Func == "MINUTE" || n.Func == "LABEL" || n.format != nil && n.Args[0].Type.Kind == Time ||
			n.Func == "ADDDAYS" && n.Type.Kind == Time {
			return false
		}
	case OpStep, OpFlat, OpMap, OpFilter, OpSort, OpAll, OpColumn, OpToDate:
		return false
	}
	for _, a := range n.Args {
		if !a.own() {
			return false
		}
	}
	return true
}

// Meaning gives a text that is the same for expressions that compute the same
// from the same fields, whatever these are named.
func (c *Checked) Meaning() string {
	var b strings.Builder
	c.Root.writeKey(&b)
	for _, f := range c.Root.computed() {
		b.WriteString(f.Computed.Meaning())
	}
	return b.String()
}

// computed lists the computed fields that an expression names.
func (n *Node) computed() []*Field {
	var out []*Field
	for _, f := range n.Path {
		if f.Computed != nil {
			out = append(out, f)
		}
	}
	for _, a := range n.Args {
		out = append(out, a.computed()...)
	}
	return out
}

// Looks lists the fields of the row, and the paths from it, that an expression
// looks at, each once and as an expression of its own. What it looks at inside
// of lists is not among them.
func (c *Checked) Looks() []*Checked {
	var out []*Checked
	seen := map[string]bool{}
	var walk func(n *Node)
	walk = func(n *Node) {
		if n == nil {
			return
		}
		if n.Op == OpRef && n.Root == RootRow && n.Level == 0 && len(n.Path) > 0 && !seen[n.key()] {
			seen[n.key()] = true
			out = append(out, &Checked{Root: n})
		}
		for _, a := range n.Args {
			walk(a)
		}
	}
	walk(c.Root)
	return out
}

// Known lists what an expression looks at of the record in hand, the person, and what is given,
// each once and as an expression of its own. What it looks at inside of lists is not among them.
func (c *Checked) Known() []*Checked {
	var out []*Checked
	seen := map[string]bool{}
	var walk func(n *Node)
	walk = func(n *Node) {
		named := n.Op == OpRef && n.Level == 0 && len(n.Path) > 0 || n.Op == OpStep && n.Args[0].given()
		if named && !seen[n.key()] {
			seen[n.key()] = true
			out = append(out, &Checked{Root: n})
		}
		if named {
			return
		}
		for _, a := range n.Args {
			walk(a)
		}
	}
	walk(c.Root)
	return out
}

// Reads lists the tables whose records an expression reads, also by what fields of them are calculated
// from.
func (c *Checked) Reads() []string {
	out := map[string]bool{}
	seen := map[*Node]bool{}
	var walk func(n *Node)
	field := func(f *Field) {
		out[f.Table] = true
		if f.Of != nil {
			out[f.Of.Table] = true
		}
		if f.Computed != nil {
			walk(f.Computed.Root)
		}
	}
	walk = func(n *Node) {
		if n == nil || seen[n] {
			return
		}
		seen[n] = true
		if n.Op == OpAll {
			out[n.Type.Table] = true
		}
		for _, f := range n.Path {
			field(f)
		}
		if n.Field != nil {
			field(n.Field)
		}
		for _, a := range n.Args {
			walk(a)
		}
		walk(n.Body)
	}
	walk(c.Root)
	return slices.Sorted(maps.Keys(out))
}

// PathNames names what stands at the end of a path, as people call it: "Owner’s Name".
func (c *Checked) PathNames() string {
	n := c.Root
	root, path := n.Root, n.Path
	if n.Op == OpStep {
		root, path = n.Args[0].Root, []*Field{n.Field}
	}
	out := map[Root]string{RootMe: "the signed-in person’s ", RootPage: "this page’s record’s ", RootKept: "the kept ",
		RootVars: "the part’s ", RootMade: "the ", RootWas: "the former "}[root]
	for i, f := range path {
		if i > 0 {
			out += "’s "
		}
		out += f.Name
	}
	return out
}
