package sentence

import (
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

// value tells the value of a setting. The form chooses among ways to tell it.
func (s *sentence) value(x prop.Prop, form string) []Part {
	switch v := x.Value.(type) {
	case interface{ Said() (string, bool) }:
		said, inQuotes := v.Said()
		if inQuotes {
			said = quote(said)
		}
		return text(said)
	case interface{ Count() int }:
		return text(words.Number(v.Count()))
	case interface{ Chosen() []prop.Option }:
		return chosen(v.Chosen(), x.Control())
	case prop.SetsValue:
		return joined(v.Chosen(), " or the same ", func(set []prop.Option) []Part { return chosen(set, x.Control()) })
	case prop.ExprValue:
		return expression(v, x)
	case prop.QuestionsValue:
		return questions(v)
	case prop.GivenValue:
		return s.gives(v)
	case prop.PathsValue:
		return paths(v)
	case prop.RulesValue:
		if v.Control().Kind == prop.BandsControl {
			return bands(v)
		}
		return rules(v)
	case prop.ReachValue:
		return s.reach(v, form)
	}
	return nil
}

// quote puts a text into quotation marks, shortened.
func quote(s string) string { return "“" + shorten(s) + "”" }

// shorten keeps a sentence readable where it quotes a long text.
func shorten(s string) string {
	s = strings.Join(strings.Fields(s), " ")
	if r := []rune(s); len(r) > 90 {
		return string(r[:88]) + "…"
	}
	return s
}

// joined tells a list, with the word given before the last.
func joined[T any](list []T, last string, tell func(T) []Part) []Part {
	var out []Part
	for i, x := range list {
		switch {
		case i > 0 && i == len(list)-1:
			out = append(out, Part{Text: last})
		case i > 0:
			out = append(out, Part{Text: ", "})
		}
		out = append(out, tell(x)...)
	}
	return out
}

// chosen tells what is chosen, or what it is called when nothing is.
func chosen(options []prop.Option, c prop.Control) []Part {
	if len(options) == 0 {
		return text(c.Empty)
	}
	last := c.Last
	if last == "" {
		last = " and "
	}
	return joined(options, last, func(o prop.Option) []Part {
		if c.To.What == "" {
			return text(o.Words)
		}
		return []Part{named(o.Words, o.Value)}
	})
}

// expression tells an expression, or a text with placeholders.
func expression(v prop.ExprValue, x prop.Prop) []Part {
	c := v.Control()
	source, _ := v.Get().(string)
	switch {
	case c.Want == prop.WantTemplate:
		return []Part{{Text: quote(source), words: templateWords(source, c.Scope)}}
	case v.Joined:
		return labelWords(source, c.Scope)
	}
	for _, e := range v.Exprs() {
		return expressionWords(source, c.Scope, e.Want)
	}
	return nil
}

// rules tells what has to hold, and what is said where it does not.
func rules(v prop.RulesValue) []Part {
	return joined(v.All(), " and ", func(r prop.Rule) []Part {
		out := expressionWords(r.Holds, v.Control().Scope, expr.Type{Kind: expr.YesNo})
		if r.Says != "" {
			out = append(out, Part{Text: " (or else it says " + quote(r.Says) + ")"})
		}
		return out
	})
}

// bands tells what is said, and when.
func bands(v prop.RulesValue) []Part {
	return joined(v.All(), " and ", func(r prop.Rule) []Part {
		return append([]Part{{Text: quote(r.Says) + " when "}}, expressionWords(r.Holds, v.Control().Scope, expr.Type{Kind: expr.YesNo})...)
	})
}

// questions tells which fields are asked for.
func questions(v prop.QuestionsValue) []Part {
	to := v.Control().To
	if len(v.Asks()) == 0 {
		return text("nothing")
	}
	return joined(v.Asks(), " and ", func(q prop.Question) []Part {
		o, _ := to.Find(q.Field)
		out := []Part{named(o.Words, o.Value)}
		if q.Required {
			out = append(out, Part{Text: " (required)"})
		}
		return out
	})
}

// gives tells what is filled in.
func (s *sentence) gives(v prop.GivenValue) []Part {
	c := v.Control()
	type given struct {
		prop.Given
		want expr.Type
	}
	var all []given
	for g, want := range v.Fills {
		all = append(all, given{g, want})
	}
	return joined(all, " and ", func(g given) []Part {
		o, _ := c.To.Find(g.Field)
		return append([]Part{named(o.Words, o.Value), {Text: v.Joint}}, expressionWords(g.Value, c.Scope, g.want)...)
	})
}

// paths tells pages of which the first that fits is taken.
func paths(v prop.PathsValue) []Part {
	c := v.Control()
	var out []Part
	for i, p := range v.Leads() {
		o, _ := c.To.Find(p.Page)
		switch {
		case i > 0 && p.When == "":
			out = append(out, Part{Text: ", otherwise "})
		case i > 0:
			out = append(out, Part{Text: ", "})
		}
		out = append(out, named(o.Words, o.Value))
		if p.When == "" {
			return out
		}
		out = append(append(out, Part{Text: " if "}), conditionWords(p.When, c.Scope)...)
	}
	return append(out, Part{Text: ", otherwise the first page they can open"})
}

// reach tells to which records of its table a rule reaches.
func (s *sentence) reach(v prop.ReachValue, form string) []Part {
	rule, ok := s.place.Thing.(*blueprint.Rule)
	if !ok {
		return nil
	}
	name := rule.Table
	if t := s.place.Context.Blueprint().Table(rule.Table); t != nil {
		name = t.Name
	}
	table, c := named(name, rule.Table), v.Control()
	r := v.Reached()
	switch {
	case r.Extent == prop.AllRecords && form == "them":
		return text("all of them")
	case r.Extent == prop.AllRecords:
		return []Part{{Text: "all "}, table}
	case ownRecord(r.Condition, c.Scope) && form == "them":
		return text("their own")
	case ownRecord(r.Condition, c.Scope):
		return []Part{{Text: "their own record in "}, table}
	case form == "them":
		return append([]Part{{Text: "those where "}}, conditionWords(r.Condition, c.Scope)...)
	}
	return append([]Part{table, {Text: " where "}}, conditionWords(r.Condition, c.Scope)...)
}

// ownRecord tells whether a condition is that the record is the signed-in
// person's own.
func ownRecord(source string, scope expr.Scope) bool {
	c, err := expr.CheckCondition(source, scope)
	if err != nil || c.Root.Op != expr.OpEq {
		return false
	}
	is := func(n *expr.Node, root expr.Root) bool {
		return n.Op == expr.OpRef && n.Root == root && len(n.Path) == 0
	}
	x, y := c.Root.Args[0], c.Root.Args[1]
	return is(x, expr.RootMe) && is(y, expr.RootRow) || is(y, expr.RootMe) && is(x, expr.RootRow)
}
