package blueprint

import (
	"fmt"
	"slices"
	"strings"

	"pinegate/core/expr"
)

// RenameApp gives the app another name.
type RenameApp struct {
	Name string `json:"name"`
}

func (c *RenameApp) apply(b *Blueprint) error {
	b.Name = strings.TrimSpace(c.Name)
	return nil
}

// SetTheme gives the app another look.
type SetTheme struct {
	Theme Theme `json:"theme"`
}

func (c *SetTheme) apply(b *Blueprint) error {
	b.Theme = c.Theme
	return nil
}

// AddTable adds a table with one field, Name, which is its label.
type AddTable struct {
	ID    string `json:"id,omitempty"`
	Field string `json:"field,omitempty"` // id of the field Name
	Name  string `json:"name"`
}

func (c *AddTable) fill(newID func() string) {
	fillID(&c.ID, newID)
	fillID(&c.Field, newID)
}

func (c *AddTable) apply(b *Blueprint) error {
	name := strings.TrimSpace(c.Name)
	b.Tables = append(b.Tables, Table{
		ID: c.ID, Key: b.tableKey(name, c.ID), Name: name, Label: "name",
		Fields: []Field{{ID: c.Field, Key: "name", Name: "Name", Type: Text, Required: true}},
	})
	return nil
}

// RenameTable gives a table another name and key.
type RenameTable struct {
	Table string `json:"table"`
	Name  string `json:"name"`
}

func (c *RenameTable) apply(b *Blueprint) error {
	t := b.Table(c.Table)
	if t == nil {
		return gone("table")
	}
	name := strings.TrimSpace(c.Name)
	if err := checkName("A table", name); err != nil {
		return err
	}
	key := b.tableKey(name, t.ID)
	if err := b.renameInExpressions(fieldRefs, func(r expr.Ref) string {
		switch {
		case r.Table != t.ID || r.Field != "":
			return ""
		case r.Bracketed:
			return name
		}
		return key
	}); err != nil {
		return err
	}
	t.Name, t.Key = name, key
	return nil
}

func gone(what string) error {
	return problem("That %s is no longer there; somebody may have removed it meanwhile.", what)
}

// RemoveTable removes a table with the rules about it. It is refused while
// something else uses the table, unless Mend says that those places are to be
// mended, as [Mends] tells.
type RemoveTable struct {
	Table string `json:"table"`
	Mend  bool   `json:"mend,omitempty"`
}

func (c *RemoveTable) apply(b *Blueprint) error {
	t := b.Table(c.Table)
	if t == nil {
		return gone("table")
	}
	if c.Mend {
		b.mendTable(c.Table)
		t = b.Table(c.Table)
	}
	if uses := b.usesOfTable(t); len(uses) > 0 {
		return problem("%s cannot be removed: it is used by %s. Change that first.", t.Name, joinWords(uses))
	}
	for i := range b.Roles {
		r := &b.Roles[i]
		r.Rules = slices.DeleteFunc(r.Rules, func(x Rule) bool { return x.Table == c.Table })
	}
	b.forgetExpectations(func(e Expectation) bool { return e.Table == c.Table })
	b.Tables = slices.DeleteFunc(b.Tables, func(x Table) bool { return x.ID == c.Table })
	return nil
}

func (b *Blueprint) usesOfTable(t *Table) []string {
	var uses []string
	for _, other := range b.Tables {
		for _, f := range other.Fields {
			if f.Target == t.ID && other.ID != t.ID {
				uses = append(uses, fmt.Sprintf("the link %s of %s", f.Name, other.Name))
			}
		}
	}
	for _, r := range b.Roles {
		if r.People == t.ID {
			uses = append(uses, "the role "+r.Name+", whose people it holds")
		}
	}
	for _, p := range b.Pages {
		uses = append(uses, p.usesOfTable(t)...)
	}
	for _, where := range b.usesWhere(fieldRefs, func(r expr.Ref) bool { return r.Table == t.ID && r.Field == "" }) {
		if !slices.Contains(uses, where) {
			uses = append(uses, where)
		}
	}
	return uses
}

