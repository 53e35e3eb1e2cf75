package blueprint

import (
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"pinegate/core/prop"
	"pinegate/core/words"
)

// Change is an edit of a blueprint. There are few kinds of it: things are added,
// set, moved and removed by their ids, and settings are what the things say.
type Change interface {
	// apply edits a blueprint that is the caller's own copy.
	apply(b *Blueprint) error
}

// Values are settings by their names, as JSON; null gives a default.
type Values map[string]json.RawMessage

// Vals makes values of plain Go ones, in pairs of a name and a value.
func Vals(pairs ...any) Values {
	out := Values{}
	for i := 0; i+1 < len(pairs); i += 2 {
		raw, err := json.Marshal(pairs[i+1])
		if err != nil {
			panic(err) // plain texts, numbers and lists can be written
		}
		out[fmt.Sprint(pairs[i])] = raw
	}
	return out
}

// Put sets a value.
func (v Values) Put(name string, value any) { v[name] = Vals(name, value)[name] }

// Adding makes the change that adds a thing, of plain Go values in pairs.
func Adding(what, into, id string, pairs ...any) *AddThing {
	return &AddThing{What: what, Into: into, ID: id, Values: Vals(pairs...)}
}

// AddingTable makes the change that adds a table with one field, Name, which has
// to be filled in.
func AddingTable(id, name, field string) *AddThing {
	return Adding("table", "", id, "name", name, "fields", []Values{Vals("id", field, "name", "Name", "required", true)})
}

// Setting makes the change that sets settings of a thing, of plain Go values in
// pairs.
func Setting(of string, pairs ...any) *Set { return &Set{Of: of, Values: Vals(pairs...)} }

// Text gives a value that is a text, or "".
func (v Values) Text(name string) string {
	var s string
	if err := json.Unmarshal(v[name], &s); err != nil {
		return ""
	}
	return s
}

// Set changes settings of a thing.
type Set struct {
	Of     string `json:"of"`
	Values Values `json:"values"`
}

func (c *Set) apply(b *Blueprint) error {
	b.ruleFor(c.Of)
	p, err := b.at(c.Of)
	if err != nil {
		return err
	}
	if err := p.set(c.Values, false); err != nil {
		return err
	}
	if s, ok := p.Thing.(settler); ok {
		if err := s.Settle(p.Context, c.Values); err != nil {
			return err
		}
	}
	if c.Values["type"] != nil {
		b.leaveOut()
	}
	return nil
}

// leaveOut takes out what settings name that is not offered to them any more, such as a
// field that holds no picture now, where that is done quietly.
func (b *Blueprint) leaveOut() {
	for p := range b.Places {
		if _, shown := p.Thing.(Block); !shown {
			continue
		}
		for _, x := range p.Props() {
			if x.Must || x.Lost.Words != "" || x.Lost.TakeOut || x.Lost.Do != nil {
				continue
			}
			for _, r := range x.Refs() {
				if _, there := r.To.Find(r.ID); !there {
					r.Cut()
				}
			}
		}
	}
}

// Move puts a thing at another place in its list, counted from 0; a block also into
// another page or block that holds blocks.
type Move struct {
	Of   string `json:"of"`
	To   int    `json:"to"`
	Into string `json:"into,omitempty"` // "" where it stays in what holds it
}

func (c *Move) apply(b *Blueprint) error {
	p, err := b.at(c.Of)
	if err != nil {
		return err
	}
	if !p.Movable() {
		return words.New("not-movable", "thing", p.Called())
	}
	if c.Into == "" || c.Into == p.In {
		p.list.move(p.At, c.To)
		return nil
	}
	if x, ok := p.Thing.(Step); ok {
		return b.moveStep(p, x, c)
	}
	x, ok := p.Thing.(Block)
	if !ok {
		return words.New("not-movable", "thing", p.Called())
	}
	p.list.remove(p.At)
	into := b.blocksOf(c.Into) // not among what it holds itself, which is gone with it
	if into == nil {
		return words.New("gone", "thing", "place to move it to")
	}
	*into = slices.Insert(*into, min(max(c.To, 0), len(*into)), x)
	if to, _ := b.Place(p.ID); to.Context.part != p.Context.part { // own values are those of the part that it left
		for y := range (Blocks{x}).All {
			h := y.Self()
			h.While, h.Is, h.Reacts = "", "", nil
		}
	}
	return nil
}

