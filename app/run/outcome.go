package run

import (
	"fmt"
	"strings"

	"pinegate/core/words"
	"pinegate/store/runs"
)

// Outcome is something that came of a rehearsal. Its key stays the same whatever things are called.
type Outcome struct {
	Key  string `json:"key"`
	Text string `json:"text"`
}

// outcomes tells what came of a run: how it ended, what mails went out, how many records were added
// and deleted, and what those hold that were changed.
func (t *teller) outcomes(status runs.Status, why string, entries []Entry) []Outcome {
	out := []Outcome{{"end " + string(status), words.Say("outcome-"+string(status), words.Args{"why": why})}}
	say := func(key, code string, args words.Args) { out = append(out, Outcome{key, words.Say(code, args)}) }
	added, deleted := map[string]int{}, map[string]int{}
	var tables []string
	changed := map[string]int{} // where in out a field of a record stands
	for _, e := range entries {
		if e.Mail != nil {
			to := strings.Join(e.Mail.To, ", ")
			say(fmt.Sprintf("mail %s %v %s %s", e.Step, e.Rounds, to, e.Mail.Subject), "outcome-mail",
				words.Args{"subject": e.Mail.Subject, "to": to})
		}
		if e.Does {
			out = append(out, Outcome{fmt.Sprintf("did %s %v %s", e.Step, e.Rounds, e.Text), e.Text})
		}
		if e.Call != nil {
			say(fmt.Sprintf("call %s %v %s %s", e.Step, e.Rounds, e.Call.Asked, e.Call.Body), "outcome-call",
				words.Args{"service": e.Call.Service, "asked": strings.TrimSpace(e.Call.Asked + " " + e.Call.Body)})
		}
		for _, w := range e.Writes {
			told := t.wrote(w)
			switch {
			case told.Kind != "changed":
				if added[w.Table]+deleted[w.Table] == 0 {
					tables = append(tables, w.Table)
				}
				if told.Kind == "added" {
					added[w.Table]++
				} else {
					deleted[w.Table]++
				}
				continue
			}
			for _, f := range told.Fields {
				at := w.Table + " " + w.Record + " " + f.Name
				line := Outcome{"set " + at + " " + f.After, words.Say("outcome-set", words.Args{"field": f.Name, "record": told.Label,
					"value": f.After})}
				if i, again := changed[at]; again {
					out[i] = line
					continue
				}
				changed[at] = len(out)
				out = append(out, line)
			}
		}
	}
	for _, id := range tables {
		name := id
		if table := t.seat.Blueprint.Table(id); table != nil {
			name = table.Name
		}
		if n := added[id]; n > 0 {
			say(fmt.Sprintf("added %s %d", id, n), "outcome-added", words.Args{"n": n, "table": name})
		}
		if n := deleted[id]; n > 0 {
			say(fmt.Sprintf("deleted %s %d", id, n), "outcome-deleted", words.Args{"n": n, "table": name})
		}
	}
	return out
}

// All lists what came of a rehearsal, and of the workflows that it set off.
func (r *Rehearsal) All() []Outcome {
	if !r.Starts {
		return []Outcome{{"end not begun", words.Say("outcome-not-begun", words.Args{"flow": r.Name})}}
	}
	out := append([]Outcome{}, r.Outcomes...)
	for i := range r.Followed {
		f := &r.Followed[i]
		for _, x := range f.All() {
			text := words.Say("outcome-then", words.Args{"flow": f.Name, "text": x.Text})
			out = append(out, Outcome{"then " + f.Workflow + " " + x.Key, text})
		}
	}
	return out
}

// Missing lists what should have come of a rehearsal and did not.
func (r *Rehearsal) Missing(wanted []Outcome) []Outcome {
	is := map[string]bool{}
	for _, x := range r.All() {
		is[x.Key] = true
	}
	var out []Outcome
	for _, x := range wanted {
		if !is[x.Key] {
			out = append(out, x)
		}
	}
	return out
}
