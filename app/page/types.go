package page

import (
	"encoding/json"
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/store/records"
)

// Target is a page, with the record that it is about where it needs one.
type Target struct {
	Path   string `json:"path"`
	Record string `json:"record,omitempty"`
}

// Column describes a field to the browser. Kind is the kind of its values, and
// Many tells that there are several of them.
type Column struct {
	ID       string   `json:"id"`
	Table    string   `json:"table"` // id of the table
	Name     string   `json:"name"`
	Type     string   `json:"type"`
	Kind     string   `json:"kind"`
	Many     bool     `json:"many,omitempty"`
	Several  bool     `json:"several,omitempty"` // more than one file
	Largest  int64    `json:"largest,omitempty"` // bytes of a file
	Entered  bool     `json:"entered"`           // people fill it in
	Help     string   `json:"help,omitempty"`
	Decimals *int     `json:"decimals,omitempty"`
	Unit     string   `json:"unit,omitempty"`
	Currency string   `json:"currency,omitempty"`
	Show     string   `json:"show,omitempty" enum:"year,rating,bar"`
	Most     float64  `json:"most,omitempty"`  // stars of a rating, or the whole of a bar
	Least    float64  `json:"least,omitempty"` // of a slider
	Choices  []Choice `json:"choices,omitempty"`
}

// Choice is a choice of a field.
type Choice struct {
	ID      string `json:"id"`
	Label   string `json:"label"`
	Retired bool   `json:"retired,omitempty"` // shown, but not offered
	Colour  string `json:"colour,omitempty"`
	Picture string `json:"picture,omitempty"` // id of the picture
}

// Row is a record: id, revision, label, the values by the ids of the fields,
// and behind the id of a link with ~ the label of what it points to.
type Row = map[string]any

// Question is a field that a form asks for.
type Question struct {
	ID       string         `json:"id"` // of the question in its form
	Words    string         `json:"words,omitempty"`
	Help     string         `json:"help,omitempty"`
	Example  string         `json:"example,omitempty"`
	Ask      string         `json:"ask,omitempty" enum:"radio,buttons,cards,search,stars,slider"` // as is usual without
	Column   Column         `json:"column"`
	Required bool           `json:"required"`
	Shown    bool           `json:"shown,omitempty"`   // its value is only shown
	Param    string         `json:"param,omitempty"`   // by which the address can fill it in
	Value    any            `json:"value"`             // what it holds, or what it starts as in a new record
	Label    string         `json:"label"`             // of the record that the value points to
	Count    int            `json:"count,omitempty"`   // of the records that several links lead to, of which the value names the first
	Files    []records.File `json:"files,omitempty"`   // what is known of the files that the value names
	Options  []RecordOption `json:"options,omitempty"` // the first records that a link can point to
	More     bool           `json:"more,omitempty"`    // there are more than these; search for them
}

// RecordOption is a record that can be linked to.
type RecordOption struct {
	ID    string `json:"id"`
	Label string `json:"label"`
}

// ColumnOf describes a field.
func ColumnOf(b *blueprint.Blueprint, c *expr.Catalog, t *blueprint.Table, f *blueprint.Field) Column {
	table := ""
	if t != nil { // else nothing keeps its value
		table = t.ID
	}
	is := c.TypeOf(table, f.ID)
	if is.Kind == "" { // of a field that the catalog does not have
		is = f.ExprType()
	}
	return columnOf(b, f, table, is)
}

func columnOf(b *blueprint.Blueprint, f *blueprint.Field, table string, is expr.Type) Column {
	out := Column{ID: f.ID, Table: table, Name: f.Name, Type: string(f.Type), Entered: f.Type.Entered(), Help: f.Help, Decimals: f.Decimals,
		Unit: f.Unit, Currency: f.Currency, Kind: string(is.Kind), Many: is.Many}
	out.Show, out.Most = string(f.Show), f.MostShown()
	if f.Type.Filed() {
		out.Several, out.Largest = f.Several, f.LargestFile()
	}
	if l := b.List(is.List); l != nil {
		out.Choices = choices(l)
	}
	return out
}

// choices lists the choices of a list, with the colour and the picture that its
// first columns of those give them.
func choices(l *blueprint.ChoiceList) []Choice {
	colour, picture := l.FirstColumn(blueprint.ColourColumn), l.FirstColumn(blueprint.PictureColumn)
	var out []Choice
	for _, ch := range l.Choices {
		out = append(out, Choice{ch.ID, ch.Label, ch.Retired, ch.Values[colour], ch.Values[picture]})
	}
	return out
}

// Rows reads records as they come from the database.
func Rows(raw []json.RawMessage) ([]Row, error) {
	out := make([]Row, len(raw))
	for i, r := range raw {
		if err := json.Unmarshal(r, &out[i]); err != nil {
			return nil, err
		}
		for key := range out[i] {
			if strings.HasPrefix(key, "~") {
				delete(out[i], key)
			}
		}
	}
	return out, nil
}
