package sentence

import (
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

// teller tells the things of one blueprint.
type teller struct {
	b       *blueprint.Blueprint
	catalog *expr.Catalog
	open    func(id string) bool         // whether the lines of a group are wanted
	inside  map[string][]blueprint.Place // what is part of something, by its id
}

// sentence tells a thing by its core and clauses: those of the groups given, the
// core with the first one.
type sentence struct {
	place blueprint.Place
	props []prop.Prop
	used  map[string]bool // settings that the core tells
	parts []Part
}

// core tells the core of a thing.
func core(p blueprint.Place) *sentence {
	s := &sentence{place: p, props: p.Props(), used: map[string]bool{}}
	s.say(p.Thing.Core(p.Context), prop.Prop{})
	return s
}

// clauses adds those clauses for which something holds.
func (s *sentence) clauses(of func(prop.Prop) bool) *sentence {
	for _, x := range s.props {
		switch {
		case s.used[x.Name] || !of(x):
		case !x.Zero():
			s.say(x.Say, x)
		default:
			s.say(x.Off, x)
		}
	}
	return s
}

// end closes the sentence; after words in quotes that end by themselves there is
// no stop.
func (s *sentence) end() []Part {
	if len(s.parts) > 0 && !s.ended() && (len(s.parts) > 1 || s.parts[0].Set == "") { // a name alone is no sentence
		s.parts = append(s.parts, Part{Text: "."})
	}
	return s.parts
}

func (s *sentence) ended() bool {
	if len(s.parts) == 0 {
		return false
	}
	last := s.parts[len(s.parts)-1].Text
	for _, stop := range []string{".”", "!”", "?”", "…”"} {
		if strings.HasSuffix(last, stop) {
			return true
		}
	}
	return false
}

// say tells a clause of a setting, or the core. What stands in braces is a value,
// other words for one, or a name.
func (s *sentence) say(clause string, own prop.Prop) {
	if clause == "" {
		return
	}
	if c, ok := own.Value.(interface{ Count() int }); ok {
		clause = words.Fill(clause, words.Args{"n": c.Count()})
	}
	if s.ended() {
		clause = strings.TrimPrefix(clause, ".")
	}
	if len(s.parts) == 0 {
		clause = strings.TrimPrefix(clause, ". ")
	}
	for {
		before, rest, more := strings.Cut(clause, "{")
		if before != "" {
			s.parts = append(s.parts, Part{Text: before})
		}
		if !more {
			return
		}
		inside, after, _ := strings.Cut(rest, "}")
		s.brace(inside, own)
		clause = after
	}
}

func (s *sentence) brace(inside string, own prop.Prop) {
	name, instead, other := strings.Cut(inside, "|")
	if ref, isName := strings.CutPrefix(name, "="); isName {
		s.parts = append(s.parts, named(instead, ref))
		return
	}
	name, form, _ := strings.Cut(name, ":")
	x := own
	if name != "" {
		x = s.find(name)
		s.used[name] = true
	}
	if x.Value == nil {
		return
	}
	value := text(instead)
	if !other {
		value = s.value(x, form)
	}
	set := x.Name
	if x.With != "" {
		set = x.With
	}
	if x.Fixed {
		set = ""
	}
	s.parts = append(s.parts, Part{Text: plain(value), Set: set, words: value})
}

func (s *sentence) find(name string) prop.Prop {
	for _, x := range s.props {
		if x.Name == name {
			return x
		}
	}
	return prop.Prop{}
}

// unsaid lists what else can be said of a thing: settings that are at their
// default and are not told by its core.
func unsaid(p blueprint.Place) []prop.Prop {
	s := core(p)
	var out []prop.Prop
	for _, x := range s.props {
		if !s.used[x.Name] && x.With == "" && !x.Fixed && x.Zero() && x.Off == "" {
			out = append(out, x)
		}
	}
	return out
}
