package expr

import (
	"slices"
	"strings"
)

// path resolves names joined by dots: where they start, and what follows.
func (c *checker) path(p *Path) (*Node, *Error) {
	n, names, err := c.start(p)
	if err != nil {
		return nil, err
	}
	return c.steps(n, names, n.Op == OpRef && n.Root == RootRow && len(names) == len(p.Names))
}

// start gives the record at which a path starts, and the names that are left.
func (c *checker) start(p *Path) (*Node, []Name, *Error) {
	first, rest := p.Names[0], p.Names[1:]
	if !first.Bracketed {
		switch first.Text {
		case "me":
			if c.scope.Me == "" {
				return nil, nil, errorAt(first.At, "expr-no-me")
			}
			c.out.UsesMe = true
			return c.record(RootMe, 0, c.scope.Me, first.At), rest, nil
		case "page":
			if c.scope.Page == "" {
				return nil, nil, errorAt(first.At, "expr-no-page-record")
			}
			if len(rest) == 0 || rest[0].Text != "record" {
				return nil, nil, errorAt(first.At, "expr-page-record")
			}
			return c.record(RootPage, 0, c.scope.Page, Span{first.At.Start, rest[0].At.End}), rest[1:], nil
		case KeptTable:
			return c.given(RootKept, "expr-no-kept", c.scope.Kept && c.scope.table(KeptTable) != nil, first, rest)
		case VarsTable:
			return c.given(RootVars, "expr-no-vars", c.scope.Vars != nil, first, rest)
		case AnswersTable:
			if c.scope.Answers == nil && c.inHand(first.Text) {
				break // a field that is called so
			}
			return c.given(RootAnswers, "expr-no-answers", c.scope.Answers != nil, first, rest)
		case MadeTable:
			if c.scope.Made == nil && c.inHand(first.Text) {
				break
			}
			return c.given(RootMade, "expr-no-made", c.scope.Made != nil, first, rest)
		case WasTable:
			if c.scope.Was == nil && c.inHand(first.Text) {
				break
			}
			return c.given(RootWas, "expr-no-was", c.scope.Was != nil, first, rest)
		case "this":
			if c.rows[0] == "" {
				return nil, nil, errorAt(first.At, "expr-no-this")
			}
			return c.record(RootRow, 0, c.rows[0], first.At), rest, nil
		}
	}
	level := len(c.rows) - 1
	if c.rows[level] == "" {
		return nil, nil, errorAt(first.At, "expr-no-record", "name", first.Text)
	}
	return c.record(RootRow, level, c.rows[level], p.At), p.Names, nil
}

// inHand tells whether the record in hand has a field with the key.
func (c *checker) inHand(key string) bool {
	t := c.scope.table(c.rows[len(c.rows)-1])
	return t != nil && slices.ContainsFunc(t.Fields, func(f *Field) bool { return f.Key == key })
}

// given starts a path at values that are no records, of which one has to be named.
func (c *checker) given(root Root, without string, there bool, first Name, rest []Name) (*Node, []Name, *Error) {
	switch {
	case !there:
		return nil, nil, errorAt(first.At, without)
	case len(rest) == 0:
		return nil, nil, errorAt(first.At, "expr-given-which", "name", first.Text)
	}
	return c.record(root, 0, string(root), first.At), rest, nil
}

func (c *checker) record(root Root, level int, table string, at Span) *Node {
	return &Node{Op: OpRef, Root: root, Level: level, Type: Type{Kind: Record, Table: table}, At: at}
}

// steps follows names from a value; bare tells that the first stands alone, so
// that it could have been meant for something else.
func (c *checker) steps(n *Node, names []Name, bare bool) (*Node, *Error) {
	var err *Error
	for i, name := range names {
		if n, err = c.step(n, name, bare && i == 0); err != nil {
			return nil, err
		}
	}
	return n, nil
}

// step follows one name: a field of a record or of each record of a list, or a
// column of a choice.
func (c *checker) step(n *Node, name Name, bare bool) (*Node, *Error) {
	at := Span{n.At.Start, name.At.End}
	switch n.Type.Kind {
	case Choice:
		return c.choiceColumn(n, name, at)
	case Record:
	default:
		return nil, errorAt(name.At, "expr-no-link", "type", describe(c.scope, n.Type))
	}
	table := c.scope.table(n.Type.Table)
	if table == nil {
		return nil, errorAt(name.At, "expr-no-record", "name", name.Text)
	}
	f, err := c.field(table, name, bare)
	if err != nil {
		return nil, err
	}
	c.out.Refs = append(c.out.Refs, Ref{Table: table.ID, Field: f.ID, Bracketed: name.Bracketed, At: name.At})
	switch {
	case !n.Type.Many && !f.Type.Many && n.Op == OpRef:
		out := *n
		out.Path, out.Type, out.At = append(append([]*Field{}, n.Path...), f), f.Type, at
		return &out, nil
	case !n.Type.Many:
		return &Node{Op: OpStep, Args: []*Node{n}, Field: f, Type: f.Type, At: at}, nil
	case f.Type.Many:
		return &Node{Op: OpFlat, Args: []*Node{n}, Field: f, Type: f.Type, At: at}, nil
	}
	level := len(c.rows)
	body := &Node{Op: OpRef, Root: RootRow, Level: level, Path: []*Field{f}, Type: f.Type, At: at}
	return mapped(n, body, at), nil
}

