package builder

import (
	"maps"
	"strings"

	"pinegate/app/run"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/flow"
	"pinegate/core/form"
	"pinegate/core/sentence"
	"pinegate/core/words"
	"pinegate/store/records"
)

// AskOut is a question of a workflow.
type AskOut struct {
	ID      string            `json:"id"`
	Name    string            `json:"name"`
	Type    string            `json:"type"`
	Options []sentence.Option `json:"options" doc:"The choices, of a choice"`
	Target  string            `json:"target,omitempty" doc:"Id of the table of which a record is chosen"`
	Was     bool              `json:"was,omitempty" doc:"It is what a field held before; what it holds unless that is given"`
}

// beforePrefix is put before the ids of fields whose values before a change are asked for.
const beforePrefix = "was."

// asked gives fields that hold what a workflow asks before it runs or, for a routine, what it is given.
func asked(b *blueprint.Blueprint, w *blueprint.Workflow) []*blueprint.Field {
	var out []*blueprint.Field
	if r := w.Routine(); r != nil {
		for i := range r.Inputs {
			out = append(out, r.Inputs[i].Field())
		}
	}
	if f := w.Asks(); f != nil {
		for a := range f.Form().Askers {
			out = append(out, a.Asks(b, nil))
		}
	}
	if t, is := w.Starts.Trigger.(*blueprint.SentTrigger); is {
		if _, f := b.FormAt(t.Form); f != nil {
			for a, with := range f.Askers {
				if free, is := a.(*blueprint.FreeBlock); is && with == nil { // which no record holds
					out = append(out, free.Asks(b, nil))
				}
			}
			out = append(out, calculated(b, f)...)
		}
	}
	return out
}

// calculated gives fields that would hold the results of a form, which no record holds either.
func calculated(b *blueprint.Blueprint, x *blueprint.FormBlock) []*blueprint.Field {
	var out []*blueprint.Field
	for _, known := range b.AnswersOf(x, "", true, b.Catalog()).Fields {
		if r := x.Result(known.ID); r != nil {
			out = append(out, r.Field(known.Type))
		}
	}
	return out
}

func asksOf(b *blueprint.Blueprint, catalog *expr.Catalog, w *blueprint.Workflow) []AskOut {
	out := []AskOut{}
	fields := asked(b, w)
	for _, f := range run.Befores(b, catalog, w) {
		was := *f
		was.ID, was.Name = beforePrefix+f.ID, words.Say("flow-before", words.Args{"field": f.Name})
		fields = append(fields, &was)
	}
	for _, field := range fields {
		x := AskOut{ID: field.ID, Name: field.Name, Type: string(field.Type), Options: []sentence.Option{}, Target: field.Target,
			Was: strings.HasPrefix(field.ID, beforePrefix)}
		if l := b.List(field.List); l != nil {
			for _, c := range l.Choices {
				x.Options = append(x.Options, sentence.Option{Value: c.ID, Label: c.Label})
			}
		}
		out = append(out, x)
	}
	return out
}

// answered reads the answers to what a workflow asks first.
func answered(b *blueprint.Blueprint, w *blueprint.Workflow, sent records.Values, with flow.Values) (flow.Values, error) {
	fields := asked(b, w)
	if len(fields) == 0 {
		return with, nil
	}
	wrong, out := records.FieldErrors{}, flow.Values{}
	maps.Copy(out, with)
	for _, field := range fields {
		raw, is := sent[field.ID]
		if !is {
			continue
		}
		v, problem := form.Accept(b, field, raw)
		if problem != nil {
			wrong[field.ID] = problem
		}
		out[field.ID] = flow.Value{Value: v}
	}
	if len(wrong) > 0 {
		return nil, wrong
	}
	return out, nil
}

// before reads what fields held before a change, where that is given.
func before(seat *records.Seat, w *blueprint.Workflow, sent records.Values, into flow.Values) error {
	wrong := records.FieldErrors{}
	for _, f := range run.Befores(seat.Blueprint, seat.Catalog, w) {
		raw, is := sent[beforePrefix+f.ID]
		if !is {
			continue
		}
		v, problem := form.Accept(seat.Blueprint, f, raw)
		if problem != nil {
			wrong[beforePrefix+f.ID] = problem
		}
		into[f.ID] = flow.Value{Value: v}
	}
	if len(wrong) > 0 {
		return wrong
	}
	return nil
}
