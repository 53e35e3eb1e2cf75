package blueprint

import (
	"slices"

	"pinegate/core/prop"
	"pinegate/core/words"
)

// Thing is a part of an app that has settings of its own: a table, a field, a
// rule, a block.
type Thing interface {
	// Props lists its settings. It must work in a Context that has nothing.
	Props(c Context) []prop.Prop
	// Core is the sentence that tells it, with {name} for its settings.
	Core(c Context) string
	// Called says which one it is: "Owner in Boats".
	Called(c Context) string
}

// What some things do besides.
type (
	// checker tells what is wrong with settings together.
	checker interface {
		Check(c Context) *words.Problem
	}
	// starter fills in what a thing that was just added cannot be without, and one
	// on which much depends changed.
	starter interface{ Start(c Context) }
	// resetter drops what does not fit any more after a setting changed, where more
	// than names and expressions have to go.
	resetter interface {
		Reset(c Context, setting string)
	}
	// settler fills in what depends on several settings, once all of a change are set.
	settler interface {
		Settle(c Context, set Values) error
	}
	// renamer takes another name, which expressions follow.
	renamer interface {
		Rename(c Context, name string) error
	}
)

// The ids of things that every app has once.
const (
	AppID  = "app"
	GateID = "gate"
)

// Place is where a thing stands.
type Place struct {
	ID      string
	What    string // the kind of thing, as changes name it
	In      string // id of the thing that it is part of, or ""
	Thing   Thing
	Context Context
	// At is its place among Among others of the list in which it stands.
	At, Among int
	list      holder
}

// Props lists the settings of the thing.
func (p Place) Props() []prop.Prop {
	out := p.Thing.Props(p.Context)
	if x, ok := p.Thing.(Step); ok {
		return append(out, x.Self().props(p.Context, x)...)
	}
	if x, ok := p.Thing.(Block); ok {
		out = append(out, x.Self().props(p.Context, p.Context.whens(x), x.Row().Toned)...)
	}
	return out
}

// Prop gives the setting with the name.
func (p Place) Prop(name string) (prop.Prop, bool) {
	props := p.Props()
	i := slices.IndexFunc(props, func(x prop.Prop) bool { return x.Name == name })
	if i < 0 {
		return prop.Prop{}, false
	}
	return props[i], true
}

// Called says which thing it is.
func (p Place) Called() string { return p.Thing.Called(p.Context) }

// Within gives the context of what is put into the thing.
func (p Place) Within() Context {
	c := p.Context
	if f, ok := p.Thing.(*RoleForm); ok {
		form := f.Form()
		c.page, c.asks, c.form, c.holder, c.depth = f.Page(), f, form, form, 1
	}
	if f, ok := p.Thing.(*FlowForm); ok {
		form := f.Form()
		c.page, c.form, c.holder, c.depth = f.Page(), form, form, 1
	}
	if h, ok := p.Thing.(StepHolder); ok {
		c.steps = h
	}
	if h, ok := p.Thing.(Holder); ok {
		c.holder, c.depth = h, c.depth+1
		if x, is := h.(*RecordsBlock); is {
			c.row = x.Table
		}
		if x, is := h.(*FormBlock); is {
			c.form = x
		}
		if x, is := h.(*WithBlock); is {
			c.with = x
		}
	}
	return c
}

// Removable tells whether the thing can be removed by itself.
func (p Place) Removable() bool { return p.list != nil && p.ID != VisitorRole }

// Movable tells whether the thing has an order among others.
func (p Place) Movable() bool {
	return p.Removable() && p.What != "rule" && p.What != "expectation" && p.What != "role" && p.What != "column" &&
		p.What != "reaction" && p.What != "kept"
}

// holder is the list in which a thing stands.
type holder interface {
	move(from, to int)
	remove(at int)
}

type listOf[T any] struct{ at *[]T }

func (l listOf[T]) remove(at int) { *l.at = slices.Delete(*l.at, at, at+1) }

// move puts the element so that it stands at to.
func (l listOf[T]) move(from, to int) {
	list := *l.at
	to = min(max(to, 0), len(list)-1)
	x := list[from]
	copy(list[from:], list[from+1:])
	copy(list[to+1:], list[to:len(list)-1])
	list[to] = x
}

// each walks a list of things.
func each[T any](list *[]T, place func(*T) Place, yield func(Place) bool) bool {
	for i := range *list {
		p := place(&(*list)[i])
		p.At, p.Among, p.list = i, len(*list), listOf[T]{list}
		if !yield(p) {
			return false
		}
	}
	return true
}

// Places walks all things of the app, in the order in which they are told.
func (b *Blueprint) Places(yield func(Place) bool) {
	c := b.context()
	_ = yield(Place{ID: AppID, What: "app", Thing: b, Context: c}) && b.dataPlaces(c, yield) &&
		yield(Place{ID: GateID, What: "gate", Thing: &b.Gate, Context: c}) && b.rolePlaces(c, yield) && b.pagePlaces(c, yield) &&
		b.partPlaces(c, yield) &&
		each(&b.Kept, func(k *Kept) Place { return Place{ID: k.ID, What: "kept", Thing: k, Context: c} }, yield) &&
		b.workflowPlaces(c, yield) && b.servicePlaces(c, yield)
}

