package blueprint

import (
	"pinegate/core/prop"
	"pinegate/core/words"
)

var detailsKind = BlockKind{
	Name:  "details",
	Label: "The record’s details",
	Noun:  "details",
	Help:  "Fields of the record that the page is about",
	About: true,
	New:   func() Block { return &DetailsBlock{} },
}

// DetailsBlock shows fields of the record in hand, or of one to which it links.
type DetailsBlock struct {
	BlockHead
	Title  string   `json:"title,omitempty"` // with placeholders
	Via    string   `json:"via,omitempty"`   // id of the link that leads to the record it shows
	Fields []string `json:"fields"`
	Edit   []string `json:"edit,omitempty"` // ids of fields that are changed where they stand
}

// Row gives the kind.
func (*DetailsBlock) Row() *BlockKind { return &detailsKind }

// Called says which block it is.
func (*DetailsBlock) Called(c Context) string { return calledBlock(&detailsKind, c) }

// Core is the sentence that tells it.
func (x *DetailsBlock) Core(Context) string {
	if x.Via != "" {
		return "The details of {via} show {fields}"
	}
	return "The details show {fields}"
}

// Shows gives the id of the table whose record it shows, where the record in hand is of a
// table.
func (x *DetailsBlock) Shows(b *Blueprint, table string) string {
	if t := b.Table(table); t != nil && x.Via != "" {
		if f := t.Field(x.Via); f != nil {
			return f.Target
		}
	}
	return table
}

// Props lists its settings.
func (x *DetailsBlock) Props(c Context) []prop.Prop {
	table := c.record()
	if c.b != nil {
		table = x.Shows(c.b, table)
	}
	return []prop.Prop{
		{
			Name:   "via",
			Label:  "Of the record linked by",
			Noun:   "whose details they are",
			Help:   "Details of another record, to which a link leads",
			Group:  "Which record",
			Resets: true,
			Value:  prop.One(&x.Via, c.Fields(c.record(), func(f *Field) bool { return f.Type == Link })).OrNone("this record"),
			Lost:   prop.Lost{Words: "they are taken off the page", TakeOut: true},
		},
		{Name: "fields", Label: "Fields, in this order", Noun: "the fields", Value: prop.Many(&x.Fields, c.Fields(table, nil))},
		{
			Name:  "title",
			Label: "Title",
			Noun:  "the title",
			Help:  "Words above them, as of a section",
			Group: "Look",
			Say:   ", titled {}",
			Value: prop.Template(&x.Title, c.Here()),
		},
		{
			Name:  "edit",
			Label: "Changed where they stand",
			Noun:  "the fields that are changed where they stand",
			Help:  "Fields that people change right there, as their rules let them",
			Group: "Actions",
			Say:   "; people change {} right there",
			Value: prop.Many(&x.Edit, c.Fields(table, changedThere)),
		},
	}
}

// changedThere tells whether values of a field can be changed where they stand.
func changedThere(f *Field) bool { return f.Type.Entered() && !f.Type.Filed() && f.Type != Links }

// Check refuses details where there is no record.
func (x *DetailsBlock) Check(c Context) *words.Problem {
	if c.b == nil || c.record() != "" {
		return nil
	}
	return words.New("needs-record", "page", c.stands())
}

// Reset chooses fields of another record.
func (x *DetailsBlock) Reset(c Context, _ string) {
	x.Fields, x.Edit = nil, nil
	x.Start(c)
}

// Start chooses fields.
func (x *DetailsBlock) Start(c Context) {
	if c.b == nil {
		return
	}
	if t := c.tableOf(x.Shows(c.b, c.record())); t != nil && len(x.Fields) == 0 {
		x.Fields = t.firstFields(6)
	}
}
