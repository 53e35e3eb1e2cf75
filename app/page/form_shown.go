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
	form      *form.Form
	state     form.State
	asked     StateAsked
	row       Row
	parts     map[string]*PartState
	questions []*Question
	between   blueprint.Blocks
	reads     []records.Read
	take      []func(records.Result) error
}

// shown makes of a state what is shown of it.
func (u Use) shown(ctx context.Context, f *form.Form, state form.State, asked StateAsked, row Row) (FormState, error) {
	s := &showing{Use: u, form: f, state: state, asked: asked, row: row, parts: map[string]*PartState{}}
	for _, p := range f.Parts {
		if !state[p.ID].Shown {
			continue
		}
		if err := s.part(p); err != nil {
			return FormState{}, err
		}
	}
	got, err := u.Road.Batch(ctx, u.Seat, s.reads)
	for i := 0; i < len(s.take) && err == nil; i++ {
		err = s.take[i](got[i])
	}
	if err != nil {
		return FormState{}, err
	}
	out := FormState{Parts: map[string]PartState{}, Questions: []Question{}}
	for id, p := range s.parts {
		out.Parts[id] = *p
	}
	for _, q := range s.questions {
		out.Questions = append(out.Questions, *q)
	}
	out.Blocks, err = u.words(ctx, s.between)
	return out, err
}

// part shows a part of the form.
func (s *showing) part(p form.Part) error {
	to := told(p, s.state[p.ID])
	s.parts[p.ID] = to
	have := slices.Contains(s.asked.Have, p.ID)
	switch {
	case p.Section != nil:
		return s.title(p.Section.Title, to)
	case p.Question == nil:
		if !have || p.Says {
			s.between = append(s.between, p.Block)
		}
		return nil
	}
	if offers := s.state[p.ID].Offers; offers != nil {
		s.offer(s.offers(p.Field), s.asked.Search[p.ID], offers, &to.Options, &to.More)
	}
	if s.asked.Review {
		s.labels(p, to)
	}
	if have {
		return nil
	}
	q, err := s.question(p, s.row)
	if err != nil {
		return err
	}
	s.questions = append(s.questions, &q)
	if t := s.offers(p.Field); t != nil && p.Narrow == nil {
		s.offer(t, "", nil, &q.Options, &q.More)
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
func (s *showing) title(source string, to *PartState) error {
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
func (s *showing) labels(p form.Part, to *PartState) {
	t, v := s.offers(p.Field), s.state[p.ID].Value
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
func told(p form.Part, s form.PartState) *PartState {
	out := &PartState{Required: s.Required}
	if s.Wrong != nil {
		out.Wrong = s.Wrong.Error()
	}
	if s.Missing {
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
