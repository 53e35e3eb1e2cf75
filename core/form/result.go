package form

import (
	"maps"
	"slices"

	"github.com/shopspring/decimal"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/words"
)

// Result is what is calculated from the answers so far. Where it is empty, Reason says why.
type Result struct {
	Value  expr.Value
	Reason *words.Problem
	Band   int // the how manieth of what can be said of it; -1 for none
	// Names and Values tell how it is calculated: with the names of what it looks at, and with what these are.
	Names, Values []expr.Told
}

// Point is how results of a chart are for one answer.
type Point struct {
	At     string
	Values []expr.Value // in the order of the chart's results
}

// result calculates a result from what is decided so far.
func (d *deciding) result(p Part, so State) *Result {
	out := &Result{Band: -1, Names: expr.Names(p.Value, d.Catalog)}
	out.Value, out.Reason = d.value(p, so, "")
	d.records[d.main].values[p.ID] = out.Value
	if out.Reason != nil {
		return out
	}
	out.Values = expr.Values(p.Value, d.Catalog, d)
	out.Band = slices.IndexFunc(p.Rules, func(c *expr.Checked) bool { return expr.Eval(c, d.Catalog, d).True() })
	return out
}

// value calculates a result; or says why there is none. That there is no answer to a question, whose id may be given,
// is no reason.
func (d *deciding) value(p Part, so State, but string) (expr.Value, *words.Problem) {
	if why := d.unanswered(p, so, but); why != nil {
		return expr.Empty(), why
	}
	if by := expr.Zero(p.Value, d.Catalog, d); by != "" {
		return expr.Empty(), words.New("result-zero", "what", by)
	}
	v := expr.Eval(p.Value, d.Catalog, d)
	if !v.IsEmpty() {
		return v, nil
	}
	if what := expr.Lacks(p.Value, d.Catalog, d); what != "" {
		return v, words.New("result-lacks", "what", what)
	}
	return v, words.New("result-none")
}

// unanswered says which of the answers that a result names are needed and are not there, or not right; of
// other results that it names, why they are empty.
func (d *deciding) unanswered(p Part, so State, but string) *words.Problem {
	var names []string
	var other *words.Problem
	for _, x := range d.Parts {
		named := x.Field != nil && slices.ContainsFunc(p.Value.Refs, func(r expr.Ref) bool {
			return r.Table == expr.AnswersTable && r.Field == x.Field.ID
		})
		s := so[x.ID]
		switch {
		case !named || x.ID == but:
		case x.Result != nil && s.Result != nil && s.Result.Reason != nil && other == nil:
			other = s.Result.Reason
		case s.Shown && (s.Missing || s.Cleared || s.Wrong != nil) && x.Result == nil:
			names = append(names, asked(x))
		}
	}
	if len(names) > 0 {
		return words.New("result-needs", "fields", words.Join(names))
	}
	return other
}

// asked is by what people know a question.
func asked(p Part) string {
	if q := p.Question.How(); q.Words != "" {
		return q.Words
	}
	return p.Field.Name
}

// courses calculates the charts of results that are shown.
func (d *deciding) courses(so State) {
	for _, p := range d.Parts {
		s, over := so[p.ID], Part{}
		if p.Course == nil || !s.Shown {
			continue
		}
		for _, q := range d.Parts {
			if q.ID == p.Course.Over {
				over = q
			}
		}
		if so[over.ID].Shown {
			s.Course = d.course(p.Course, over, so)
		}
		so[p.ID] = s
	}
}

// course calculates results for each answer to a question.
func (d *deciding) course(x *blueprint.CourseBlock, over Part, so State) []Point {
	was := d.records[d.main].values
	defer func(env expr.Env) { d.records[d.main].values, d.Env = was, env }(d.Env)
	d.Env = &remembering{Env: d.Env, records: map[string][]expr.Value{}, fields: map[fieldOf]expr.Value{}}
	var out []Point
	for _, at := range x.Points() {
		n, err := decimal.NewFromString(at)
		if err != nil {
			return nil // which was checked
		}
		values := maps.Clone(was)
		values[over.Field.ID] = expr.NumberOf(n)
		d.records[d.main].values = values
		reasons := maps.Clone(so)
		for _, p := range d.Parts {
			if s := so[p.ID]; p.Result != nil && s.Result != nil {
				one := &Result{}
				one.Value, one.Reason = d.value(p, reasons, over.ID)
				values[p.ID], s.Result = one.Value, one
				reasons[p.ID] = s
			}
		}
		point := Point{At: at}
		for _, id := range x.Results {
			point.Values = append(point.Values, values[id])
		}
		out = append(out, point)
	}
	return out
}

type fieldOf struct{ record, field string }

// remembering is an environment that is asked for nothing twice.
type remembering struct {
	expr.Env
	records map[string][]expr.Value
	fields  map[fieldOf]expr.Value
}

// Records lists the records of a table.
func (e *remembering) Records(table string) []expr.Value {
	list, known := e.records[table]
	if !known {
		list = e.Env.Records(table)
		e.records[table] = list
	}
	return list
}

// Field gives a field of a record.
func (e *remembering) Field(record expr.Value, f *expr.Field) expr.Value {
	at := fieldOf{record.Text, f.ID}
	v, known := e.fields[at]
	if !known {
		v = e.Env.Field(record, f)
		e.fields[at] = v
	}
	return v
}
