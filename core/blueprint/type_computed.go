package blueprint

import (
	"fmt"

	"pinegate/core/expr"
	"pinegate/core/prop"
)

// The types of field whose values are calculated.
const (
	Lookup  FieldType = "lookup"
	RollUp  FieldType = "roll-up"
	Formula FieldType = "formula"
)

// Total is what a roll-up makes of the values that it finds.
type Total string

// The totals of roll-ups.
const (
	CountTotal    Total = "count"
	SumTotal      Total = "sum"
	AverageTotal  Total = "average"
	LeastTotal    Total = "least"
	GreatestTotal Total = "greatest"
	JoinedTotal   Total = "joined"
)

// totals lists the totals in the order in which they are offered, each with the
// function that makes it.
var totals = []struct {
	Total
	words, label, function string
}{
	{
		CountTotal,
		"the number",
		"How many there are",
		"COUNT",
	}, {SumTotal, "the sum", "Their sum", "SUM"}, {AverageTotal, "the average", "Their average", "AVERAGE"},
	{
		LeastTotal,
		"the smallest",
		"The smallest",
		"MIN",
	}, {GreatestTotal, "the largest", "The largest", "MAX"}, {JoinedTotal, "all", "All of them, as text", "JOIN"},
}

func totalOptions() []prop.Option {
	var out []prop.Option
	for _, t := range totals {
		out = append(out, prop.Option{Value: string(t.Total), Words: t.words, Label: t.label})
	}
	return out
}

// calculated is a type whose values are calculated.
type calculated struct{ base }

func (calculated) Value(*Field) expr.Type { return expr.Type{} }

func computedType(name FieldType, words, label string) calculated {
	return calculated{base{TypeRow{Name: name, Words: words, Label: label, Group: "Calculated", Nature: Computed}}}
}

type (
	formulaType struct{ calculated }
	lookupType  struct{ calculated }
	rollUpType  struct{ calculated }
)

var (
	formula = formulaType{computedType(Formula, "a formula", "Formula")}
	lookup  = lookupType{computedType(Lookup, "a value looked up", "Value of a linked record")}
	rollUp  = rollUpType{computedType(RollUp, "a total", "Total over linked records")}
)

func (formulaType) Core(*Field) string { return "{name} is {formula}" }

func (formulaType) Props(f *Field, c Context) []prop.Prop {
	return []prop.Prop{
		{
			Name:  "formula",
			Label: "Formula",
			Noun:  "the formula",
			Must:  true,
			Value: prop.Expression(&f.Formula, c.Rows(c.tableID()), expr.Type{}),
			Lost:  takesOut,
		},
	}
}

func (lookupType) Core(*Field) string { return "{name} is {take} of its {via}" }

func (lookupType) Props(f *Field, c Context) []prop.Prop {
	return through(f, c, Link, "no-link")
}

// through lists what is taken over a link.
func through(f *Field, c Context, over FieldType, hint string) []prop.Prop {
	target := ""
	if via := c.field(c.tableID(), f.Via); via != nil {
		target = via.Target
	}
	takes := func(x *Field) bool {
		return x.Type != Links && x.Type != ChooseMany && !x.Type.Filed() || x.ID == f.Take && !x.Type.Filed()
	}
	return []prop.Prop{
		{Name: "via", Label: "Through the link", Noun: "the link it goes through", Must: true, Resets: true, Hint: hint,
			Value: prop.One(&f.Via, c.Fields(c.tableID(), func(x *Field) bool { return x.Type == over })), Lost: takesOut},
		{
			Name:  "take",
			Label: "The field",
			Noun:  "the field it takes",
			Must:  f.Total != CountTotal,
			Value: prop.One(&f.Take, c.Fields(target, takes)),
			Lost:  takesOut,
		},
	}
}

func (rollUpType) Core(f *Field) string {
	if f.Total == CountTotal {
		return "{name} is {total} of {via}"
	}
	return "{name} is {total} of {take} in {via}"
}

func (rollUpType) Props(f *Field, c Context) []prop.Prop {
	scope := c.Rows(c.tableID())
	if via := c.field(c.tableID(), f.Via); via != nil {
		scope.Inner = via.Target
	}
	total := prop.Prop{
		Name:   "total",
		Label:  "What it shows",
		Noun:   "the total",
		Must:   true,
		Resets: true,
		Value:  prop.Pick(&f.Total, totalOptions()...),
	}
	out := append(
		through(f, c, Links, "no-links"),
		prop.Prop{Name: "where", Label: "Only records where", Noun: "the condition", Say: " where {}",
			Value: prop.Condition(&f.Where, scope), Lost: takesOut},
	)
	return append([]prop.Prop{total}, out...)
}

func (rollUpType) Start(f *Field) {
	if f.Total == "" {
		f.Total = CountTotal
	}
}

// Source gives the expression by which a computed field of the table is
// calculated; "" for other fields.
func (b *Blueprint) Source(t *Table, f *Field) string {
	switch f.Type {
	case Formula:
		return f.Formula
	case Lookup, RollUp:
	default:
		return ""
	}
	via := t.Field(f.Via)
	if via == nil {
		return "empty"
	}
	take := ""
	if target := b.Table(via.Target); target != nil && f.Take != "" {
		if x := target.Field(f.Take); x != nil {
			take = "." + x.Key
		}
	}
	if f.Type == Lookup {
		return via.Key + take
	}
	list := via.Key
	if f.Where != "" {
		list = fmt.Sprintf("FILTER(%s, %s)", list, f.Where)
	}
	function := ""
	for _, t := range totals {
		if t.Total == f.Total {
			function = t.function
		}
	}
	if f.Total == CountTotal {
		take = ""
	}
	return fmt.Sprintf("%s(%s%s)", function, list, take)
}