// Remove removes a thing with all that is in it. It is refused while something
// else uses it, unless Mend says that those places are to be put right, as
// [Mends] tells.
type Remove struct {
	Of   string `json:"of"`
	Mend bool   `json:"mend,omitempty"`
}

func (c *Remove) apply(b *Blueprint) error {
	p, err := b.at(c.Of)
	if err != nil {
		return err
	}
	called := p.Called()
	mended, err := b.take(p)
	if err != nil {
		return err
	}
	if len(mended) > 0 && !c.Mend {
		var uses []string
		for _, m := range mended {
			uses = append(uses, m.Use)
		}
		return words.New("in-use", "thing", called, "uses", uses, "n", len(uses))
	}
	return nil
}

// MergeChoice takes a choice out of its list and gives the records that have it
// the choice Into. Expressions that compare with it follow.
type MergeChoice struct {
	Of   string `json:"of"`
	Into string `json:"into"`
}

func (c *MergeChoice) apply(b *Blueprint) error {
	p, err := b.at(c.Of)
	if err != nil {
		return err
	}
	ch, ok := p.Thing.(*Choice)
	if !ok {
		return words.New("gone", "thing", "choice")
	}
	l := p.Context.list
	into := l.Choice(c.Into)
	if into == nil || into.ID == ch.ID {
		return words.New("merge-into", "thing", p.Called())
	}
	label := ch.Label
	if err := b.renameChoice(ch.ID, into.Label, &label); err != nil {
		return err
	}
	if l.Merged == nil {
		l.Merged = map[string]string{}
	}
	for from, to := range l.Merged {
		if to == ch.ID {
			l.Merged[from] = into.ID
		}
	}
	l.Merged[ch.ID] = into.ID
	p.list.remove(p.At)
	return nil
}

// ruleFor makes the rule with the id, where it is one of a role for a table of
// which nothing was said yet.
func (b *Blueprint) ruleFor(id string) {
	role, table, ok := strings.Cut(id, ".")
	r := b.Role(role)
	if ok && r != nil && b.Table(table) != nil && !slices.ContainsFunc(r.Rules, func(x Rule) bool { return x.Table == table }) {
		r.Rules = append(r.Rules, Rule{Table: table})
	}
}

// at finds the thing that a change is about.
func (b *Blueprint) at(id string) (Place, error) {
	p, ok := b.Place(id)
	if !ok {
		return p, words.New("gone", "thing", "part of the app")
	}
	return p, nil
}

// set changes settings. What depends on one that much depends on begins anew
// where it is not given, too; those that are said once are only taken by a thing
// that is being added.
func (p Place) set(values Values, adding bool) error {
	left := Values{}
	for name, raw := range values {
		left[name] = raw
	}
	for len(left) > 0 {
		before := len(left)
		for _, x := range p.Props() {
			raw, given := left[x.Name]
			if !given {
				continue
			}
			delete(left, x.Name)
			was := x.Get()
			if err := p.setOne(x, raw, adding); err != nil {
				return err
			}
			if x.Resets && !reflect.DeepEqual(was, x.Get()) {
				p.reset(x.Name, values)
				break // settings may have come or gone
			}
		}
		if len(left) == before {
			break
		}
	}
	for name := range left {
		return p.problem(words.New("no-setting", "name", name), prop.Prop{Name: name})
	}
	return nil
}

func (p Place) setOne(x prop.Prop, raw json.RawMessage, adding bool) error {
	if x.Fixed && !adding {
		return p.problem(words.New("fixed"), x)
	}
	if r, ok := p.Thing.(renamer); ok && !adding && (x.Name == "name" || x.Name == "label" && p.What == "choice") {
		var name string
		if err := prop.Strictly(raw, &name); err != nil {
			return p.problem(words.New("not-formed"), x)
		}
		name = trim(name)
		if wrong := named(&name).Wrong(); wrong != nil || name == "" {
			if wrong == nil {
				wrong = words.New("must")
			}
			return p.problem(wrong, x)
		}
		return r.Rename(p.Context, name)
	}
	if err := x.Set(raw); err != nil {
		return p.problem(words.New("not-formed"), x)
	}
	return nil
}