func (b *Blueprint) dataPlaces(c Context, yield func(Place) bool) bool {
	tables := each(&b.Tables, func(t *Table) Place {
		in := c
		in.table = t
		return Place{ID: t.ID, What: "table", Thing: t, Context: in}
	}, func(p Place) bool {
		t := p.Context.table
		return yield(p) &&
			each(&t.Fields, func(f *Field) Place { return Place{ID: f.ID, What: "field", In: t.ID, Thing: f, Context: p.Context} }, yield)
	})
	return tables && each(&b.Lists, func(l *ChoiceList) Place {
		in := c
		in.list = l
		return Place{ID: l.ID, What: "list", Thing: l, Context: in}
	}, func(p Place) bool {
		l := p.Context.list
		return yield(p) && each(&l.Columns, func(x *ListColumn) Place {
			return Place{ID: x.ID, What: "column", In: l.ID, Thing: x, Context: p.Context}
		}, yield) &&
			each(
				&l.Choices,
				func(x *Choice) Place { return Place{ID: x.ID, What: "choice", In: l.ID, Thing: x, Context: p.Context} },
				yield,
			)
	})
}

func (b *Blueprint) rolePlaces(c Context, yield func(Place) bool) bool {
	roles := each(&b.Roles, func(r *Role) Place {
		in := c
		in.role = r
		return Place{ID: r.ID, What: "role", Thing: r, Context: in}
	}, func(p Place) bool {
		r := p.Context.role
		return yield(p) && b.roleFormPlaces(p.Context, yield) && each(&r.Rules, func(x *Rule) Place {
			return Place{ID: RuleID(r.ID, x.Table), What: "rule", In: r.ID, Thing: x, Context: p.Context}
		}, yield)
	})
	return roles && each(&b.Expectations, func(e *Expectation) Place {
		in := c
		in.role = b.Role(e.Role)
		return Place{ID: e.ID, What: "expectation", In: e.Role, Thing: e, Context: in}
	}, yield)
}

func (b *Blueprint) pagePlaces(c Context, yield func(Place) bool) bool {
	return each(&b.Pages, func(p *Page) Place {
		in := c
		in.page = p
		return Place{ID: p.ID, What: "page", Thing: p, Context: in}
	}, func(p Place) bool {
		page := p.Context.page
		return yield(p) && blockPlaces(page.ID, &page.Blocks, p.Context, yield)
	})
}

// blockPlaces walks blocks with those that they hold.
func blockPlaces(in string, blocks *Blocks, c Context, yield func(Place) bool) bool {
	return each((*[]Block)(blocks), func(x *Block) Place {
		return Place{ID: (*x).Self().ID, What: "block", In: in, Thing: *x, Context: c}
	}, func(p Place) bool {
		if !yield(p) || !reactionPlaces(p.ID, &p.Thing.(Block).Self().Reacts, c, yield) {
			return false
		}
		if x, is := p.Thing.(Reporter); is && !measurePlaces(p.ID, x.Report(), c, yield) {
			return false
		}
		h, ok := p.Thing.(Holder)
		return !ok || blockPlaces(p.ID, h.Inside(), p.Within(), yield)
	})
}

// partPlaces walks the parts with what they are given, have, and hold.
func (b *Blueprint) partPlaces(c Context, yield func(Place) bool) bool {
	return each(&b.Parts, func(p *Part) Place {
		in := c
		in.part = p
		return Place{ID: p.ID, What: "part", Thing: p, Context: in}
	}, func(p Place) bool {
		part, in := p.Context.part, p.Context
		return yield(p) &&
			each(&part.Inputs, func(x *Input) Place { return Place{ID: x.ID, What: "input", In: part.ID, Thing: x, Context: in} }, yield) &&
			each(&part.Values, func(v *OwnValue) Place {
				return Place{ID: v.ID, What: "value", In: part.ID, Thing: v, Context: in}
			}, yield) &&
			reactionPlaces(part.ID, &part.Reacts, in, yield) && blockPlaces(part.ID, &part.Blocks, in, yield)
	})
}

func reactionPlaces(in string, list *[]Reaction, c Context, yield func(Place) bool) bool {
	return each(list, func(r *Reaction) Place { return Place{ID: r.ID, What: "reaction", In: in, Thing: r, Context: c} }, yield)
}

// measurePlaces walks the numbers of a figure or a chart.
func measurePlaces(in string, r *Reported, c Context, yield func(Place) bool) bool {
	c.report, c.holds = r, in
	return each(&r.Measures, func(m *Measure) Place { return Place{ID: m.ID, What: "measure", In: in, Thing: m, Context: c} }, yield)
}

// Place finds the thing with the id.
func (b *Blueprint) Place(id string) (Place, bool) {
	for p := range b.Places {
		if p.ID == id {
			return p, true
		}
	}
	return Place{}, false
}

// RuleID is the id of a role's rule for a table.
func RuleID(role, table string) string { return role + "." + table }

// named is the setting of a name.
func named(at *string) prop.TextValue {
	v := prop.Text(at)
	v.Most, v.Right = maxName, nameRight
	return v
}
