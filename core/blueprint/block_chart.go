package blueprint

import (
	"slices"

	"github.com/shopspring/decimal"

	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/report"
	"pinegate/core/words"
)

var chartKind = BlockKind{
	Name:  "chart",
	Label: "A chart",
	Noun:  "chart",
	Help:  "Numbers in groups: bars, lines, areas, or a ring",
	New:   func() Block { return &ChartBlock{} },
}

// Shape is how a chart draws its numbers.
type Shape string

// The shapes.
const (
	Bars     Shape = ""
	Sideways Shape = "sideways"
	Lines    Shape = "lines"
	Areas    Shape = "areas"
	Donut    Shape = "donut"
)

// Shapes lists the shapes.
func Shapes() []prop.Option {
	return []prop.Option{{Value: string(Bars), Words: "bars"}, {Value: string(Sideways), Words: "bars sideways"},
		{Value: string(Lines), Words: "lines"}, {Value: string(Areas), Words: "areas"}, {Value: string(Donut), Words: "a ring"}}
}

// Stack is how numbers of the same group stand together.
type Stack string

// The ways of standing together.
const (
	SideBySide Stack = ""
	Stacked    Stack = "stacked"
	Shares     Stack = "shares" // each as a part of the whole
)

// ChartBlock draws totals in groups.
type ChartBlock struct {
	BlockHead
	Reported
	Shape Shape `json:"shape,omitempty"`
	Stack Stack `json:"stack,omitempty"`
	// By is the id of the field that makes the groups, and Then of the one that parts each of these.
	By   string      `json:"by"`
	Unit report.Unit `json:"unit,omitempty"` // of days; months unless something is said
	Step string      `json:"step,omitempty"` // of numbers
	Then string      `json:"then,omitempty"`
	// Bys are the ids of further fields by which people can group instead.
	Bys []string `json:"bys,omitempty"`
	// Units tells that people can choose the unit.
	Units bool `json:"units,omitempty"`
	Most  int  `json:"most,omitempty"` // groups; what is left is put together. 0 for [MostShownGroups]
}

// MostShownGroups is how many groups of what has no order a chart shows unless something else is said.
const MostShownGroups = 12

// Row gives the kind.
func (*ChartBlock) Row() *BlockKind { return &chartKind }

// Called says which block it is.
func (x *ChartBlock) Called(c Context) string { return x.called(&chartKind, c) }

// Core is the sentence that tells it.
func (x *ChartBlock) Core(c Context) string {
	if x.days(c) {
		return "A chart of {table} by {unit} of {by}"
	}
	return "A chart of {table} by {by}"
}

// days tells whether its groups are days.
func (x *ChartBlock) days(c Context) bool {
	if c.b == nil || x.By == "" {
		return false
	}
	is := c.catalog.TypeOf(x.Table, x.By)
	return is.Kind == expr.Date || is.Kind == expr.Time
}

// Props lists its settings.
func (x *ChartBlock) Props(c Context) []prop.Prop {
	which := x.which(c)
	single := func(t expr.Type) bool { return !t.Many && t.Kind != expr.File }
	by := prop.Prop{
		Name:   "by",
		Label:  "Grouped by",
		Noun:   "the groups",
		Must:   true,
		Asked:  true,
		Resets: true,
		Help: "A choice, a record, yes or no, a number, or a day. Not a field with several values: " +
			"its records would count more than once. Make a chart of the other table instead",
		Value: prop.One(&x.By, c.typed(x.Table, single)),
		Lost:  prop.Lost{Words: "it is taken off the page", TakeOut: true},
	}
	out := append([]prop.Prop{which[0], by}, x.parts(c)...)
	out = append(out, prop.Prop{
		Name:  "bys",
		Label: "People can group by",
		Noun:  "what else people can group by",
		Help:  "Whoever looks chooses between these and the one above",
		Group: "Groups",
		Say:   ", or by {} as people choose",
		Value: prop.Many(&x.Bys, c.typed(x.Table, func(t expr.Type) bool { return single(t) && t.Kind != expr.Number })).Joined(" or "),
	}, prop.Prop{
		Name:  "then",
		Label: "Each parted by",
		Noun:  "the parts of groups",
		Help:  "Each group is parted again, and has a colour for each part",
		Group: "Groups",
		Say:   ", each parted by {}",
		Value: prop.One(&x.Then, c.typed(x.Table, func(t expr.Type) bool {
			return !t.Many && (t.Kind == expr.Choice || t.Kind == expr.Record || t.Kind == expr.YesNo)
		})).OrNone("nothing"),
	}, prop.Prop{
		Name:  "most",
		Label: "Most groups",
		Noun:  "how many groups there are",
		Help:  "The largest stay, and what is left is put together; 12 unless you say. Days are always all there",
		Group: "Groups",
		Say:   ", the {} largest and the others together",
		Value: prop.Number(&x.Most, 1, 100),
	}, prop.Prop{
		Name:  "shape",
		Label: "Drawn as",
		Noun:  "how it is drawn",
		Asked: true,
		Help:  "Bars, lines, areas, or a ring",
		Group: "Look",
		Say:   ", drawn as {}",
		Value: prop.Pick(&x.Shape, Shapes()...),
	}, prop.Prop{
		Name:  "stack",
		Label: "Numbers of a group stand",
		Noun:  "how its numbers stand",
		Help:  "Beside each other, on each other, or as shares of the whole",
		Group: "Look",
		Say:   ", {}",
		Value: prop.Pick(&x.Stack, prop.Option{Value: "", Words: "beside each other", Label: "Beside each other"},
			prop.Option{Value: string(Stacked), Words: "stacked", Label: "On each other"},
			prop.Option{Value: string(Shares), Words: "as shares", Label: "As shares of the whole"}),
	})
	return slices.Concat(out, which[1:], x.when(c))
}