func (p *Page) usesOfTable(t *Table) []string {
	if p.Record == t.ID {
		return []string{"the page " + p.Name}
	}
	var uses []string
	for _, x := range p.Blocks {
		if x.List != nil && x.List.Table == t.ID || x.Form != nil && x.Form.Table == t.ID {
			uses = append(uses, fmt.Sprintf("a %s on the page %s", x.Kind, p.Name))
		}
	}
	return uses
}

func joinWords(words []string) string {
	if len(words) < 2 {
		return strings.Join(words, "")
	}
	return strings.Join(words[:len(words)-1], ", ") + " and " + words[len(words)-1]
}

// SetLabel says by which text the records of a table are known.
type SetLabel struct {
	Table string `json:"table"`
	Label string `json:"label"`
}

func (c *SetLabel) apply(b *Blueprint) error {
	t := b.Table(c.Table)
	if t == nil {
		return gone("table")
	}
	t.Label = c.Label
	return nil
}

// AddField adds a field to a table. Back, for links, is the name of the field
// that shows the other side on the table linked to; "" adds none.
type AddField struct {
	Table    string    `json:"table"`
	ID       string    `json:"id,omitempty"`
	Name     string    `json:"name"`
	Type     FieldType `json:"type"`
	List     string    `json:"list,omitempty"`
	Target   string    `json:"target,omitempty"`
	Required bool      `json:"required,omitempty"`
	Back     string    `json:"back,omitempty"`
	BackID   string    `json:"backId,omitempty"`
	FieldSettings
}

func (c *AddField) fill(newID func() string) {
	fillID(&c.ID, newID)
	if c.Back != "" {
		fillID(&c.BackID, newID)
	}
}

func (c *AddField) apply(b *Blueprint) error {
	t := b.Table(c.Table)
	if t == nil {
		return gone("table")
	}
	name := strings.TrimSpace(c.Name)
	f := Field{ID: c.ID, Key: t.fieldKey(name, c.ID), Name: name, Required: c.Required, FieldSettings: c.FieldSettings}
	f.setType(c.Type, c.List, c.Target)
	t.Fields = append(t.Fields, f)
	if c.Back == "" {
		return nil
	}
	target := b.Table(c.Target)
	if target == nil || c.Of != "" || f.Type != Link && f.Type != Links {
		return problem("Only a link to a table has another side.")
	}
	back := strings.TrimSpace(c.Back)
	target.Fields = append(target.Fields, Field{ID: c.BackID, Key: target.fieldKey(back, c.BackID), Name: back, Type: Links, Target: t.ID, FieldSettings: FieldSettings{Of: f.ID}})
	return nil
}

// setType sets the type with what belongs to it and nothing else.
func (f *Field) setType(t FieldType, list, target string) {
	f.Type, f.List, f.Target = t, "", ""
	switch t {
	case Choose, ChooseMany:
		f.List = list
	case Link, Links:
		f.Target = target
	}
	f.tidy()
}

// tidy drops the settings that do not belong to the type, and fills in those
// without which it cannot be.
func (f *Field) tidy() {
	s := f.FieldSettings
	keep := FieldSettings{Unique: s.Unique && Uniqueable(f.Type)}
	if f.Type.Entered() && f.Type != Links && f.Type != ChooseMany && !f.Type.Filed() {
		keep.Default = s.Default
	}
	if f.Type.Numeric() {
		keep.Least, keep.Most = s.Least, s.Most
	}
	if f.Type.Numeric() || f.Type.Computed() {
		keep.Decimals, keep.Unit, keep.Currency = s.Decimals, s.Unit, s.Currency
	}
	if f.Type == Money && keep.Currency == "" {
		keep.Currency = "EUR"
	}
	if f.Type.Textual() {
		keep.MaxLength = s.MaxLength
	}
	switch f.Type {
	case File, Picture:
		keep.Several, keep.Largest = s.Several, s.Largest
	case Links:
		keep.Of = s.Of
	case Lookup:
		keep.Via, keep.Take = s.Via, s.Take
	case RollUp:
		keep.Via, keep.Take, keep.Total, keep.Where = s.Via, s.Take, s.Total, s.Where
	case Formula:
		keep.Formula = s.Formula
	case AutoNumber:
		keep.Prefix, keep.Width, keep.First = s.Prefix, s.Width, s.First
	}
	f.FieldSettings = keep
	f.Required = f.Required && f.Type.Entered()
}

