package page

import (
	"context"
	"errors"
	"fmt"

	"pinegate/app/run"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/records"
)

// Done is what is shown after a form was sent.
type Done struct {
	Thanks string  `json:"thanks"`
	Go     *Target `json:"go,omitempty"`
	// Rehearsed says what would have been written, where nothing was.
	Rehearsed []string `json:"rehearsed,omitempty"`
	// Keeps are values that workflows keep in the browser, by the ids of kept values.
	Keeps map[string]string `json:"keeps,omitempty"`
}

// Message takes in what workflows show that the form started: their words instead of thanks, and
// their page.
func (d *Done) Message(r run.Result) {
	if r.Message != "" {
		d.Thanks = r.Message
	}
	d.Keeps = r.Keeps
	if r.Page != "" {
		d.Go = &Target{Path: r.Page, Record: r.Record}
	}
}

// ErrRehearsed takes back what was written to see what that would be.
var ErrRehearsed = errors.New("this was a rehearsal")

// Rehearsed says what writes did, in the order of their tables.
func (u Use) Rehearsed(writes []*records.Write) []string {
	type what struct{ table, code string }
	counts, order := map[what]int{}, []what{}
	for _, w := range writes {
		x := what{w.Table, "rehearsed-change"}
		switch {
		case w.Before == nil:
			x.code = "rehearsed-add"
		case w.After == nil:
			x.code = "rehearsed-remove"
		}
		if counts[x]++; counts[x] == 1 {
			order = append(order, x)
		}
	}
	var out []string
	for _, x := range order {
		out = append(out, words.Say(x.code, words.Args{"n": counts[x], "table": u.Seat.Blueprint.Table(x.table).Name}))
	}
	return out
}

// After says what is shown after the form wrote a record, on the road on which it did.
func (u Use) After(ctx context.Context, road records.Road, record string) (Done, error) {
	out := Done{Thanks: words.Say("form-thanks", nil)}
	if u.Block.Thanks != "" {
		var err error
		if out.Thanks, err = u.thanks(ctx, road, record); err != nil {
			return out, err
		}
	}
	if out.Go = u.target(u.Block.Then); out.Go != nil && u.Seat.Blueprint.Page(u.Block.Then).Record != "" {
		out.Go.Record = record // the one that was written, not that of the page
	}
	return out, nil
}

// thanks fills values of the record that was written into the words, as far as whoever sent the
// form sees it.
func (u Use) thanks(ctx context.Context, road records.Road, record string) (string, error) {
	t, err := u.Seat.Blueprint.Thanks(u.spot(), u.Block, u.Seat.Catalog)
	if err != nil {
		return "", fmt.Errorf("read what a form on %s says afterwards: %w", u.Page.Name, err)
	}
	if len(t.Checked()) == 0 {
		return t.Text(nil), nil
	}
	read := records.Read{Table: u.Table, ID: record}
	for _, c := range t.Checked() {
		read.Texts = append(read.Texts, u.boundListed(c))
	}
	got, err := road.Batch(ctx, u.Seat, []records.Read{read})
	if errors.Is(err, store.ErrNotFound) {
		read.Table, read.ID = nil, ""
		for i, c := range read.Texts {
			read.Texts[i] = expr.OfNone(c)
		}
		got, err = road.Batch(ctx, u.Seat, []records.Read{read})
	}
	if err != nil {
		return "", fmt.Errorf("say what a form on %s says afterwards: %w", u.Page.Name, err)
	}
	texts := make([]string, len(read.Texts))
	for i, text := range got[0].Texts {
		if text != nil {
			texts[i] = *text
		}
	}
	return t.Text(texts), nil
}

// Sentence tells what the form did, for the list of changes.
func (u Use) Sentence() string {
	code := "history-form-add"
	if u.Block.Changes {
		code = "history-form-change"
	}
	return words.Say(code, words.Args{"table": u.Table.Name})
}

// Flow gives the workflow of which the form is, or nil.
func (v *View) Flow() *blueprint.Workflow {
	if v.flow == nil {
		return nil
	}
	return v.flow.Flow
}
