package run

import (
	"context"
	"slices"
	"time"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/flow"
	"pinegate/core/sentence"
	"pinegate/store/records"
)

// Told is what a step did, as who builds the app reads it.
type Told struct {
	Step     string      `json:"step"`
	Sentence string      `json:"sentence"` // of the step, "" where it is not there any more
	Rounds   []int       `json:"rounds"`
	What     string      `json:"what"`
	Looked   []flow.Look `json:"looked"` // what its condition looked at
	Made     *Named      `json:"made,omitempty"`
	Writes   []Wrote     `json:"writes"`
	Mail     *Mail       `json:"mail,omitempty"`
	Text     string      `json:"text,omitempty"` // the message, or the name of the page that is opened
	Found    *int        `json:"found,omitempty"`
	Until    *time.Time  `json:"until,omitempty"`   // to when it waits, or waited at most
	Call     *Called     `json:"call,omitempty"`    // what a service was asked
	Watched  []string    `json:"watched,omitempty"` // what was watched, after it
	Micros   int64       `json:"micros"`
}

// Named is a value that later steps can name.
type Named struct {
	Name  string `json:"name"`
	Shown string `json:"shown"` // "" for empty
}

// Wrote is what was written to a record.
type Wrote struct {
	Table  string     `json:"table"`
	Record string     `json:"record"`
	Label  string     `json:"label"`
	Kind   string     `json:"kind" enum:"added,changed,deleted"`
	Fields []FieldWas `json:"fields"`
}

// FieldWas is what a field held before and after.
type FieldWas struct {
	Name   string `json:"name"`
	Before string `json:"before"`
	After  string `json:"after"`
}

// teller tells what steps did.
type teller struct {
	seat  *records.Seat // of who builds the app
	env   *records.Env
	lines map[string]string
	names map[string]string // what steps make, by their ids
	types map[string]expr.Type
}

// Tell tells the entries of a run on a road that reaches its records.
func Tell(ctx context.Context, road records.Road, seat *records.Seat, entries []Entry) ([]Told, error) {
	t := newTeller(ctx, road, seat)
	out := []Told{}
	for _, e := range entries {
		out = append(out, t.tell(e))
	}
	return out, t.env.Err()
}

func newTeller(ctx context.Context, road records.Road, seat *records.Seat) *teller {
	env := road.Env(ctx, seat, nil, nil)
	t := &teller{seat: seat, env: env, lines: map[string]string{}, names: map[string]string{},
		types: seat.Blueprint.FlowMakes(seat.Catalog)}
	t.read(sentence.Script(seat.Blueprint, sentence.WorkflowsStop, func(string) bool { return true }))
	for i := range seat.Blueprint.Workflows {
		for x := range seat.Blueprint.Workflows[i].Steps.All {
			t.names[x.Self().ID] = x.Self().Name
			if l, loops := x.(blueprint.Loop); loops {
				t.names[blueprint.ItemID(x.Self().ID)] = l.Item().ItemName
			}
		}
	}
	return t
}

// read notes the sentences of steps.
func (t *teller) read(lines []sentence.Line) {
	for _, l := range lines {
		if l.Of != "" && l.Kind == sentence.Plain && t.lines[l.Of] == "" {
			t.lines[l.Of] = l.Text()
		}
		t.read(l.Lines)
	}
}

func (t *teller) tell(e Entry) Told {
	out := Told{Step: e.Step, Sentence: t.lines[e.Step], Rounds: e.Rounds, What: string(e.What), Looked: e.Looked, Writes: []Wrote{},
		Mail: e.Mail, Text: e.Text, Found: e.Found, Until: e.Until, Call: e.Call, Watched: e.Watched, Micros: e.Micros}
	if out.Rounds == nil {
		out.Rounds = []int{}
	}
	if out.Looked == nil {
		out.Looked = []flow.Look{}
	}
	if e.Made != nil {
		id := e.Step
		if e.What == flow.BeganRound {
			id = blueprint.ItemID(e.Step)
		}
		out.Made = &Named{Name: t.names[id], Shown: t.value(e.Made.Value, t.types[id])}
	}
	for _, w := range e.Writes {
		out.Writes = append(out.Writes, t.wrote(w))
	}
	return out
}

// value shows a value as people read it.
func (t *teller) value(v expr.Value, is expr.Type) string {
	if is.Kind == expr.Record && t.seat.Blueprint.Table(is.Table) == nil || v.IsEmpty() {
		return ""
	}
	return expr.Shown(&expr.Checked{Root: &expr.Node{Op: expr.OpConst, Type: is, Value: v}}, t.seat.Catalog, t.env)
}

func (t *teller) wrote(w *records.Write) Wrote {
	out := Wrote{Table: w.Table, Record: w.Record, Kind: "changed", Fields: []FieldWas{}}
	table := t.seat.Blueprint.Table(w.Table)
	switch {
	case w.Before == nil:
		out.Kind = "added"
	case w.After == nil:
		out.Kind = "deleted"
	}
	if table == nil {
		return out
	}
	out.Table = table.Name
	out.Label = t.env.Label(w.Table, expr.RecordOf(w.Record)).Text
	shown := func(f *blueprint.Field, v any) string {
		return t.value(records.ValueOf(t.seat.Catalog, table.ID, f.ID, v), t.seat.Catalog.TypeOf(table.ID, f.ID))
	}
	for i := range table.Fields {
		f := &table.Fields[i]
		before, was := w.Before[f.ID]
		after, is := w.After[f.ID]
		if !was && !is {
			continue
		}
		x := FieldWas{Name: f.Name, Before: shown(f, before), After: shown(f, after)}
		if x.Before != x.After {
			out.Fields = append(out.Fields, x)
		}
	}
	if out.Label == "" { // of one that is deleted
		out.Label = firstOf(out.Fields)
	}
	return out
}

func firstOf(fields []FieldWas) string {
	i := slices.IndexFunc(fields, func(f FieldWas) bool { return f.Before != "" })
	if i < 0 {
		return ""
	}
	return fields[i].Before
}
