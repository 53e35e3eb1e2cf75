package expr

import (
	"strings"
	"time"

	"pinegate/core/words"
)

// Piece is a piece of a text with placeholders: either literal text or an
// expression.
type Piece struct {
	Text       string
	Expression *Checked // nil for literal text
}

// Template is a text with {{ }} placeholders, checked.
type Template []Piece

// CheckTemplate reads a text with placeholders. Positions in an error are
// those in the whole text. Any type may stand in a placeholder.
func CheckTemplate(src string, scope Scope) (Template, error) {
	var out Template
	pos := 0
	for {
		open := strings.Index(src[pos:], "{{")
		if open < 0 {
			break
		}
		open += pos
		end := strings.Index(src[open:], "}}")
		if end < 0 {
			return nil, errorAt(Span{open, len(src)}, "expr-placeholder")
		}
		end += open
		c, err := Check(src[open+2:end], scope)
		if err != nil {
			e, ok := err.(*Error)
			if !ok {
				return nil, err
			}
			moved := *e
			moved.At = Span{e.At.Start + open + 2, e.At.End + open + 2}
			return nil, &moved
		}
		if open > pos {
			out = append(out, Piece{Text: src[pos:open]})
		}
		c.offset = open + 2
		for i := range c.Refs {
			c.Refs[i].At.Start += open + 2
			c.Refs[i].At.End += open + 2
		}
		out = append(out, Piece{Expression: c})
		pos = end + 2
	}
	if pos < len(src) {
		out = append(out, Piece{Text: src[pos:]})
	}
	return out, nil
}

// Text puts the template together with the texts of its placeholders, in their
// order. Where one is empty, what only leads up to it goes, too, so that
// "Welcome, {{me.name}}!" reads "Welcome!", and "{{me.name}}, welcome" reads
// "Welcome".
func (t Template) Text(values []string) string {
	var out string
	started, at := false, 0
	for i, piece := range t {
		text := piece.Text
		if piece.Expression != nil {
			text = values[at]
			at++
			if text == "" {
				out = strings.TrimSuffix(strings.TrimRight(out, " "), ",")
				continue
			}
		} else if !started && i > 0 {
			text = words.Capital(strings.TrimLeft(text, ", "))
		}
		started = true
		out += text
	}
	return out
}

// Refs lists the fields that the placeholders name, with positions in the
// whole text.
func (t Template) Refs() []Ref {
	var out []Ref
	for _, c := range t.Checked() {
		out = append(out, c.Refs...)
	}
	return out
}

// Rewrite replaces the pieces of the source at which the refs stand by what
// rename gives for each; where it gives "", the piece stays.
func Rewrite(src string, refs []Ref, rename func(Ref) string) string {
	var b strings.Builder
	pos := 0
	for _, r := range refs {
		name := rename(r)
		if name == "" || r.At.Start < pos {
			continue
		}
		b.WriteString(src[pos:r.At.Start])
		if r.Bracketed {
			name = "[" + name + "]"
		}
		b.WriteString(name)
		pos = r.At.End
	}
	b.WriteString(src[pos:])
	return b.String()
}

// ChoiceRefs lists where the expression compares with a choice by its label,
// with the id of the choice as the field.
func (c *Checked) ChoiceRefs() []Ref {
	var out []Ref
	var walk func(n *Node)
	walk = func(n *Node) {
		if n.Op == OpConst && n.Type.Kind == Choice && !n.Value.IsEmpty() {
			at := Span{n.At.Start + c.offset, n.At.End + c.offset}
			out = append(out, Ref{Field: n.Value.Text, At: at})
		}
		for _, a := range n.Args {
			walk(a)
		}
	}
	walk(c.Root)
	return out
}

// Checked lists the expressions of the placeholders.
func (t Template) Checked() []*Checked {
	var out []*Checked
	for _, p := range t {
		if p.Expression != nil {
			out = append(out, p.Expression)
		}
	}
	return out
}

// Shown computes the placeholders, each as the text that people read: records by their label,
// choices by theirs.
func (t Template) Shown(catalog *Catalog, env Env) []string {
	return t.shown(&evaluator{env: env, catalog: catalog})
}

// ShownIn is [Template.Shown] of a text about a record of a list (see [Scope].Inner).
func (t Template) ShownIn(catalog *Catalog, env Env, row Value) []string {
	return t.shown(&evaluator{env: env, catalog: catalog, rows: []Value{row}})
}

func (t Template) shown(e *evaluator) []string {
	var out []string
	for _, c := range t.Checked() {
		out = append(out, e.shown(c))
	}
	return out
}

// Shown computes an expression as the text that people read.
func Shown(c *Checked, catalog *Catalog, env Env) string {
	return (&evaluator{env: env, catalog: catalog}).shown(c)
}

func (e *evaluator) shown(c *Checked) string {
	n := c.Root
	switch t := c.Type(); {
	case t.Many:
		n = Joined(n)
	case t.Kind == Record:
		n = LabelOf(n)
	case t.Kind == Choice || t.Kind == Time:
		n = &Node{Op: OpToText, Type: Type{Kind: Text}, Args: []*Node{n}}
	}
	v := e.eval(n)
	switch {
	case v.Kind == YesNo && v.Yes:
		return "yes"
	case v.Kind == YesNo:
		return "no"
	case v.Kind == Date:
		if day, err := time.Parse(time.DateOnly, v.Text); err == nil {
			return day.Format("2 Jan 2006")
		}
	}
	return v.String()
}

// EvalIn is [Eval] of an expression about a record of a list (see [Scope].Inner).
func EvalIn(c *Checked, catalog *Catalog, env Env, row Value) Value {
	return (&evaluator{env: env, catalog: catalog, rows: []Value{row}}).eval(c.Root)
}
