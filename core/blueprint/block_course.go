package blueprint

import (
	"pinegate/core/prop"
	"pinegate/core/words"
)

var courseKind = BlockKind{
	Name:  "course",
	Label: "A chart of results",
	Noun:  "chart of results",
	Help:  "How results are over one of the answers, such as over the years",
	Forms: OnlyInForms,
	New:   func() Block { return &CourseBlock{} },
}

// CourseBlock draws results of its form as they would be with other answers to one question, all other answers
// being as they are.
type CourseBlock struct {
	BlockHead
	Title string `json:"title,omitempty"`
	Over  string `json:"over"` // id of a question for a number
	// From, To and Each are decimals: where it begins and ends, and how far its points are apart; 1 where nothing is
	// said.
	From    string      `json:"from"`
	To      string      `json:"to"`
	Each    string      `json:"each,omitempty"`
	Results []string    `json:"results"` // ids
	Shape   CourseShape `json:"shape,omitempty"`
}

// CourseShape is how results are drawn.
type CourseShape string

// The shapes.
const (
	LineCourse CourseShape = ""
	AreaCourse CourseShape = "areas"
	BarCourse  CourseShape = "bars"
)

// MostPoints is how many points a chart of results has at most.
const MostPoints = 61

// Row gives the kind.
func (*CourseBlock) Row() *BlockKind { return &courseKind }

// Called says which block it is.
func (*CourseBlock) Called(c Context) string { return calledBlock(&courseKind, c) }

// Core is the sentence that tells it.
func (*CourseBlock) Core(Context) string {
	return "A chart shows {results} over {over} from {from} to {to}"
}

// Props lists its settings.
func (x *CourseBlock) Props(c Context) []prop.Prop {
	return []prop.Prop{
		{
			Name:  "results",
			Label: "It shows",
			Noun:  "the results that it shows",
			Must:  true,
			Asked: true,
			Value: prop.Many(&x.Results, c.numberResults()),
			Lost:  prop.Lost{Words: "its chart of results shows one less", TakeOut: len(x.Results) == 1},
		},
		{
			Name:  "over",
			Label: "Over the answer to",
			Noun:  "the answer over which it goes",
			Must:  true,
			Asked: true,
			Value: prop.One(&x.Over, c.numberQuestions()),
			Lost:  takesOut,
		},
		{Name: "from", Label: "From", Noun: "where it begins", Must: true, Asked: true, Value: decimalText(&x.From)},
		{Name: "to", Label: "To", Noun: "where it ends", Must: true, Asked: true, Value: decimalText(&x.To)},
		{
			Name:  "each",
			Label: "In steps of",
			Noun:  "how far its points are apart",
			Help:  "1 if you leave it empty",
			Group: "Look",
			Say:   ", in steps of {}",
			Value: decimalText(&x.Each),
		},
		{
			Name:  "title",
			Label: "Title",
			Noun:  "the title",
			Help:  "Words above it",
			Group: "Look",
			Say:   ", titled {}",
			Value: calledText(&x.Title),
		},
		{
			Name:  "shape",
			Label: "Drawn as",
			Noun:  "how it is drawn",
			Help:  "Lines, unless you say",
			Group: "Look",
			Say:   ", drawn as {}",
			Value: prop.Pick(&x.Shape, prop.Option{Value: "", Words: "lines"}, prop.Option{Value: string(AreaCourse), Words: "areas"},
				prop.Option{Value: string(BarCourse), Words: "bars"}),
		},
	}
}

// Start has a span of which something can be seen.
func (x *CourseBlock) Start(Context) {
	orStart(&x.From, "0")
	orStart(&x.To, "10")
	if x.Results == nil {
		x.Results = []string{}
	}
}

// Check refuses a span that has no points, or too many.
func (x *CourseBlock) Check(Context) *words.Problem {
	if n := len(x.Points()); n < 2 || n > MostPoints {
		return words.New("course-points", "most", MostPoints)
	}
	return nil
}

// Points lists the answers for which results are drawn, at most one more than can be.
func (x *CourseBlock) Points() []string {
	from, begins := decimalOf(x.From)
	to, ends := decimalOf(x.To)
	each, stepped := decimalOf(x.Each)
	if !stepped {
		each, _ = decimalOf("1")
	}
	if !begins || !ends || !each.IsPositive() {
		return nil
	}
	var out []string
	for at := from; at.LessThanOrEqual(to) && len(out) <= MostPoints; at = at.Add(each) {
		out = append(out, at.String())
	}
	return out
}

// numberQuestions offers the questions of the form, which are none of what goes with it, for a number.
func (c Context) numberQuestions() prop.To {
	return prop.To{What: "block", All: func(yield func(prop.Option) bool) {
		if c.form == nil || c.b == nil {
			return
		}
		for a, with := range c.form.Askers {
			f := a.Asks(c.b, c.form.TableOf(c.b, with))
			if with == nil && f != nil && f.Type.Numeric() && !yield(prop.Option{Value: a.Self().ID, Words: f.Name}) {
				return
			}
		}
	}}
}

// numberResults offers the results of the form.
func (c Context) numberResults() prop.To {
	return prop.To{What: "block", All: func(yield func(prop.Option) bool) {
		if c.form == nil {
			return
		}
		for r := range c.form.Results {
			if !yield(prop.Option{Value: r.ID, Words: r.Name}) {
				return
			}
		}
	}}
}
