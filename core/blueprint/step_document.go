package blueprint

import (
	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

var documentStepKind = StepKind{
	Name:  "document",
	Label: "Make a document",
	Noun:  "step that makes a document",
	Help:  "From a Word file with values in double braces; it is kept on a record, and later steps can attach it",
	New:   func() Step { return &DocumentStep{} },
}

// DocumentStep fills in a Word file, and keeps what comes of it in a field of a record.
type DocumentStep struct {
	StepHead
	Title    string `json:"title"`
	Template string `json:"template"` // files, of which the first is filled in
	Record   string `json:"record"`
	Field    string `json:"field"` // id
}

// Row gives the kind.
func (*DocumentStep) Row() *StepKind { return &documentStepKind }

// Called says which step it is.
func (*DocumentStep) Called(c Context) string { return calledStep(&documentStepKind, c) }

// Core is the sentence that tells it.
func (*DocumentStep) Core(Context) string {
	return "Make the document {title} from {template} with the values of {record}, and keep it as its {field}"
}

// Props lists its settings.
func (x *DocumentStep) Props(c Context) []prop.Prop {
	table := ""
	if t := c.tableOfRecord(x.Record, false); t != nil {
		table = t.ID
	}
	title := flowText(&x.Title, c, "title", "What it is called", "the name of the document")
	title.Help = "Such as “Invoice {{made.new_invoice.number}}”"
	return []prop.Prop{
		title,
		{
			Name:  "template",
			Label: "From the Word file",
			Noun:  "the Word file",
			Help:  "A field that holds it, such as that of a record of templates which was found before",
			Must:  true,
			Asked: true,
			Value: prop.Expression(&x.Template, c.Flows(), expr.Type{Kind: expr.File, Many: true}).Offering(c.fileOffers()),
			Lost:  stepGone,
		},
		{
			Name:   "record",
			Label:  "With the values of",
			Noun:   "the record",
			Must:   true,
			Asked:  true,
			Resets: true,
			Hint:   "no-record",
			Value:  prop.Expression(&x.Record, c.Flows(), expr.Type{}).Offering(c.recordOffers(false)),
			Lost:   stepGone,
		},
		{
			Name:  "field",
			Label: "Kept as its",
			Noun:  "the field that keeps it",
			Must:  c.b != nil,
			Asked: true,
			Value: prop.One(&x.Field, c.Fields(table, func(f *Field) bool { return f.Type == File })),
			Lost:  stepGone,
		},
	}
}

// Reset drops the field, which was one of another table.
func (x *DocumentStep) Reset(c Context, _ string) {
	if t := c.tableOfRecord(x.Record, false); t == nil || t.Field(x.Field) == nil {
		x.Field = ""
	}
}

// Check refuses values of what is no record.
func (x *DocumentStep) Check(c Context) *words.Problem {
	if c.flow != nil && c.tableOfRecord(x.Record, false) == nil {
		return words.New("flow-record")
	}
	return nil
}
