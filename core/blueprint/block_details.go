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

// DetailsBlock shows fields of the page's record.
type DetailsBlock struct {
	BlockHead
	Fields []string `json:"fields"`
}

// Row gives the kind.
func (*DetailsBlock) Row() *BlockKind { return &detailsKind }

// Called says which block it is.
func (*DetailsBlock) Called(c Context) string { return calledBlock(&detailsKind, c) }

// Core is the sentence that tells it.
func (*DetailsBlock) Core(Context) string { return "The details show {fields}" }

// Props lists its settings.
func (x *DetailsBlock) Props(c Context) []prop.Prop {
	return []prop.Prop{
		{Name: "fields", Label: "Fields, in this order", Noun: "the fields", Value: prop.Many(&x.Fields, c.Fields(c.record(), nil))},
	}
}

// Check refuses details where there is no record.
func (x *DetailsBlock) Check(c Context) *words.Problem {
	if c.page != nil && c.page.Record == "" {
		return words.New("needs-record", "page", c.page.Name)
	}
	return nil
}

// Start chooses fields.
func (x *DetailsBlock) Start(c Context) {
	if t := c.tableOf(c.record()); t != nil && len(x.Fields) == 0 {
		x.Fields = t.firstFields(6)
	}
}
