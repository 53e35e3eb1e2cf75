package blueprint

import (
	"regexp"

	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

// The types of field whose values are other records.
const (
	Link  FieldType = "link"
	Links FieldType = "links"
)

// linking is a type whose values are records of another table.
type linking struct {
	base
	many bool
}

var (
	link = linking{
		base{TypeRow{Name: Link, Words: "a link", Label: "Link to one record", Group: "Links", Column: "uuid", Single: true}},
		false,
	}
	links = linking{base{TypeRow{Name: Links, Words: "links", Label: "Links to several records", Group: "Links", Whole: true}}, true}
)

func (t linking) Value(f *Field) expr.Type {
	return expr.Type{Kind: expr.Record, Table: f.Target, Many: t.many}
}

func (t linking) Core(f *Field) string {
	switch {
	case f.Of != "":
		return "{name} lists {target} whose {of} is this record"
	case t.many:
		return "{name} are {type} to {target}"
	}
	return "{name} is {type} to {target}"
}

func (t linking) Props(f *Field, c Context) []prop.Prop {
	out := []prop.Prop{
		{
			Name:   "target",
			Label:  "Links to",
			Noun:   "the table it links to",
			Must:   true,
			Resets: true,
			Value:  prop.One(&f.Target, c.Tables()),
			Lost:   takesOut,
		},
	}
	if t.many {
		own := c.tableID()
		back := func(x *Field) bool {
			return (x.Type == Link || x.Type == Links) && x.Target == own && x.Of == "" && x.ID != f.ID
		}
		out = append(out, prop.Prop{Name: "of", Label: "Shows the other side of", Noun: "the link it is the other side of",
			Value: prop.One(&f.Of, c.Fields(f.Target, back)).OrNone("no link: these links are its own"), Lost: takesOut})
	}
	return out
}

// Check refuses a second other side of the same link.
func (linking) Check(f *Field, c Context) *words.Problem {
	if c.table == nil || f.Of == "" {
		return nil
	}
	for i := range c.table.Fields {
		if other := &c.table.Fields[i]; other.Of == f.Of && other.ID != f.ID {
			return words.New("same-side", "other", other.Name)
		}
	}
	return nil
}

var uuidPattern = regexp.MustCompile(`^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$`)

// IsRecordID tells whether the text has the form of a record's id.
func IsRecordID(s string) bool { return uuidPattern.MatchString(s) }

// Read reads the id of a record; several are read one by one.
func (linking) Read(_ *Blueprint, _ *Field, s string) (expr.Value, *words.Problem) {
	if !IsRecordID(s) {
		return expr.Value{}, words.New("read-record")
	}
	return expr.RecordOf(s), nil
}
