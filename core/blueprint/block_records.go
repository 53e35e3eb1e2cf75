package blueprint

import (
	"slices"
	"strings"

	"pinegate/core/expr"
	"pinegate/core/prop"
)

var recordsKind = BlockKind{
	Name:  "records",
	Label: "A list of records",
	Noun:  "list",
	Help:  "The records in a table that each person can see",
	New:   func() Block { return &RecordsBlock{} },
}

// RecordsBlock shows records of a table.
type RecordsBlock struct {
	BlockHead
	Table   string   `json:"table"`
	Filter  string   `json:"filter,omitempty"`  // condition over the record
	Columns []string `json:"columns,omitempty"` // ids of fields
	Sort    string   `json:"sort,omitempty"`    // id of a field, and behind a dot that of a column of its choice list
	Falling bool     `json:"falling,omitempty"`
	Open    string   `json:"open,omitempty"` // id of the page that a row opens
	Empty   string   `json:"empty,omitempty"`
	Size    int      `json:"size,omitempty"` // records at a time; 0 for the default
}

// Row gives the kind.
func (*RecordsBlock) Row() *BlockKind { return &recordsKind }

// Called says which block it is.
func (*RecordsBlock) Called(c Context) string { return calledBlock(&recordsKind, c) }

// Core is the sentence that tells it.
func (*RecordsBlock) Core(Context) string { return "A list shows {table}" }

// Props lists its settings.
func (x *RecordsBlock) Props(c Context) []prop.Prop {
	about := c.Pages(func(p *Page) bool { return p.Record != "" && p.Record == x.Table })
	empty := prop.Text(&x.Empty)
	empty.Most, empty.Quoted = 500, true
	return []prop.Prop{
		{
			Name:   "table",
			Label:  "Records of",
			Noun:   "the table",
			Must:   true,
			Asked:  true,
			Resets: true,
			Value:  prop.One(&x.Table, c.Tables()),
			Lost:   prop.Lost{Words: "it is taken off the page", TakeOut: true},
		},
		{
			Name:  "filter",
			Label: "Only records where",
			Noun:  "the condition",
			Help:  "Only some of the records",
			Group: "Which records",
			Say:   " where {}",
			Value: prop.Condition(
				&x.Filter,
				c.Listed(x.Table),
			),
			Lost: prop.Lost{Words: "the list is taken off the page", TakeOut: true},
		}, // else it would show more
		{
			Name:  "columns",
			Label: "Columns, in this order",
			Noun:  "the columns",
			Help:  "The fields it shows",
			Group: "Look",
			Say:   ", with {}",
			Value: prop.Many(&x.Columns, c.Fields(x.Table, nil)),
		},
		{
			Name:  "sort",
			Label: "Sorted by",
			Noun:  "the order",
			Help:  "In which order they come",
			Group: "Which records",
			Say:   ", sorted by {}",
			Value: prop.One(&x.Sort, c.sortings(x.Table)).OrNone("when they were added"),
		},
		{
			Name:  "falling",
			Label: "Reverse order",
			Noun:  "the order",
			With:  "sort",
			Say:   ", {|" + c.lastFirst(x.Table, x.Sort) + "}",
			Value: prop.Switch(&x.Falling),
		},
		{
			Name:  "size",
			Label: "Records at a time",
			Noun:  "how many records it shows at a time",
			Help:  "25 unless you say; “Show more” brings the next ones",
			Group: "Look",
			Say:   ", {} at a time",
			Value: prop.Number(&x.Size, 1, 200),
		},
		{
			Name:  "open",
			Label: "A row opens",
			Noun:  "what a row opens",
			Help:  "A page about the record",
			Group: "Actions",
			Say:   "; a row opens {}",
			Hint:  "no-page-about",
			Value: prop.One(&x.Open, about).OrNone("nothing"),
			Lost:  prop.Lost{Words: "its rows open no page any more"},
		},
		{
			Name:  "empty",
			Label: "When empty, it says",
			Noun:  "what it says when empty",
			Help:  "Instead of “Nothing here yet.”",
			Group: "Look",
			Say:   "; when empty, it says {}",
			Value: empty,
		},
	}
}

// lastFirst says how records are sorted the other way round.
func (c Context) lastFirst(table, sort string) string {
	id, _, column := strings.Cut(sort, ".")
	f := c.field(table, id)
	if f == nil {
		return "newest first"
	}
	t := f.ExprType()
	for _, x := range c.catalog.Tables[table].Fields {
		if x.ID == id {
			t = x.Type
		}
	}
	switch {
	case column:
		return "largest first"
	case t.Kind == expr.Choice:
		return "in reverse list order"
	case t.Kind == expr.Date, t.Kind == expr.Time:
		return "newest first"
	case t.Kind == expr.Number:
		return "largest first"
	case t.Kind == expr.YesNo:
		return "yes first"
	}
	return "Z to A"
}

// Start chooses columns, and a page for its rows to open.
func (x *RecordsBlock) Start(c Context) {
	t := c.tableOf(x.Table)
	if t == nil {
		return
	}
	if len(x.Columns) == 0 {
		x.Columns = t.firstFields(4)
	}
	if i := slices.IndexFunc(c.b.Pages, func(p Page) bool { return p.Record == x.Table }); i >= 0 && x.Open == "" {
		x.Open = c.b.Pages[i].ID
	}
}