// mapped gives the list of what the body is for each record of a list. Bodies
// that only follow links are joined into one.
func mapped(n, body *Node, at Span) *Node {
	if n.Op == OpMap && n.Body.Op == OpRef && body.Op == OpRef {
		joined := *n.Body
		joined.Path, joined.Type, joined.At = append(append([]*Field{}, n.Body.Path...), body.Path...), body.Type, at
		return &Node{Op: OpMap, Args: n.Args, Body: &joined, Type: ListOf(body.Type), At: at}
	}
	return &Node{Op: OpMap, Args: []*Node{n}, Body: body, Type: ListOf(body.Type), At: at}
}

// choiceColumn follows a choice to an extra column of its list.
func (c *checker) choiceColumn(n *Node, name Name, at Span) (*Node, *Error) {
	l := c.scope.Catalog.Lists[n.Type.List]
	if l == nil {
		return nil, errorAt(name.At, "expr-no-list")
	}
	var keys []string
	for _, col := range l.Columns {
		if name.Bracketed && strings.EqualFold(col.Name, name.Text) || !name.Bracketed && strings.EqualFold(col.Key, name.Text) {
			c.out.Refs = append(c.out.Refs, Ref{Table: l.ID, Field: col.ID, Bracketed: name.Bracketed, At: name.At})
			out := &Node{Op: OpColumn, Args: []*Node{n}, Column: col.ID, Type: col.Type, At: at}
			if n.Type.Many {
				return nil, errorAt(name.At, "expr-choices-column", "column", col.Key)
			}
			return out, nil
		}
		keys = append(keys, col.Key)
	}
	err := errorAt(name.At, "expr-no-column", "list", l.Name, "name", name.Text)
	if near := closest(name.Text, keys); near != "" {
		err.hint("expr-near", "near", near)
	}
	return nil, err
}

func (c *checker) field(t *Table, name Name, bare bool) (*Field, *Error) {
	var keys []string
	for _, f := range t.Fields {
		if (name.Bracketed && strings.EqualFold(f.Name, name.Text)) || (!name.Bracketed && strings.EqualFold(f.Key, name.Text)) {
			return f, c.resolved(f, name)
		}
		if name.Bracketed {
			keys = append(keys, f.Name)
		} else {
			keys = append(keys, f.Key)
		}
	}
	if bare && c.scope.Me != "" {
		keys = append(keys, "me")
	}
	err := errorAt(name.At, "expr-no-field", "name", name.Text, "table", t.Name)
	if outer := c.scope.table(c.rows[0]); len(c.rows) > 1 && outer != nil && hasKey(outer, name.Text) {
		err.hint("expr-outside", "near", name.Text)
	} else if near := closest(name.Text, keys); near != "" {
		err.hint("expr-near", "near", near)
	}
	return nil, err
}

func hasKey(t *Table, key string) bool {
	for _, f := range t.Fields {
		if strings.EqualFold(f.Key, key) {
			return true
		}
	}
	return false
}

// resolved makes sure that the type of a computed field is known.
func (c *checker) resolved(f *Field, name Name) *Error {
	if f.Source == "" || c.scope.Catalog == nil {
		return nil
	}
	err := c.scope.Catalog.resolve(f)
	switch {
	case err == nil:
		return nil
	case len(err.cycle) > 0:
		moved := *err
		moved.At = name.At
		return &moved
	}
	return errorAt(name.At, "expr-broken", "field", f.Name, "reason", err.Error())
}

// table resolves the name of a table, as the first argument of RECORDS.
func (c *checker) table(s Syntax) (*Table, *Error) {
	p, ok := s.(*Path)
	if !ok || len(p.Names) != 1 || c.scope.Catalog == nil {
		return nil, errorAt(s.Span(), "expr-name-table")
	}
	name := p.Names[0]
	var keys []string
	for _, t := range c.scope.Catalog.Tables {
		if name.Bracketed && strings.EqualFold(t.Name, name.Text) || !name.Bracketed && strings.EqualFold(t.Key, name.Text) {
			c.out.Refs = append(c.out.Refs, Ref{Table: t.ID, Bracketed: name.Bracketed, At: name.At})
			return t, nil
		}
		keys = append(keys, t.Key)
	}
	err := errorAt(name.At, "expr-no-table", "name", name.Text)
	if near := closest(name.Text, keys); near != "" {
		err.hint("expr-near", "near", near)
	}
	return nil, err
}
