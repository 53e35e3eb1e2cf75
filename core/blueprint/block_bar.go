package blueprint

import (
	"slices"

	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/report"
	"pinegate/core/words"
)

var barKind = BlockKind{
	Name:  "bar",
	Label: "A filter bar",
	Noun:  "filter bar",
	Help:  "Days and choices that figures, charts and lists of the page follow",
	New:   func() Block { return &BarBlock{} },
}

// BarBlock is what people choose once for all figures, charts and lists that name it.
type BarBlock struct {
	BlockHead
	Range  report.Range `json:"range,omitempty"` // with which it begins
	Table  string       `json:"table,omitempty"` // whose fields it offers, or ""
	Fields []string     `json:"fields,omitempty"`
}

// Row gives the kind.
func (*BarBlock) Row() *BlockKind { return &barKind }

// Called says which block it is.
func (*BarBlock) Called(c Context) string { return calledBlock(&barKind, c) }

// Core is the sentence that tells it.
func (*BarBlock) Core(Context) string { return "A filter bar begins with {range}" }

// Props lists its settings.
func (x *BarBlock) Props(c Context) []prop.Prop {
	out := []prop.Prop{
		{
			Name:  "range",
			Label: "It begins with",
			Noun:  "the range with which it begins",
			Asked: true,
			Help:  "The days that count until people choose others",
			Value: prop.Pick(&x.Range, rangeOptions()...),
		},
		{
			Name:   "table",
			Label:  "Fields of",
			Noun:   "the table of its fields",
			Help:   "What is filtered by a field here is filtered elsewhere by the first field that is alike",
			Group:  "Fields",
			Resets: true,
			Say:    ", with fields of {}",
			Value:  prop.One(&x.Table, c.Tables()).OrNone("no table"),
			Lost:   prop.Lost{Do: func() string { x.Table, x.Fields = "", nil; return words.Say("bar-no-fields", nil) }},
		},
	}
	if x.Table == "" && c.b != nil {
		return out
	}
	return append(out, prop.Prop{
		Name:  "fields",
		Label: "People can filter by",
		Noun:  "what people can filter by",
		Group: "Fields",
		Say:   ": {}",
		With:  "table",
		Value: prop.Many(&x.Fields, c.typed(x.Table, alikeFields)),
		Lost:  prop.Lost{Words: "it does not filter by this any more"},
	})
}

// alikeFields tells whether other tables can have fields that are alike: those with the same choices or records.
func alikeFields(t expr.Type) bool { return t.Kind == expr.Choice || t.Kind == expr.Record }

// Reset drops the fields of another table.
func (x *BarBlock) Reset(_ Context, setting string) {
	if setting == "table" {
		x.Fields = nil
	}
}

func rangeOptions() []prop.Option {
	out := []prop.Option{{Value: "", Words: "all the time"}}
	for _, x := range report.Ranges() {
		out = append(out, prop.Option{Value: string(x), Words: string(x)})
	}
	return out
}

// barsHere are the filter bars of the page, or of the part.
func (c Context) barsHere() []*BarBlock {
	blocks := Blocks(nil)
	switch {
	case c.part != nil:
		blocks = c.part.Blocks
	case c.page != nil:
		blocks = c.page.Blocks
	}
	var all []*BarBlock
	for x := range blocks.All {
		if bar, is := x.(*BarBlock); is {
			all = append(all, bar)
		}
	}
	return all
}

// bars offers them.
func (c Context) bars() prop.To {
	all := c.barsHere()
	return offers("block", all, func(x **BarBlock) (prop.Option, bool) {
		if len(all) == 1 {
			return prop.Option{Value: (*x).ID, Words: words.Say("bar-one", nil)}, true
		}
		return prop.Option{Value: (*x).ID, Words: words.Say("bar-number", words.Args{"n": slices.Index(all, *x) + 1})}, true
	})
}

// follows is the setting by which a block follows a filter bar, where there is one.
func (c Context) follows(at *string) []prop.Prop {
	if c.b != nil && *at == "" && len(c.barsHere()) == 0 {
		return nil
	}
	return []prop.Prop{{
		Name:   "bar",
		Label:  "Follows",
		Noun:   "the filter bar that it follows",
		Help:   "What people choose there counts here",
		Group:  "When",
		Hint:   "no-bar",
		Resets: true,
		Say:    ", following {}",
		Value:  prop.One(at, c.bars()).OrNone("no filter bar"),
		Lost:   prop.Lost{Words: "it follows no filter bar any more"},
	}}
}

// BarOf gives the filter bar that a block at a spot follows, or nil.
func (b *Blueprint) BarOf(s Spot, id string) *BarBlock {
	var blocks Blocks
	switch {
	case s.Part != nil:
		blocks = s.Part.Blocks
	case s.Page != nil:
		blocks = s.Page.Blocks
	}
	for x := range blocks.All {
		if bar, is := x.(*BarBlock); is && bar.ID == id {
			return bar
		}
	}
	return nil
}

// Alike gives the field of a table by which it is filtered as by a field of another: that field itself, or the first with the
// same choices, or that leads to the same table. Nil where there is none.
func (b *Blueprint) Alike(catalog *expr.Catalog, table, of, field string) *Field {
	t, want := b.Table(table), catalog.TypeOf(of, field)
	if t == nil {
		return nil
	}
	if table == of {
		return t.Field(field)
	}
	return find(t.Fields, func(f *Field) bool {
		is := catalog.TypeOf(table, f.ID)
		return is.Kind == want.Kind && (want.Kind == expr.Choice && is.List == want.List || want.Kind == expr.Record && is.Table == want.Table)
	})
}