// tableField is how changes name a field.
type tableField struct {
	Table string `json:"table"`
	Field string `json:"field"`
}

func (c tableField) find(b *Blueprint) (*Table, *Field, error) {
	t := b.Table(c.Table)
	if t == nil {
		return nil, nil, gone("table")
	}
	f := t.Field(c.Field)
	if f == nil {
		return nil, nil, gone("field")
	}
	return t, f, nil
}

// RenameField gives a field another name and key, and rewrites the
// expressions that use it.
type RenameField struct {
	tableField
	Name string `json:"name"`
}

func (c *RenameField) apply(b *Blueprint) error {
	t, f, err := c.find(b)
	if err != nil {
		return err
	}
	name := strings.TrimSpace(c.Name)
	if err := checkName("A field", name); err != nil {
		return err
	}
	key := t.fieldKey(name, f.ID)
	err = b.renameInExpressions(fieldRefs, func(r expr.Ref) string {
		switch {
		case r.Table != t.ID || r.Field != f.ID:
			return ""
		case r.Bracketed:
			return name
		}
		return key
	})
	if err != nil {
		return err
	}
	f.Name, f.Key = name, key
	return nil
}

// RemoveField removes a field from its table and from the columns, forms and
// rules that show it. It is refused while an expression or a role needs it,
// unless Mend says that those places are to be mended, as [Mends] tells.
type RemoveField struct {
	tableField
	Mend bool `json:"mend,omitempty"`
}

func (c *RemoveField) apply(b *Blueprint) error {
	t, f, err := c.find(b)
	if err != nil {
		return err
	}
	if c.Mend {
		b.mendField(t.ID, f.ID)
		t = b.Table(c.Table)
		f = t.Field(c.Field)
	}
	uses := append(b.usesOfField(t.ID, f.ID), b.builtOn(f.ID)...)
	for _, r := range b.Roles {
		if r.Email == f.ID {
			uses = append(uses, "the role "+r.Name+", which knows its people by it")
		}
	}
	if len(uses) > 0 {
		return problem("%s of %s cannot be removed: it is used by %s. Change that first.", f.Name, t.Name, joinWords(uses))
	}
	b.forgetField(f.ID)
	t.Fields = slices.DeleteFunc(t.Fields, func(x Field) bool { return x.ID == c.Field })
	return nil
}

// builtOn says in words which other fields are made of the field.
func (b *Blueprint) builtOn(id string) []string {
	var out []string
	for _, t := range b.Tables {
		for _, f := range t.Fields {
			if f.Via == id || f.Take == id {
				out = append(out, fmt.Sprintf("the %s %s of %s", f.Type, f.Name, t.Name))
			}
			if f.Of == id {
				out = append(out, fmt.Sprintf("%s of %s, which is its other side", f.Name, t.Name))
			}
		}
	}
	return out
}

