package flow_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/flow"
	"pinegate/core/report"
	"pinegate/core/service"
)

// town is a world of records in memory, for runs of workflows.
type town struct {
	t       testing.TB
	b       *blueprint.Blueprint
	catalog *expr.Catalog
	tables  map[string][]*record
	row     expr.Value // the record in hand of a condition
	said    []string   // what it was asked for
	n       int
	now     time.Time
	stay    bool // runs that wait are left waiting
}

type record struct {
	id      string
	values  map[string]expr.Value
	deleted bool
}

func newTown(t testing.TB, b *blueprint.Blueprint) *town {
	return &town{t: t, b: b, catalog: b.Catalog(), tables: map[string][]*record{}, now: morning}
}

// morning is when the tests begin.
var morning = time.Date(2026, 5, 2, 9, 0, 0, 0, time.UTC)

func (w *town) put(table, id string, pairs ...any) *record {
	r := &record{id: id, values: map[string]expr.Value{}}
	for i := 0; i < len(pairs); i += 2 {
		r.values[pairs[i].(string)] = pairs[i+1].(expr.Value)
	}
	w.tables[table] = append(w.tables[table], r)
	return r
}

func (w *town) find(table, id string) *record {
	for _, r := range w.tables[table] {
		if r.id == id && !r.deleted {
			return r
		}
	}
	return nil
}

func (w *town) Start(root expr.Root) expr.Value {
	switch root {
	case expr.RootRow:
		return w.row
	case expr.RootMe:
		return expr.RecordOf("ada")
	}
	return expr.Empty()
}

func (w *town) Field(r expr.Value, f *expr.Field) expr.Value {
	if f.Computed != nil {
		in := *w
		in.row = r
		return expr.Eval(f.Computed, w.catalog, &in)
	}
	if f.Of != nil { // the other side of a link
		var out []expr.Value
		for _, x := range w.tables[f.Type.Table] {
			if !x.deleted && x.values[f.Of.ID].Text == r.Text {
				out = append(out, expr.RecordOf(x.id))
			}
		}
		return expr.ListValue(out)
	}
	if x := w.find(f.Table, r.Text); x != nil {
		return x.values[f.ID]
	}
	return expr.Empty()
}

func (w *town) Records(table string) []expr.Value {
	var out []expr.Value
	for _, r := range w.tables[table] {
		if !r.deleted {
			out = append(out, expr.RecordOf(r.id))
		}
	}
	return out
}

func (w *town) Label(table string, r expr.Value) expr.Value {
	in := *w
	in.row = r
	return expr.Eval(w.catalog.Tables[table].Label, w.catalog, &in)
}

func (w *town) Clock() expr.Clock {
	return expr.Clock{Now: w.now, Zone: w.b.Location()}
}

// do does what a machine wants done.
func (w *town) do(e flow.Effect) flow.Outcome {
	switch e := e.(type) {
	case *flow.Add:
		return w.add(e)
	case *flow.Change:
		for _, row := range e.Rows {
			w.say("change %s %s %s", e.Table, row.ID, told(row.Values))
			for f, v := range row.Values {
				w.find(e.Table, row.ID).values[f] = v
			}
		}
	case *flow.Delete:
		for _, id := range e.Records {
			w.say("delete %s %s", e.Table, id)
			w.find(e.Table, id).deleted = true
		}
	case *flow.Find:
		return w.look(e)
	case *flow.Mail:
		w.say("mail %s %q %q %s", strings.Join(e.To, " "), e.Subject, e.Whole(func(s string) string { return s }), e.ReplyTo)
	case *flow.Show:
		w.say("show %q", e.Text)
	case *flow.Open:
		w.say("open %s %s", e.Page, e.Record)
	case *flow.Document:
		w.say("document %q %s %s %s %s", e.Title, e.Template, e.Table, e.Record, e.Field)
	case *flow.Keep:
		w.say("keep %s %s", e.Kept, e.Value)
	case *flow.Person:
		w.say("%s %s %s", e.Do, e.Email, e.Role)
	default:
		require.Fail(w.t, "an effect", "%T", e)
	}
	return flow.Outcome{}
}

