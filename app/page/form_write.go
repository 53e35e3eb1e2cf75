package page

import (
	"context"
	"fmt"
	"maps"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/form"
	"pinegate/core/prop"
	"pinegate/core/words"
	"pinegate/store/records"
)

// Presets are what a form sets by itself: of its record, and of those that go with it by the ids
// of blocks, each by the ids of fields.
type Presets struct {
	Own  map[string]expr.Value
	With map[string]map[string]expr.Value
}

// Presets computes what the form sets by itself when answers are sent.
func (u Use) Presets(taken Taken) (Presets, error) {
	out := Presets{With: map[string]map[string]expr.Value{}}
	at := u.spot()
	at.Form = u.Block
	var err error
	if out.Own, err = u.sets(at, u.Table, u.Block.Presets, taken.answered); err != nil {
		return out, err
	}
	for w := range u.Block.With {
		out.With[w.ID], err = u.sets(u.spot(), w.Table(u.Seat.Blueprint, u.Block), w.Presets, taken.answered)
		if err != nil {
			return out, err
		}
	}
	return out, taken.env.Err()
}

func (u Use) sets(at blueprint.Spot, t *blueprint.Table, presets []prop.Given, env expr.Env) (map[string]expr.Value, error) {
	out := map[string]expr.Value{}
	for _, g := range presets {
		c, err := u.Seat.Blueprint.Preset(at, t.Field(g.Field), g.Value, u.Seat.Catalog)
		if err != nil {
			return nil, fmt.Errorf("read what a form on %s sets: %w", u.Page.Name, err)
		}
		out[g.Field] = expr.Eval(u.boundListed(c), u.Seat.Catalog, env)
	}
	return out, nil
}

// Write adds or changes the record of the form and those that go with it, in the order in which they
// can be. What is wrong with one of those stands behind the place of its line.
func (u Use) Write(ctx context.Context, road records.Road, taken Taken, presets Presets) (Written, error) {
	var later records.Later
	w := writing{Use: u, road: road.Later(&later), presets: presets, own: maps.Clone(presets.Own)}
	for _, l := range taken.With {
		if !l.Leads {
			continue
		}
		id, err := w.ledTo(ctx, l)
		if err != nil {
			return Written{}, records.At(l.Place, err)
		}
		if id != "" {
			w.own[l.Link] = expr.RecordOf(id)
		}
	}
	record, err := w.main(ctx, taken)
	if err != nil {
		return Written{}, err
	}
	for i := 0; i < len(taken.With); {
		n, err := w.leading(ctx, taken.With[i:], record)
		if err != nil {
			return Written{}, err
		}
		i += n
	}
	return Written{Record: record, Writes: w.writes}, later.Keep(ctx, road, u.Seat)
}

// Written is what a form wrote: the id of its record, and all writes.
type Written struct {
	Record string
	Writes []*records.Write
}

// writing writes the records of a form.
type writing struct {
	Use
	road    records.Road
	presets Presets
	own     map[string]expr.Value
	writes  []*records.Write
}

// note keeps a write, and gives the id of its record.
func (w *writing) note(x *records.Write, err error) (string, error) {
	if err != nil {
		return "", err
	}
	w.writes = append(w.writes, x)
	return x.Record, nil
}

// ledTo writes the record to which that of the form is to lead, unless there is one already. It
// leads to none, "", where somebody is known by the address in another table: a refusal would tell
// whoever sends it that they are.
func (w *writing) ledTo(ctx context.Context, l TakenLine) (string, error) {
	if l.Record != "" {
		return l.Record, w.change(ctx, l, w.presets.With[l.ID])
	}
	if l.Find != "" {
		id, elsewhere, err := w.found(ctx, l)
		if err != nil || id != "" || elsewhere && !w.Table.Field(l.Link).Required {
			return id, err
		}
	}
	return w.note(w.road.Add(ctx, w.Seat, l.Table, l.Values, w.presets.With[l.ID]))
}

