package blueprint

import (
	"slices"

	"pinegate/core/prop"
	"pinegate/core/report"
	"pinegate/core/words"
)

var figureKind = BlockKind{
	Name:  "figure",
	Label: "A figure",
	Noun:  "figure",
	Help:  "One number that is looked at first, or a few beside each other",
	Toned: true,
	New:   func() Block { return &FigureBlock{} },
}

// FigureBlock shows totals as large numbers.
type FigureBlock struct {
	BlockHead
	Reported
	// Better says whether it is better for the number to rise or to fall, where it is compared.
	Better Better `json:"better,omitempty"`
	// Course is the unit of the small line that shows how the number came about; "" for none.
	Course report.Unit `json:"course,omitempty"`
	Badged
}

// Better is which way a number is to go.
type Better string

// The ways. Nothing is guessed: without one, a change is neither good nor bad.
const (
	NeitherBetter Better = ""
	HigherBetter  Better = "higher"
	LowerBetter   Better = "lower"
)

// Row gives the kind.
func (*FigureBlock) Row() *BlockKind { return &figureKind }

// Called says which block it is.
func (x *FigureBlock) Called(c Context) string { return x.called(&figureKind, c) }

// Core is the sentence that tells it.
func (*FigureBlock) Core(Context) string { return "A figure is about {table}" }

// Props lists its settings.
func (x *FigureBlock) Props(c Context) []prop.Prop {
	out := slices.Concat(x.which(c), x.when(c))
	if x.Compare != report.NotCompared || c.b == nil {
		out = append(out, prop.Prop{
			Name:  "better",
			Label: "It is better",
			Noun:  "which way is better",
			Help:  "A change is shown as good or bad by this; otherwise it is neither",
			Group: "When",
			Say:   ", better {}",
			Value: prop.Pick(&x.Better, prop.Option{Value: "", Words: "neither way"},
				prop.Option{Value: string(HigherBetter), Words: "when higher", Label: "When it is higher"},
				prop.Option{Value: string(LowerBetter), Words: "when lower", Label: "When it is lower"}),
		})
	}
	if x.Date != "" || c.b == nil {
		out = append(out, prop.Prop{
			Name:  "course",
			Label: "A small line by",
			Noun:  "its course",
			Help:  "How the number came about",
			Group: "Look",
			Say:   ", with its course by {}",
			Value: prop.Pick(&x.Course, append([]prop.Option{{Value: "", Words: "nothing"}}, unitOptions()...)...),
		})
	}
	return append(out, x.Badged.props(c, x.Range)...)
}

func unitOptions() []prop.Option {
	var out []prop.Option
	for _, u := range report.Units() {
		out = append(out, prop.Option{Value: string(u), Words: string(u)})
	}
	return out
}

// Reset begins anew with another table.
func (x *FigureBlock) Reset(c Context, setting string) {
	if setting == "table" {
		*x = FigureBlock{BlockHead: x.BlockHead, Reported: Reported{Table: x.Table, Title: x.Title}}
		x.Start(c)
		return
	}
	x.Badged.reset(c, &x.BlockHead, setting)
}

// Start has one number, and a table for its badge.
func (x *FigureBlock) Start(c Context) {
	x.Reported.start(c, x.ID)
	x.Badged.start(c, &x.BlockHead)
}

// Check refuses days where there are none, and a badge that cannot be given.
func (x *FigureBlock) Check(c Context) *words.Problem {
	if wrong := x.Reported.check(c); wrong != nil {
		return wrong
	}
	return x.Badged.check(c)
}

// called says which figure or chart it is: by its title, where it has one.
func (r *Reported) called(k *BlockKind, c Context) string {
	if r.Title == "" || c.page == nil && c.part == nil {
		return calledBlock(k, c)
	}
	return words.Say("called-section", words.Args{"noun": k.Noun, "title": r.Title, "in": c.stands()})
}