// forgetField takes a field out of the places that only list it.
func (b *Blueprint) forgetField(id string) {
	is := func(x string) bool { return x == id }
	b.forgetExpectations(func(e Expectation) bool { return e.Field == id })
	for i := range b.Tables {
		t := &b.Tables[i]
		t.Uniques = slices.DeleteFunc(t.Uniques, func(set []string) bool { return slices.Contains(set, id) })
	}
	for i := range b.Roles {
		b.Roles[i].forgetFieldOfGate(id)
		for j := range b.Roles[i].Rules {
			rule := &b.Roles[i].Rules[j]
			rule.Hidden = slices.DeleteFunc(rule.Hidden, is)
			rule.Fixed = slices.DeleteFunc(rule.Fixed, is)
		}
	}
	for i := range b.Pages {
		for j := range b.Pages[i].Blocks {
			x := &b.Pages[i].Blocks[j]
			if x.List != nil {
				x.List.Columns = slices.DeleteFunc(x.List.Columns, is)
				if field, _, _ := strings.Cut(x.List.Sort, "."); field == id {
					x.List.Sort = ""
				}
			}
			if x.Details != nil {
				x.Details.Fields = slices.DeleteFunc(x.Details.Fields, is)
			}
			if x.Form != nil {
				x.Form.Fields = slices.DeleteFunc(x.Form.Fields, func(f FormField) bool { return f.Field == id })
				x.Form.Presets = slices.DeleteFunc(x.Form.Presets, func(p Preset) bool { return p.Field == id })
			}
		}
	}
}

// SetFieldType gives a field another type; its values are converted where
// they can be.
type SetFieldType struct {
	tableField
	Type   FieldType `json:"type"`
	List   string    `json:"list,omitempty"`
	Target string    `json:"target,omitempty"`
	FieldSettings
}

func (c *SetFieldType) apply(b *Blueprint) error {
	t, f, err := c.find(b)
	if err != nil {
		return err
	}
	if built := b.builtOn(f.ID); len(built) > 0 && c.Type != f.Type {
		return problem("%s of %s cannot become %s: it is used by %s. Change that first.", f.Name, t.Name, c.Type, joinWords(built))
	}
	if c.FieldSettings != (FieldSettings{}) {
		f.FieldSettings = c.FieldSettings
	}
	f.setType(c.Type, c.List, c.Target)
	return nil
}

// SetFieldSettings replaces the settings of a field that belong to its type,
// and its hint where one is given.
type SetFieldSettings struct {
	tableField
	FieldSettings
	Help *string `json:"help,omitempty"`
}

func (c *SetFieldSettings) apply(b *Blueprint) error {
	_, f, err := c.find(b)
	if err != nil {
		return err
	}
	f.FieldSettings = c.FieldSettings
	f.tidy()
	if c.Help == nil {
		return nil
	}
	return (&SetHelp{c.tableField, *c.Help}).apply(b)
}

// SetUniques says which sets of fields are unique together.
type SetUniques struct {
	Table   string     `json:"table"`
	Uniques [][]string `json:"uniques"`
}

func (c *SetUniques) apply(b *Blueprint) error {
	t := b.Table(c.Table)
	if t == nil {
		return gone("table")
	}
	t.Uniques = c.Uniques
	return nil
}

// SetZone sets the time zone of the app, by its IANA name.
type SetZone struct {
	Zone string `json:"zone"`
}

func (c *SetZone) apply(b *Blueprint) error {
	b.Zone = c.Zone
	return nil
}

// SetRequired says whether a field must be filled in.
type SetRequired struct {
	tableField
	Required bool `json:"required"`
}

func (c *SetRequired) apply(b *Blueprint) error {
	_, f, err := c.find(b)
	if err == nil {
		f.Required = c.Required
	}
	return err
}

// SetHelp sets the words that help to fill in a field.
type SetHelp struct {
	tableField
	Help string `json:"help"`
}

func (c *SetHelp) apply(b *Blueprint) error {
	_, f, err := c.find(b)
	if err != nil {
		return err
	}
	if len(c.Help) > 500 {
		return problem("A help text may have at most 500 characters.")
	}
	f.Help = strings.TrimSpace(c.Help)
	return nil
}

// MoveField puts a field at another place in its table, counted from 0.
type MoveField struct {
	tableField
	To int `json:"to"`
}

func (c *MoveField) apply(b *Blueprint) error {
	t, _, err := c.find(b)
	if err == nil {
		move(t.Fields, slices.IndexFunc(t.Fields, func(f Field) bool { return f.ID == c.Field }), c.To)
	}
	return err
}
