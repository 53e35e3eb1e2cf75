package expr

import (
	"fmt"
	"strings"

	"pinegate/core/words"
)

// Describe says a type in words.
func Describe(s Scope, t Type) string { return describe(s, t) }

// describe says a type in words for messages.
func describe(s Scope, t Type) string {
	if t.Many {
		return "a list of " + strings.TrimPrefix(strings.TrimPrefix(plural(s, t), "a "), "an ")
	}
	return describeOne(s, t)
}

func plural(s Scope, t Type) string {
	switch t.Kind {
	case Record:
		if tb := s.table(t.Table); tb != nil {
			return "records in " + tb.Name
		}
		return "records"
	case YesNo:
		return "yes or no"
	}
	return words.Say("types-"+strings.ReplaceAll(string(t.Kind), " ", "-"), nil)
}

func describeOne(s Scope, t Type) string {
	switch t.Kind {
	case Text:
		return "text"
	case Number:
		return "a number"
	case Date:
		return "a date"
	case YesNo:
		return "yes or no"
	case Choice:
		if s.Catalog != nil && s.Catalog.Lists[t.List] != nil {
			return fmt.Sprintf("a choice from %s", s.Catalog.Lists[t.List].Name)
		}
		return "a choice"
	case Record:
		if tb := s.table(t.Table); tb != nil {
			return fmt.Sprintf("a record in %s", tb.Name)
		}
		return "a record"
	case Time:
		return "a date and time"
	case File:
		return "a file"
	}
	return "empty"
}

// coerce gives the node as the type, where it is of it already, is empty, or
// is a literal text that is a choice's label.
func coerce(s Scope, n *Node, want Type) (*Node, bool) {
	if n.Type == want {
		return n, true
	}
	if n.Type.Kind == None && !want.Many {
		v := Empty()
		if want.Kind == YesNo {
			v = YesNoOf(false)
		}
		return &Node{Op: OpConst, Type: want, Value: v, At: n.At}, want.Kind != None
	}
	if want == (Type{Kind: Date}) && n.Op == OpConst && n.Type.Kind == Text && IsDate(n.Value.Text) {
		return &Node{Op: OpConst, Type: want, Value: DateOf(n.Value.Text), At: n.At}, true
	}
	if want == (Type{Kind: Date}) && n.Type == (Type{Kind: Time}) {
		return &Node{Op: OpToDate, Type: want, Args: []*Node{n}, At: n.At}, true
	}
	if want.Kind == Choice && !want.Many && n.Op == OpConst && n.Type.Kind == Text && s.Catalog != nil &&
		s.Catalog.Lists[want.List] != nil {
		for _, ch := range s.Catalog.Lists[want.List].Choices {
			if ch.Label == n.Value.Text {
				return &Node{Op: OpConst, Type: want, Value: ChoiceOf(ch.ID), At: n.At}, true
			}
		}
	}
	return n, false
}

func textable(t Type) bool {
	switch t.Kind {
	case Text, Number, Date, Time, Choice, None:
		return !t.Many
	}
	return false
}

// asText gives a node as a text, for an operator or a function that needs one.
func (c *checker) asText(n *Node, op string) (*Node, *Error) {
	switch {
	case textable(n.Type):
		return c.fold(toText(n)), nil
	case n.Type.Many:
		return nil, errorAt(n.At, "expr-text-list", "sign", string(op), "type", describe(c.scope, n.Type))
	case n.Type.Kind == Record:
		return nil, errorAt(n.At, "expr-text-record", "sign", string(op), "type", describe(c.scope, n.Type))
	}
	return nil, errorAt(n.At, "expr-text-needed", "sign", string(op), "type", describe(c.scope, n.Type))
}

// unify brings nodes to one type, that of the first that has one.
func (c *checker) unify(nodes []*Node, what string) (Type, *Error) {
	t := Type{Kind: None}
	for _, n := range nodes {
		if t.Kind == None || t.Kind == Text && n.Type.Kind == Choice {
			t = n.Type
		}
	}
	if t.Kind == None {
		return t, nil
	}
	for i, n := range nodes {
		got, ok := coerce(c.scope, n, t)
		if !ok || t.Many {
			return t, errorAt(n.At, "expr-outcomes", "name", what, "one", describe(c.scope, t), "other", describe(c.scope, n.Type))
		}
		nodes[i] = got
	}
	return t, nil
}

func toText(n *Node) *Node {
	switch n.Type.Kind {
	case Text:
		return n
	case None:
		return &Node{Op: OpConst, Type: Type{Kind: Text}, At: n.At}
	}
	return &Node{Op: OpToText, Type: Type{Kind: Text}, Args: []*Node{n}, At: n.At}
}
