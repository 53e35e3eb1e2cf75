package blueprint

import (
	"encoding/json"
	"slices"
	"strconv"
	"strings"

	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

// AddThing adds a thing: What says which kind, Into the id of the thing that it becomes
// part of. What it needs beyond the values gets a sensible start. Parts that come
// with it have ids made of its own.
type AddThing struct {
	What   string `json:"what"`
	Into   string `json:"into,omitempty"`
	ID     string `json:"id,omitempty"`
	At     *int   `json:"at,omitempty"` // its place, counted from 0; at the end without one
	Values Values `json:"values"`
}

// adders say how a thing of each kind is added: it is put into its list, and then
// its values are set.
var adders = map[string]func(b *Blueprint, c *AddThing) error{
	"table": addTable, "field": addField, "list": addList, "choice": addChoice, "column": addColumn,
	"role": addRole, "rule": addRule, "expectation": addExpectation, "page": addPage, "block": addBlock,
	"part": addPart, "input": addInput, "value": addOwnValue, "reaction": addReaction, "kept": addKept,
	"workflow": addWorkflow, "step": addStep, "connection": addConnection, "call": addCall, "sent": addSent, "taken": addTaken,
	"measure": addMeasure,
}

func (c *AddThing) apply(b *Blueprint) error {
	add := adders[c.What]
	if add == nil {
		return words.New("add-what", "what", c.What)
	}
	if err := c.formed(); err != nil {
		return err
	}
	return add(b, c)
}

// formed refuses values that are read before there are settings that would refuse
// them, where they are no texts.
func (c *AddThing) formed() error {
	for _, name := range []string{"fields", "label", "back", "backId", "choices", "kind", "table"} {
		raw, text := c.Values[name], ""
		if len(raw) == 0 || name == "fields" && raw[0] == '[' {
			continue
		}
		if json.Unmarshal(raw, &text) != nil {
			return words.New("change-formed", "kind", "add")
		}
	}
	return nil
}

// Adds gives the id of what is added.
func (c *AddThing) Adds() string {
	if c.What == "rule" {
		return RuleID(c.Into, c.Values.Text("table"))
	}
	return c.ID
}

// part gives the id of a part that comes with a thing.
func (c *AddThing) part(n int) string { return c.ID + "_" + strconv.Itoa(n) }

// Tried gives the thing that a change sets or adds, with the values that fit so
// far, so that its settings can be offered. Nothing is checked, and the blueprint
// stays as it is.
func Tried(b *Blueprint, c Change) (Place, error) {
	next, err := b.clone()
	if err != nil {
		return Place{}, err
	}
	id, values := "", Values(nil)
	switch c := c.(type) {
	case *Set:
		next.ruleFor(c.Of)
		id, values = c.Of, c.Values
	case *AddThing:
		blank := *c
		blank.Values = map[string]Values{"rule": {"table": c.Values["table"]}, "block": {"kind": c.Values["kind"]},
			"workflow": {"kind": c.Values["kind"]}, "step": {"kind": c.Values["kind"]},
			"list": Vals("choices", "–")}[c.What]
		if err := blank.apply(next); err != nil {
			return Place{}, err
		}
		id, values = c.Adds(), c.Values
	default:
		return Place{}, words.New("change-unknown", "kind", Kind(c))
	}
	p, err := next.at(id)
	if err != nil {
		return p, err
	}
	_, adding := c.(*AddThing)
	for again := true; again; { // one setting can make room for another
		again = false
		for _, x := range p.Props() {
			raw, given := values[x.Name]
			if !given || x.Name == "name" && !adding {
				continue
			}
			values = values.Without(x.Name)
			if p.set(Values{x.Name: raw}, adding) == nil && x.Resets {
				again = true
				break
			}
		}
	}
	return p, nil
}

// fill sets the values of the thing that was just put into its list, and starts
// what they leave open.
func (c *AddThing) fill(b *Blueprint, id string, values Values) error {
	p, err := b.at(id)
	if err != nil {
		return err
	}
	if err := p.set(values, true); err != nil {
		return err
	}
	if s, ok := p.Thing.(starter); ok {
		s.Start(p.Context)
	}
	if s, ok := p.Thing.(settler); ok {
		if err := s.Settle(p.Context, values); err != nil {
			return err
		}
	}
	if c.At != nil {
		p.list.move(p.At, *c.At)
	}
	return nil
}

// Without leaves out values.
func (v Values) Without(names ...string) Values {
	out := Values{}
	for name, raw := range v {
		if !slices.Contains(names, name) {
			out[name] = raw
		}
	}
	return out
}

// addTable adds a table with its first fields: those that are listed, or one that
// is called Name.
func addTable(b *Blueprint, c *AddThing) error {
	b.Tables = append(b.Tables, Table{ID: c.ID, Label: `""`, Fields: []Field{}})
	if err := c.fill(b, c.ID, c.Values.Without("fields", "label")); err != nil {
		return err
	}
	t := b.Table(c.ID)
	t.Key = b.tableKey(t.Name, t.ID)
	fields, err := c.fields()
	if err != nil {
		return err
	}
	for i, values := range fields {
		id := values.Text("id")
		if id == "" {
			id = c.part(i + 1)
		}
		if err := addField(b, &AddThing{What: "field", Into: c.ID, ID: id, Values: values.Without("id")}); err != nil {
			return err
		}
	}
	t = b.Table(c.ID)
	t.Label = c.Values.Text("label")
	if t.Label == "" {
		t.Label = t.Fields[0].Key
		if f := find(t.Fields, func(f *Field) bool { return f.Type == Text }); f != nil {
			t.Label = f.Key
		}
	}
	return nil
}

// fields reads the fields that a new table begins with: a list of values, or a
// text with a field a line.
func (c *AddThing) fields() ([]Values, error) {
	raw := c.Values["fields"]
	var list []Values
	var err error
	if len(raw) > 0 && raw[0] == '[' {
		if json.Unmarshal(raw, &list) != nil {
			return nil, words.New("change-formed", "kind", "add")
		}
	} else {
		list, err = FieldLines(c.Values.Text("fields"))
	}
	if len(list) == 0 && err == nil {
		list = []Values{Vals("name", "Name", "type", Text, "required", true)}
	}
	return list, err
}

// FieldLines reads fields that are written one a line: a name, and behind a comma
// or a colon what it holds; text where that is not said.
func FieldLines(text string) ([]Values, error) {
	var out []Values
	for _, l := range lines(text) {
		name, what, _ := strings.Cut(l, ",")
		if before, after, ok := strings.Cut(l, ":"); ok && len(before) < len(name) {
			name, what = before, after
		}
		values := Vals("name", trim(name))
		what, required := strings.CutSuffix(strings.ToLower(trim(what)), "required")
		if required {
			values["required"] = json.RawMessage("true")
		}
		t := typeNamed(strings.Trim(what, ", "))
		if t == "" {
			return nil, words.New("field-line", "line", l, "what", trim(what))
		}
		values["type"] = Vals("t", t)["t"]
		out = append(out, values)
	}
	return out, nil
}

// typeNamed finds a type of field by what it is called; those that need a table or
// a list are added by themselves.
func typeNamed(what string) FieldType {
	if what == "" {
		return Text
	}
	for _, t := range types {
		row := t.Row()
		if row.Nature == Computed || row.Group == "Links" || t.Value(&Field{}).Kind == "choice" {
			continue
		}
		for _, called := range []string{string(row.Name), row.Words, row.Label,
			strings.TrimPrefix(strings.TrimPrefix(row.Words, "an "), "a ")} {
			if strings.EqualFold(what, called) {
				return row.Name
			}
		}
	}
	return map[string]FieldType{"email": Email, "money": Money, "amount": Money, "price": Money, "yes no": YesNo, "checkbox": YesNo,
		"photo": Picture, "website": Web, "time": TimeStamp, "hours": Duration}[what]
}

func lines(text string) []string {
	var out []string
	for _, l := range strings.Split(text, "\n") {
		if l = trim(l); l != "" {
			out = append(out, l)
		}
	}
	return out
}

// addField adds a field to a table. The value back, for links, is the name of the
// field that shows the other side on the table linked to.
func addField(b *Blueprint, c *AddThing) error {
	t := b.Table(c.Into)
	if t == nil {
		return words.New("gone", "thing", "table")
	}
	t.Fields = append(t.Fields, Field{ID: c.ID, Key: "x", Type: Text})
	if err := c.fill(b, c.ID, c.Values.Without("back", "backId")); err != nil {
		return err
	}
	f := b.Table(c.Into).Field(c.ID)
	f.Key = b.Table(c.Into).fieldKey(f.Name, f.ID)
	back := trim(c.Values.Text("back"))
	if back == "" {
		return nil
	}
	target := b.Table(f.Target)
	if target == nil || f.Of != "" {
		return words.New("back-link")
	}
	id := c.Values.Text("backId")
	if id == "" {
		id = c.part(1)
	}
	target.Fields = append(target.Fields, Field{ID: id, Key: target.fieldKey(back, id), Name: back, Type: Links, Target: c.Into,
		FieldSettings: FieldSettings{Of: f.ID}})
	return nil
}

// addList adds a choice list; the value choices has its first choices, one a line.
func addList(b *Blueprint, c *AddThing) error {
	b.Lists = append(b.Lists, ChoiceList{ID: c.ID, Choices: []Choice{}})
	if err := c.fill(b, c.ID, c.Values.Without("choices", "ids")); err != nil {
		return err
	}
	var ids []string
	if raw := c.Values["ids"]; raw != nil {
		if err := prop.Strictly(raw, &ids); err != nil {
			return words.New("change-formed", "kind", "add")
		}
	}
	l := b.List(c.ID)
	for i, label := range lines(c.Values.Text("choices")) {
		id := c.part(i + 1)
		if i < len(ids) {
			id = ids[i]
		}
		l.Choices = append(l.Choices, Choice{ID: id, Label: label})
	}
	if len(l.Choices) == 0 {
		return words.New("list-empty")
	}
	return nil
}

func addChoice(b *Blueprint, c *AddThing) error {
	l := b.List(c.Into)
	if l == nil {
		return words.New("gone", "thing", "choice list")
	}
	l.Choices = append(l.Choices, Choice{ID: c.ID})
	return c.fill(b, c.ID, c.Values)
}

func addColumn(b *Blueprint, c *AddThing) error {
	l := b.List(c.Into)
	if l == nil {
		return words.New("gone", "thing", "choice list")
	}
	l.Columns = append(l.Columns, ListColumn{ID: c.ID, Key: "x", Type: TextColumn})
	if err := c.fill(b, c.ID, c.Values); err != nil {
		return err
	}
	col := b.List(c.Into).Column(c.ID)
	col.Key = l.columnKey(col.Name, col.ID)
	return nil
}

func addRole(b *Blueprint, c *AddThing) error {
	b.Roles = append(b.Roles, Role{ID: c.ID, Rules: []Rule{}})
	return c.fill(b, c.ID, c.Values)
}

// addRule adds what a role can do with a table.
func addRule(b *Blueprint, c *AddThing) error {
	r, table := b.Role(c.Into), c.Values.Text("table")
	switch {
	case r == nil:
		return words.New("gone", "thing", "role")
	case b.Table(table) == nil:
		return words.New("gone", "thing", "table")
	case slices.ContainsFunc(r.Rules, func(x Rule) bool { return x.Table == table }):
		return words.New("rule-there", "role", r.Name, "table", b.Table(table).Name)
	}
	r.Rules = append(r.Rules, Rule{Table: table})
	return c.fill(b, RuleID(r.ID, table), c.Values.Without("table"))
}

// Permit gives the change that says what a role can do with a table, whether or
// not something was said of that before.
func Permit(role, table string, pairs ...any) Change {
	return &Set{Of: RuleID(role, table), Values: Vals(pairs...)}
}

func addExpectation(b *Blueprint, c *AddThing) error {
	if b.Role(c.Into) == nil {
		return words.New("gone", "thing", "role")
	}
	b.Expectations = append(b.Expectations, Expectation{ID: c.ID, Role: c.Into, Action: See})
	return c.fill(b, c.ID, c.Values)
}

// addPage adds a page that is open to those signed in, with its name as a heading;
// one about a record begins with its details.
func addPage(b *Blueprint, c *AddThing) error {
	b.Pages = append(b.Pages, Page{ID: c.ID, Path: "x", Audience: SignedIn, Blocks: Blocks{}})
	if err := c.fill(b, c.ID, c.Values); err != nil {
		return err
	}
	p := b.Page(c.ID)
	p.Path = b.pagePath(p.Name, p.ID)
	heading := &HeadingBlock{BlockHead: BlockHead{ID: c.part(1), Kind: headingKind.Name}, Text: p.Name}
	p.Blocks = Blocks{heading}
	if t := b.Table(p.Record); t != nil {
		p.Blocks = append(p.Blocks, &DetailsBlock{BlockHead: BlockHead{ID: c.part(2), Kind: detailsKind.Name}, Fields: t.firstFields(6)})
	}
	return nil
}

func addBlock(b *Blueprint, c *AddThing) error {
	blocks := b.blocksOf(c.Into)
	if blocks == nil {
		return words.New("gone", "thing", "page")
	}
	kind := c.Values.Text("kind")
	x := NewBlock(kind, c.ID)
	if x == nil {
		return words.New("no-block", "kind", kind)
	}
	*blocks = append(*blocks, x)
	return c.fill(b, c.ID, c.Values.Without("kind"))
}

func addPart(b *Blueprint, c *AddThing) error {
	b.Parts = append(b.Parts, Part{ID: c.ID, Blocks: Blocks{}})
	return c.fill(b, c.ID, c.Values)
}

// partOf gives the part with the id, into which something is added.
func (b *Blueprint) partOf(id string) (*Part, error) {
	p := b.Part(id)
	if p == nil {
		return nil, words.New("gone", "thing", "part")
	}
	return p, nil
}

func addInput(b *Blueprint, c *AddThing) error {
	list, _, err := b.inputsOf(c.Into)
	if err != nil {
		return err
	}
	*list = append(*list, Input{ID: c.ID, Key: "x", Type: Text})
	if err := c.fill(b, c.ID, c.Values); err != nil {
		return err
	}
	list, _, err = b.inputsOf(c.Into)
	if err != nil {
		return err
	}
	x := find(*list, func(x *Input) bool { return x.ID == c.ID })
	x.Key = b.inputKey(c.Into, x.Name, x.ID)
	return nil
}

// inputsOf gives what a part, or a routine, with the id is given, and the id of the table by which
// expressions know that.
func (b *Blueprint) inputsOf(id string) (list *[]Input, table string, err error) {
	if w := b.Workflow(id); w != nil && w.Routine() != nil {
		return &w.Routine().Inputs, expr.AnswersTable, nil
	}
	p, err := b.partOf(id)
	if err != nil {
		return nil, "", err
	}
	return &p.Inputs, expr.VarsTable, nil
}

// inputKey makes a key by which nothing else is known that a part, or a routine, is given.
func (b *Blueprint) inputKey(in, name, self string) string {
	if w := b.Workflow(in); w != nil && w.Routine() != nil {
		return keyFor(name, "value", func(k string) bool {
			return slices.ContainsFunc(w.Routine().Inputs, func(x Input) bool { return x.Key == k && x.ID != self })
		})
	}
	return b.givenKey(name, self)
}

func addOwnValue(b *Blueprint, c *AddThing) error {
	p, err := b.partOf(c.Into)
	if err != nil {
		return err
	}
	p.Values = append(p.Values, OwnValue{ID: c.ID})
	return c.fill(b, c.ID, c.Values)
}

// addReaction adds what a part, or a block in one, does when something happens.
func addReaction(b *Blueprint, c *AddThing) error {
	into, ok := b.Place(c.Into)
	if !ok || into.Context.part == nil {
		return words.New("gone", "thing", "part")
	}
	r := Reaction{ID: c.ID, On: Over}
	switch x := into.Thing.(type) {
	case *Part:
		x.Reacts = append(x.Reacts, r)
	case Block:
		x.Self().Reacts = append(x.Self().Reacts, r)
	default:
		return words.New("gone", "thing", "part")
	}
	return c.fill(b, c.ID, c.Values)
}

func addKept(b *Blueprint, c *AddThing) error {
	b.Kept = append(b.Kept, Kept{ID: c.ID, Key: "x", Type: Text})
	if err := c.fill(b, c.ID, c.Values); err != nil {
		return err
	}
	k := b.KeptValue(c.ID)
	k.Key = b.givenKey(k.Name, k.ID)
	return nil
}