// parts lists the settings that say how days and numbers are parted.
func (x *ChartBlock) parts(c Context) []prop.Prop {
	var out []prop.Prop
	units := append([]prop.Option{{Value: "", Words: "month", Label: "Month, or what fits the days that people choose"}},
		slices.DeleteFunc(unitOptions(), func(o prop.Option) bool { return o.Value == string(report.Month) })...)
	is := expr.Type{}
	if c.b != nil && x.By != "" {
		is = c.catalog.TypeOf(x.Table, x.By)
	}
	if x.days(c) || c.b == nil {
		out = append(out, prop.Prop{
			Name:  "unit",
			Label: "For each",
			Noun:  "the unit of its days",
			Asked: true,
			Help:  "Days, weeks, months, quarters or years",
			Value: prop.Pick(&x.Unit, units...),
		}, prop.Prop{
			Name:  "units",
			Label: "People can choose it",
			Noun:  "whether people choose the unit",
			Help:  "Days, weeks, months, quarters or years",
			Group: "Groups",
			Say:   ", {|or a unit that people choose}",
			Value: prop.Switch(&x.Units),
		})
	}
	if is.Kind == expr.Number || c.b == nil {
		step := prop.Text(&x.Step)
		step.Right = func(s string) *words.Problem {
			if d, err := decimal.NewFromString(s); err != nil || !d.IsPositive() {
				return words.New("chart-step")
			}
			return nil
		}
		out = append(out, prop.Prop{
			Name:  "step",
			Label: "In steps of",
			Noun:  "the step of its numbers",
			Asked: true,
			Help:  "10 puts 0 to 9 together, 10 to 19, and so on; without one each number is a group",
			Say:   ", in steps of {}",
			Value: step,
		})
	}
	return out
}

// Reset begins anew with another table, and drops what other groups do not have.
func (x *ChartBlock) Reset(c Context, setting string) {
	switch setting {
	case "table":
		*x = ChartBlock{BlockHead: x.BlockHead, Reported: Reported{Table: x.Table, Title: x.Title}, Shape: x.Shape}
	case "by":
		x.Unit, x.Step, x.Units = "", "", false
	}
	x.Start(c)
}

// Start has groups, one number, and steps for numbers.
func (x *ChartBlock) Start(c Context) {
	x.start(c, x.ID)
	t := c.tableOf(x.Table)
	if t == nil {
		return
	}
	if x.By == "" {
		f := find(t.Fields, func(f *Field) bool { return f.Type == Choose })
		if f == nil {
			f = find(t.Fields, func(f *Field) bool { return f.Type == Date || f.Type == Link })
		}
		if f == nil && len(t.Fields) > 0 {
			f = &t.Fields[0]
		}
		if f != nil {
			x.By = f.ID
		}
	}
}

// Check refuses what cannot be drawn: a ring of several numbers or of parts, and parts of several numbers.
func (x *ChartBlock) Check(c Context) *words.Problem {
	shown := 0
	for _, m := range x.Measures {
		if !m.Aside {
			shown++
		}
	}
	switch {
	case x.Then != "" && (x.Then == x.By || slices.Contains(x.Bys, x.Then)):
		return words.New("chart-parts-same")
	case slices.Contains(x.Bys, x.By):
		return words.New("chart-bys-same")
	case x.Then != "" && shown > 1:
		return words.New("chart-parts-one")
	case x.Shape == Donut && (shown > 1 || x.Then != ""):
		return words.New("chart-ring-one")
	case x.Shape == Donut && x.Compare != report.NotCompared:
		return words.New("chart-ring-compared")
	}
	return x.check(c)
}

// Largest gives how many groups there are at most.
func (x *ChartBlock) Largest() int {
	if x.Most == 0 {
		return MostShownGroups
	}
	return x.Most
}
