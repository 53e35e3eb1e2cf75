package blueprint

import (
	"slices"
	"strings"

	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

// Mended is a place that used something which is removed, and what becomes of it,
// in words.
type Mended struct {
	Use  string `json:"use"`  // "the condition of the list on My boats"
	Does string `json:"does"` // "the list is taken off the page"
}

// Mends tells what would have to be put right for a removal to be possible. It is
// empty where nothing uses what is removed, and for other changes.
func Mends(b *Blueprint, c Change) ([]Mended, error) {
	remove, ok := c.(*Remove)
	if !ok {
		return nil, nil
	}
	next, err := b.clone()
	if err != nil {
		return nil, err
	}
	p, err := next.at(remove.Of)
	if err != nil {
		return nil, err
	}
	return next.take(p)
}

// take removes a thing, and puts right what used it: what is calculated from it
// goes, too; a rule whose condition named it allows nothing any more; so nobody
// sees more than before.
func (b *Blueprint) take(p Place) ([]Mended, error) {
	if !p.Removable() {
		return nil, words.New("not-removable", "thing", p.Called())
	}
	if r, ok := p.Thing.(*Role); ok {
		id := r.ID
		b.Expectations = slices.DeleteFunc(b.Expectations, func(e Expectation) bool { return e.Role == id })
	}
	if col, ok := p.Thing.(*ListColumn); ok {
		for i := range p.Context.list.Choices {
			delete(p.Context.list.Choices[i].Values, col.ID)
		}
	}
	p.list.remove(p.At)
	var out []Mended
	for {
		told, more := b.mendNext()
		out = append(out, told...)
		if !more {
			return out, nil
		}
	}
}

// mendNext puts the next thing right that names what is not there any more, or
// whose expressions cannot be read any more. Doing so may break others, so they
// are looked for one after another.
func (b *Blueprint) mendNext() (told []Mended, more bool) {
	for p := range b.Places {
		props := p.Props()
		for i := 0; i < len(props); i++ {
			x := props[i]
			m, broken, again := p.mend(x)
			if !broken {
				continue
			}
			if m.Does != "" {
				told = append(told, m)
			}
			if again { // things came or went
				return told, true
			}
			props = p.Props() // the same setting once more: it may have lost several
			i = max(slices.IndexFunc(props, func(y prop.Prop) bool { return y.Name == x.Name }), 0) - 1
		}
	}
	return told, false
}

// mend puts one setting right, where it is broken; again says that other things
// have to be looked at anew.
func (p Place) mend(x prop.Prop) (m Mended, broken, again bool) {
	cut, about, template := lost(x)
	if cut == nil {
		return m, false, false
	}
	m.Use, m.Does = p.use(x, about), x.Lost.Words
	if template {
		cut()
		m.Does = words.Say("placeholder-cut", nil)
		return m, true, false
	}
	if x.Lost.TakeOut {
		if x.Lost.Whole {
			m.Use = p.Called()
		}
		p.list.remove(p.At)
		p.pause()
		return m, true, true
	}
	cut()
	if x.Lost.Do != nil {
		m.Does = x.Lost.Do()
		return m, true, true
	}
	if x.Must && x.Zero() {
		m.Use, m.Does = p.Called(), takesOut.Words
		if p.Context.flow != nil && p.What == "step" {
			m.Does = stepGone.Words
		}
		p.list.remove(p.At)
		p.pause()
		return m, true, true
	}
	return m, true, false
}

// pause switches a workflow off that lost a step: without it, it could do what nobody meant.
func (p Place) pause() {
	if p.What == "step" {
		p.Context.flow.Off = true
	}
}

// lost finds the first thing that a setting names and that is not there any more,
// or the first of its expressions that cannot be read, and gives how it is taken
// out.
func lost(x prop.Prop) (cut func(), about string, template bool) {
	for _, r := range x.Refs() {
		if _, there := r.To.Find(r.ID); !there {
			return r.Cut, "", false
		}
	}
	for _, e := range x.Exprs() {
		if _, err := e.Check(); err == nil {
			continue
		}
		switch {
		case e.Template:
			return func() { cutPlaceholders(e) }, "", true
		case e.Cut != nil:
			return e.Cut, e.About, false
		}
		return x.Clear, "", false
	}
	return nil, "", false
}

// use says where something is used.
func (p Place) use(x prop.Prop, about string) string {
	if x.Use != "" && about == "" {
		return x.Use
	}
	if about != "" {
		return words.Say("use-about", words.Args{"setting": Noun(x), "about": about, "thing": p.Called()})
	}
	return words.Say("use", words.Args{"setting": Noun(x), "thing": p.Called()})
}

// cutPlaceholders takes the placeholders that cannot be read out of a text.
func cutPlaceholders(e prop.Expr) {
	var text strings.Builder
	rest := *e.Source
	for {
		before, after, more := strings.Cut(rest, "{{")
		text.WriteString(before)
		if !more {
			break
		}
		inside, behind, _ := strings.Cut(after, "}}")
		if _, err := expr.Check(inside, e.Scope); err == nil {
			text.WriteString("{{" + inside + "}}")
		}
		rest = behind
	}
	*e.Source = strings.TrimSpace(text.String())
	if *e.Source == "" {
		*e.Source = "–"
	}
}