// reset lets what depends on a setting that changed begin anew.
func (p Place) reset(setting string, given Values) {
	if r, ok := p.Thing.(resetter); ok {
		r.Reset(p.Context, setting)
		for _, x := range p.Props() { // names of what is not offered any more
			for _, ref := range x.Refs() {
				if _, there := ref.To.Find(ref.ID); !there && given[x.Name] == nil {
					ref.Cut()
				}
			}
		}
		return
	}
	for _, x := range p.Props() {
		if _, said := given[x.Name]; !said && !x.Resets && (len(x.Refs()) > 0 || len(x.Exprs()) > 0) {
			x.Clear()
		}
	}
	if s, ok := p.Thing.(starter); ok {
		s.Start(p.Context)
	}
}

// problem says of which thing and setting something is wrong.
func (p Place) problem(wrong *words.Problem, x prop.Prop) error {
	if wrong.Args == nil {
		wrong.Args = words.Args{}
	}
	wrong.Args["thing"], wrong.Args["setting"] = p.Called(), Noun(x)
	if x.Hint != "" && (wrong.Code == "must" || wrong.Code == "not-offered") {
		wrong.Hint = "hint-" + x.Hint
	}
	wrong.Slot = x.Name
	return wrong
}

// Noun gives what a setting is called in sentences.
func Noun(x prop.Prop) string {
	if x.Noun != "" {
		return x.Noun
	}
	if x.Label != "" {
		return words.Say("noun-of", words.Args{"label": lower(x.Label)})
	}
	return x.Name
}

// Apply gives the blueprint after the changes, leaving the one it is given as it
// was. An error of type [*words.Problem] says in words why a change cannot be
// made.
func Apply(b *Blueprint, changes ...Change) (*Blueprint, error) {
	next, err := b.clone()
	if err != nil {
		return nil, err
	}
	for _, c := range changes {
		if err := c.apply(next); err != nil {
			return nil, err
		}
		if err := next.Validate(); err != nil {
			return nil, err
		}
	}
	return next, nil
}

func (b *Blueprint) clone() (*Blueprint, error) {
	raw, err := json.Marshal(b)
	if err != nil {
		return nil, fmt.Errorf("copy blueprint: %w", err)
	}
	return decode(raw)
}

// kinds lists an empty one of every change.
func kinds() []Change {
	return []Change{&AddThing{}, &Set{}, &Move{}, &Remove{}, &MergeChoice{}}
}

// Kind gives the name of a change as it stands in JSON.
func Kind(c Change) string {
	switch c.(type) {
	case *AddThing:
		return "add"
	case *Set:
		return "set"
	case *Move:
		return "move"
	case *Remove:
		return "remove"
	case *MergeChoice:
		return "merge"
	}
	return ""
}

// Encode writes a change as JSON, with its kind.
func Encode(c Change) (json.RawMessage, error) {
	raw, err := json.Marshal(c)
	if err != nil {
		return nil, fmt.Errorf("write change: %w", err)
	}
	return append([]byte(`{"kind":"`+Kind(c)+`",`), raw[1:]...), nil
}

// DecodeChange reads a change from JSON. What is added gets an id from newID
// where the change does not carry one.
func DecodeChange(raw []byte, newID func() string) (Change, error) {
	var head map[string]json.RawMessage
	if err := json.Unmarshal(raw, &head); err != nil {
		return nil, words.New("change-object")
	}
	kind := Values(head).Text("kind")
	delete(head, "kind")
	rest, err := json.Marshal(head)
	if err != nil {
		return nil, fmt.Errorf("read change: %w", err)
	}
	for _, example := range kinds() {
		if Kind(example) != kind {
			continue
		}
		if err := prop.Strictly(rest, example); err != nil {
			return nil, words.New("change-formed", "kind", kind).With(errors.Unwrap(err))
		}
		if c, ok := example.(*AddThing); ok && c.ID == "" {
			c.ID = newID()
		}
		return example, nil
	}
	return nil, words.New("change-unknown", "kind", kind)
}