// found gives the id of a record that is there already and is what the answers are about, or "" and
// whether somebody is known by the same in another table.
func (w *writing) found(ctx context.Context, l TakenLine) (id string, elsewhere bool, err error) {
	f := l.Table.Field(l.Find)
	raw, sent := l.Values[f.ID]
	v := w.presets.With[l.ID][f.ID]
	if sent {
		var wrong *words.Problem
		if v, wrong = form.Accept(w.Seat.Blueprint, f, raw); wrong != nil {
			return "", false, records.FieldErrors{f.ID: wrong}
		}
	}
	if v.IsEmpty() {
		return "", false, nil
	}
	if id, err = w.road.Holding(ctx, w.Seat, l.Table, f, v.String()); err != nil || id != "" {
		return id, false, err
	}
	elsewhere, err = w.road.KnownElsewhere(ctx, w.Seat, l.Table, f, v.String())
	return "", elsewhere, err
}

// leading writes the first of the records that lead to that of the form, with others that are new
// and go with it as it does, and tells how many these were.
func (w *writing) leading(ctx context.Context, lines []TakenLine, main string) (int, error) {
	l := lines[0]
	fresh := 0
	for fresh < len(lines) && lines[fresh].ID == l.ID && !lines[fresh].Leads && lines[fresh].Record == "" && !lines[fresh].Removed {
		fresh++
	}
	switch {
	case l.Leads: // which was written before
		return 1, nil
	case fresh > 0:
		return fresh, w.add(ctx, lines[:fresh], main)
	case l.Removed:
		_, err := w.note(w.road.Delete(ctx, w.Seat, l.Table, l.Record, l.Revision))
		return 1, err
	}
	return 1, records.At(l.Place, w.change(ctx, l, w.presets.With[l.ID]))
}

// add adds records that lead to that of the form.
func (w *writing) add(ctx context.Context, lines []TakenLine, main string) error {
	presets := maps.Clone(w.presets.With[lines[0].ID])
	presets[lines[0].Link] = expr.RecordOf(main)
	var list []records.Fresh
	for _, l := range lines {
		list = append(list, records.Fresh{Entered: l.Values, Presets: presets})
	}
	writes, err := w.road.AddAll(ctx, w.Seat, lines[0].Table, list, func(i int) string { return lines[i].Place })
	w.writes = append(w.writes, writes...)
	return err
}

// change changes a record that goes with the form, where anything of it was answered otherwise.
func (w *writing) change(ctx context.Context, l TakenLine, presets map[string]expr.Value) error {
	if len(l.Values) == 0 {
		return nil
	}
	x, err := w.road.Change(ctx, w.Seat, l.Table, l.Record, l.Revision, l.Values, presets)
	if err != nil {
		return err
	}
	w.writes = append(w.writes, x)
	return emptied(x, l.Values, l.Table, l.Parts)
}

// main writes the record of the form and gives its id; one of which nothing is changed stays as it
// is, also for those who may not change it.
func (w *writing) main(ctx context.Context, taken Taken) (string, error) {
	switch {
	case !w.Block.Changes:
		return w.note(w.road.Add(ctx, w.Seat, w.Table, taken.Values, w.own))
	case len(taken.Values)+len(w.own) == 0 && len(taken.With) > 0:
		return w.Seat.Page, nil
	}
	x, err := w.road.Change(ctx, w.Seat, w.Table, w.Seat.Page, taken.Revision, taken.Values, w.own)
	if err != nil {
		return "", err
	}
	return w.note(x, emptied(x, taken.Values, w.Table, taken.Parts))
}

// emptied refuses answers that took away all of what a record has to have: of links it shows only
// in the record how many are left.
func emptied(w *records.Write, answers records.Values, t *blueprint.Table, parts []form.Part) error {
	wrong := records.FieldErrors{}
	for _, p := range parts {
		if p.Question == nil || p.Free() {
			continue
		}
		id := p.Field.ID
		if _, sent := answers[id]; sent && p.Question.How().Required && w.After[id] == nil {
			wrong[id] = form.Missing(t.Field(id))
		}
	}
	if len(wrong) > 0 {
		return wrong
	}
	return nil
}
