package page

import (
	"fmt"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/form"
	"pinegate/store/records"
)

// Calculator is a form that shows results, and may keep nothing.
type Calculator struct{ Form }

func showCalculator(v *View, x *blueprint.FormBlock, _ []records.Result) (*Calculator, error) {
	out := &Calculator{}
	return out, v.use(x).fill(&out.Form)
}

// Result is what a form calculates, and how that is written. Its values come with the state of the form.
type Result struct {
	Head
	Column Column `json:"column"`
	Quiet  bool   `json:"quiet,omitempty"` // it is not told how it is calculated
}

func showResult(v *View, x *blueprint.ResultBlock, _ []records.Result) (*Result, error) {
	c, err := v.Seat.Blueprint.Conditions(v.spot(), v.form, x, v.Seat.Catalog)
	if err != nil {
		return nil, fmt.Errorf("read a result on %s: %w", v.Page.Name, err)
	}
	return &Result{Column: v.written(x, c.Value.Type()), Quiet: x.Quiet}, nil
}

// written says how a result is written: with two decimals unless something is said.
func (v *View) written(x *blueprint.ResultBlock, is expr.Type) Column {
	f := x.Field(is)
	if n := decimalsOf; f.Decimals == nil {
		f.Decimals = &n
	}
	return columnOf(v.Seat.Blueprint, f, "", is)
}

// Course is a chart of results; its numbers come with the state of the form.
type Course struct{ Head }

func showCourse(*View, *blueprint.CourseBlock, []records.Result) (*Course, error) {
	return &Course{}, nil
}

// ResultState is how a result is with the answers so far. Where there is none, Reason says why.
type ResultState struct {
	Value  any    `json:"value,omitempty"`
	Label  string `json:"label,omitempty"` // of a record
	Reason string `json:"reason,omitempty"`
	Says   string `json:"says,omitempty"`
	Tone   string `json:"tone,omitempty"`
	// Names and Values tell how it is calculated: with the names of what it looks at, and with what these are.
	Names  []Told `json:"names,omitempty"`
	Values []Told `json:"values,omitempty"`
}

// Told is a piece of a formula: words, or a value that is written as a column says.
type Told struct {
	Words  string  `json:"words,omitempty"`
	Value  any     `json:"value,omitempty"`
	Column *Column `json:"column,omitempty"`
}

// result shows a result.
func (s *showing) result(p form.Part, is *form.Result) *ResultState {
	out := &ResultState{Value: inRow(is.Value)}
	if is.Value.Kind == expr.Record && !is.Value.IsEmpty() {
		out.Label = s.answered.Label(p.Field.Target, is.Value).Text
	}
	if is.Reason != nil {
		out.Reason = is.Reason.Error()
	}
	if is.Band >= 0 {
		out.Says, out.Tone = p.Result.Bands[is.Band].Says, p.Result.Bands[is.Band].Tone
	}
	if !p.Result.Quiet {
		out.Names, out.Values = s.told(is.Names), s.told(is.Values)
	}
	return out
}

func (s *showing) told(list []expr.Told) []Told {
	var out []Told
	for _, x := range list {
		switch {
		case x.Words != "":
			out = append(out, Told{Words: x.Words})
		case x.Value.IsEmpty():
			out = append(out, Told{Words: "–"})
		case x.Type.Kind == expr.Choice && s.Seat.Catalog.Lists[x.Type.List] != nil:
			out = append(out, Told{Words: s.Seat.Catalog.Lists[x.Type.List].Label(x.Value.Text)})
		case x.Type.Kind == expr.Record:
			out = append(out, Told{Words: s.answered.Label(x.Type.Table, x.Value).Text})
		default:
			out = append(out, Told{Value: inRow(x.Value), Column: s.columnTold(x)})
		}
	}
	return out
}

// columnTold says how a value in a formula is written: as its answer or its field is.
func (s *showing) columnTold(x expr.Told) *Column {
	f := &blueprint.Field{Type: blueprint.Text}
	switch x.Type.Kind {
	case expr.Number:
		f.Type = blueprint.Number
	case expr.YesNo:
		f.Type = blueprint.YesNo
	case expr.Date:
		f.Type = blueprint.Date
	case expr.Time:
		f.Type = blueprint.TimeStamp
	}
	if x.Field != nil {
		if t := s.Seat.Blueprint.Table(x.Field.Table); t != nil && t.Field(x.Field.ID) != nil {
			f = t.Field(x.Field.ID)
		}
		for _, p := range s.parts {
			switch {
			case p.Field == nil || p.Field.ID != x.Field.ID || x.Field.Table != expr.AnswersTable:
			case p.Result != nil:
				out := s.written(p.Result, x.Type)
				return &out
			default:
				f = p.Field
			}
		}
	}
	out := columnOf(s.Seat.Blueprint, f, "", x.Type)
	out.Choices = nil
	return &out
}

// course shows a chart of results as other charts are.
func (s *showing) course(p form.Part, points []form.Point) *Chart {
	out := &Chart{Head: Head{ID: s.known(p.Course), Kind: "chart"}, Title: p.Course.Title, Shape: string(p.Course.Shape),
		Groups: []ChartGroup{}, Whole: []*string{}, Measures: []Measure{}, Series: []Series{}}
	if out.Shape == "" {
		out.Shape = "lines"
	}
	for _, q := range s.parts {
		if q.ID == p.Course.Over {
			out.By = columnOf(s.Seat.Blueprint, q.Field, "", expr.Type{Kind: expr.Number})
			if name := q.Question.How().Words; name != "" {
				out.By.Name = name
			}
		}
	}
	for i, id := range p.Course.Results {
		for _, r := range s.parts {
			if r.ID != id {
				continue
			}
			m := Measure{ID: id, Name: r.Result.Name, Column: s.written(r.Result, r.Value.Type())}
			line := Series{Measure: id, Values: []*string{}}
			for _, at := range points {
				line.Values = append(line.Values, textOf(at.Values[i]))
			}
			out.Measures, out.Series = append(out.Measures, m), append(out.Series, line)
		}
	}
	for _, at := range points {
		out.Groups = append(out.Groups, ChartGroup{Key: at.At, Label: at.At})
	}
	return out
}

// textOf gives a value as text; nil for none.
func textOf(v expr.Value) *string {
	if v.IsEmpty() {
		return nil
	}
	text := v.String()
	return &text
}
