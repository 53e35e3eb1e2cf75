package page

import (
	"context"
	"slices"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/form"
	"pinegate/core/query"
	"pinegate/core/words"
	"pinegate/store/records"
)

// answering gives the form with texts that know what is answered.
func (u Use) answering(answered expr.Env) Use {
	v := *u.View
	v.form, v.answered = u.Block, answered
	u.View = &v
	return u
}

// showing is what is shown of a form while it is put together. What its questions offer, and
// what its words say, is read at once.
type showing struct {
	Use
	parts     []form.Part
	asked     StateAsked
	there     there
	env       *records.Env
	have      map[string]bool // ids of parts that whoever asks has
	questions []*Question
	between   blueprint.Blocks
	reads     []records.Read
	take      []func(records.Result) error
}

// shown makes of a state what is shown of it.
func (u Use) shown(ctx context.Context, f *form.Form, state form.State, asked StateAsked, is there,
	env *records.Env) (FormState, error) {
	s := &showing{Use: u, parts: f.Parts, asked: asked, there: is, env: env, have: map[string]bool{}}
	for _, id := range asked.Have {
		s.have[id] = true
	}
	parts, err := s.all(f.Parts, f.Table, state, is.row)
	if err != nil {
		return FormState{}, err
	}
	got, err := u.Road.Batch(ctx, u.Seat, s.reads)
	for i := 0; i < len(s.take) && err == nil; i++ {
		err = s.take[i](got[i])
	}
	if err != nil {
		return FormState{}, err
	}
	out := FormState{Parts: settled(parts), Questions: []Question{}}
	for _, q := range s.questions {
		out.Questions = append(out.Questions, *q)
	}
	out.Blocks, err = u.words(ctx, s.between)
	return out, err
}

// shownParts are parts that are shown while they are put together.
type shownParts map[string]*shownPart

type shownPart struct {
	PartState
	lines []shownLine
}

type shownLine struct {
	LineState
	parts shownParts
}

// settled gives parts once all is read.
func settled(parts shownParts) map[string]PartState {
	out := map[string]PartState{}
	for id, p := range parts {
		for _, l := range p.lines {
			l.Parts = settled(l.parts)
			p.Lines = append(p.Lines, l.LineState)
		}
		out[id] = p.PartState
	}
	return out
}