func (w *town) add(e *flow.Add) flow.Outcome {
	var out flow.Outcome
	for _, row := range e.Rows {
		w.n++
		id := fmt.Sprintf("new%d", w.n)
		w.say("add %s %s %s", e.Table, id, told(row.Values))
		r := w.put(e.Table, id)
		r.values = row.Values
		out.Records = append(out.Records, id)
	}
	return out
}

func (w *town) look(e *flow.Find) flow.Outcome {
	var out flow.Outcome
	for _, x := range w.Records(e.Table) {
		in := *w
		in.row = x
		if e.Where == nil || expr.Eval(e.Where, w.catalog, &in).True() {
			out.Records = append(out.Records, x.Text)
		}
	}
	out.Records = out.Records[:min(len(out.Records), e.Most)]
	if e.Total != "" {
		return flow.Outcome{Number: w.total(e, out.Records)}
	}
	if out.Count = len(out.Records); e.Count {
		out.Records = nil
	}
	return out
}

// total gives what the numbers of records come to; averages do not come up.
func (w *town) total(e *flow.Find, found []string) expr.Value {
	var out []decimal.Decimal
	for _, id := range found {
		in := *w
		in.row = expr.RecordOf(id)
		if v := expr.Eval(e.Of, w.catalog, &in); !v.IsEmpty() {
			out = append(out, v.Num)
		}
	}
	switch {
	case e.Total == report.Sum:
		return expr.NumberOf(decimal.Sum(decimal.Zero, out...))
	case len(out) == 0:
		return expr.Empty()
	case e.Total == report.Least:
		return expr.NumberOf(decimal.Min(out[0], out...))
	}
	return expr.NumberOf(decimal.Max(out[0], out...))
}

// answers gives what the sample of a call answers.
func (w *town) answers(id string) []flow.Values {
	_, call := w.b.CallOf(id)
	rows, err := service.Read(call, []byte(call.Sample))
	require.NoError(w.t, err)
	var out []flow.Values
	for _, r := range rows {
		out = append(out, flow.ValuesOf(r))
	}
	return out
}

func given(values flow.Values) string {
	out := map[string]expr.Value{}
	for id, v := range values {
		out[id] = v.Value
	}
	return told(out)
}

func (w *town) say(format string, args ...any) { w.said = append(w.said, fmt.Sprintf(format, args...)) }

func told(values map[string]expr.Value) string {
	var out []string
	for f, v := range values {
		out = append(out, f+"="+v.String())
	}
	slices.Sort(out)
	return strings.Join(out, " ")
}

// run runs a workflow to its end, and gives what ended it.
func (w *town) run(id string, in flow.Input, watch func(flow.Event)) (flow.Effect, error) {
	p, err := flow.Compile(w.b, w.catalog, w.b.Workflow(id))
	require.NoError(w.t, err)
	return w.goOn(p.Run(in, p.Begin(), watch), nil)
}

// goOn runs a machine to its end; between is done after each effect, with what the machine has to
// be after that.
func (w *town) goOn(m *flow.Machine, between func(*flow.Machine) *flow.Machine) (flow.Effect, error) {
	for {
		e, err := m.Next(w)
		if err != nil {
			return nil, err
		}
		switch x := e.(type) {
		case *flow.Stop, *flow.Done:
			return e, nil
		case *flow.Wait:
			if w.stay {
				return e, nil
			}
			w.say("wait %s", x.Until.UTC().Format(time.DateTime))
			w.now = x.Until
		case *flow.Call:
			if w.stay {
				return e, nil
			}
			w.say("call %s %s", x.Call, given(x.Given))
			if err := m.Answer(w.answers(x.Call)); err != nil {
				return nil, err
			}
		default:
			for e != nil {
				e = m.Did(w.do(e))
			}
		}
		if between != nil {
			m = between(m)
		}
	}
}

// kept writes the state of a machine down, and goes on from what was written.
func kept(t require.TestingT, p *flow.Program, in flow.Input, watch func(flow.Event)) func(*flow.Machine) *flow.Machine {
	return func(m *flow.Machine) *flow.Machine {
		raw, err := json.Marshal(m.State())
		require.NoError(t, err)
		state := &flow.State{}
		require.NoError(t, json.Unmarshal(raw, state))
		return p.Run(in, state, watch)
	}
}