// all shows parts that ask for a record.
func (s *showing) all(parts []form.Part, t *blueprint.Table, state form.State, row Row) (shownParts, error) {
	out := shownParts{}
	for _, p := range parts {
		if !state[p.ID].Shown || p.Shows() && p.Unasked {
			continue
		}
		to := told(p, state[p.ID])
		out[p.ID] = to
		if err := s.part(p, t, state[p.ID], to, row); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// part shows a part of the form.
func (s *showing) part(p form.Part, t *blueprint.Table, is form.PartState, to *shownPart, row Row) error {
	switch {
	case p.Section != nil:
		return s.title(p.Section.Title, to)
	case p.With != nil:
		return s.goes(p, is, to)
	case p.Question == nil:
		s.calculated(p, is, to)
		if !s.have[p.ID] || p.Says {
			s.between = append(s.between, p.Block)
		}
		s.have[p.ID] = true // which are the same in all lines
		return nil
	case p.Shows():
		to.Value = inRow(is.Value)
		if target := s.target(p); target != "" && !is.Value.IsEmpty() {
			to.Label = s.answered.Label(target, is.Value).Text
		}
	}
	within := is.Offers != nil || s.signsUp() && s.offers(p.Field) != nil // whose search goes with the answers
	if within {
		s.offer(s.offers(p.Field), s.asked.Search[p.ID], is.Offers, &to.Options, &to.More)
	}
	if s.asked.Review {
		s.labels(p, is, to)
	}
	if s.have[p.ID] {
		return nil
	}
	s.have[p.ID] = true
	q, err := s.question(p, t, row)
	if err != nil {
		return err
	}
	s.questions = append(s.questions, &q)
	if at := s.offers(p.Field); at != nil && !within && p.Narrow == nil && !p.Shows() {
		s.offer(at, "", nil, &q.Options, &q.More)
	}
	return nil
}

// calculated shows what is calculated.
func (s *showing) calculated(p form.Part, is form.PartState, to *shownPart) {
	switch {
	case p.Result != nil && is.Result != nil:
		to.Result = s.result(p, is.Result)
	case p.Course != nil && is.Course != nil:
		to.Chart = s.course(p, is.Course)
	}
}

// target gives the id of the table to which a value that is only shown leads, or "".
func (s *showing) target(p form.Part) string {
	if at := s.offers(p.Field); at != nil && p.Field.Type == blueprint.Link {
		return at.ID
	}
	return ""
}

// goes shows what goes with the form. Values of records that are there come with them at first.
func (s *showing) goes(p form.Part, is form.PartState, to *shownPart) error {
	first := !s.have[p.ID]
	s.have[p.ID] = true
	if err := s.lineRights(p, to); err != nil {
		return err
	}
	for _, l := range is.Lines {
		line := shownLine{LineState: LineState{Key: l.Key, Record: l.Record, Removed: l.Removed}, parts: shownParts{}}
		row := Row{}
		for _, r := range s.there.with[p.ID] {
			if r["id"] == l.Record {
				row = r
			}
		}
		if n, ok := row["revision"].(float64); ok {
			line.Revision = int(n)
		}
		if first {
			line.Row = row
		}
		if !l.Removed {
			var err error
			if line.parts, err = s.all(p.With.Parts, p.With.Table, l.Parts, Row{}); err != nil {
				return err
			}
		}
		to.lines = append(to.lines, line)
	}
	if err := s.lineQuestions(p); err != nil {
		return err
	}
	return s.title(p.With.Title, to)
}

// lineRights finds out what whoever looks may do with lines.
func (s *showing) lineRights(p form.Part, to *shownPart) error {
	if !p.With.Lines {
		return nil
	}
	to.Adds = slices.ContainsFunc(p.With.Parts, func(q form.Part) bool { return q.Question != nil && !q.Shows() && !q.Unasked })
	var err error
	to.Removes, err = s.Seat.Allowed(p.With.Table.ID, blueprint.Delete)
	return err
}

// lineQuestions describes the questions of lines also where there is no line yet.
func (s *showing) lineQuestions(p form.Part) error {
	if !p.With.Lines {
		return nil
	}
	for _, q := range p.With.Parts {
		if q.Question == nil || q.Unasked || s.have[q.ID] {
			continue
		}
		if err := s.part(q, p.With.Table, form.PartState{Shown: true}, &shownPart{}, Row{}); err != nil {
			return err
		}
	}
	return nil
}

// read reads something with all else that the form needs.
func (s *showing) read(what records.Read, take func(records.Result) error) {
	s.reads, s.take = append(s.reads, what), append(s.take, take)
}

// offer reads the first records that can be chosen.
func (s *showing) offer(t *blueprint.Table, search string, where *expr.Checked, options *[]RecordOption, more *bool) {
	s.read(records.Read{List: &query.Selection{Table: t, Search: search, Filter: where, Limit: firstOptions}},
		func(got records.Result) (err error) {
			*options, err = optionsOf(got.Rows)
			*more = got.Next != ""
			return err
		})
}

// title reads the title of a section.
func (s *showing) title(source string, to *shownPart) error {
	what, err := s.reading(source)
	if err != nil {
		return err
	}
	fill := func(got []records.Result) error {
		w, err := s.filled(source, got)
		to.Title = w.Text
		return err
	}
	if len(what) == 0 {
		return fill(nil)
	}
	s.read(what[0], func(got records.Result) error { return fill([]records.Result{got}) })
	return nil
}

// labels reads by what texts the records are known that were chosen, as whoever answers sees them.
func (s *showing) labels(p form.Part, is form.PartState, to *shownPart) {
	t, v := s.offers(p.Field), is.Value
	if t == nil || v.IsEmpty() {
		return
	}
	chosen := v.Items
	if p.Field.Type == blueprint.Link {
		chosen = []expr.Value{v}
	}
	for _, x := range chosen {
		to.Labels = append(to.Labels, s.answered.Label(t.ID, x).Text)
	}
}

// told is what is said of a part.
func told(p form.Part, s form.PartState) *shownPart {
	out := &shownPart{PartState: PartState{Required: s.Required}}
	if s.Wrong != nil {
		out.Wrong = s.Wrong.Error()
	}
	if s.Choices != nil {
		out.Choices = &s.Choices
	}
	switch {
	case s.Missing && p.With != nil:
		out.Missing = words.Say("with-few", words.Args{"n": p.With.Least})
	case s.Missing:
		out.Missing = form.Missing(p.Field).Error()
	}
	if s.Cleared {
		out.Cleared = words.Say("answer-cleared", nil)
	}
	return out
}

// words shows words between questions.
func (u Use) words(ctx context.Context, blocks blueprint.Blocks) ([]Block, error) {
	v := *u.View
	v.decided, v.Sources = true, false
	reads, shares, err := v.reads(blocks)
	if err != nil {
		return nil, err
	}
	got, err := v.Road.Batch(ctx, v.Seat, reads)
	if err != nil {
		return nil, err
	}
	return v.show(blocks, shares, &got)
}
