package page

import (
	"context"
	"encoding/json"
	"fmt"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/form"
	"pinegate/core/query"
	"pinegate/core/words"
	"pinegate/store/records"
)

// firstOptions is how many records a link offers before one has to search.
const firstOptions = 60

// Form is a form as it is shown, with what its fields hold now.
type Form struct {
	Head
	Order []Place   `json:"order"`
	State FormState `json:"state"` // how they are at first
	// Live tells that how it is depends on the answers, so that it is asked about while somebody answers.
	Live     bool   `json:"live"`
	Review   bool   `json:"review,omitempty"` // a last step shows all answers
	Submit   string `json:"submit"`
	Revision int    `json:"revision"`
}

// Place is where something stands in a form. What stands in a section comes with that.
type Place struct {
	ID   string  `json:"id"` // of a question, a section, or words
	Step bool    `json:"step,omitempty"`
	Of   []Place `json:"of,omitempty"`
}

// placesOf gives how blocks stand in a form.
func placesOf(blocks blueprint.Blocks) []Place {
	out := []Place{}
	for _, x := range blocks {
		p := Place{ID: x.Self().ID}
		if s, is := x.(*blueprint.SectionBlock); is {
			p.Step, p.Of = s.Way == blueprint.StepSection, placesOf(s.Blocks)
		}
		out = append(out, p)
	}
	return out
}

// Use is a form on a page, with the table whose records it adds or changes.
type Use struct {
	*View
	Block *blueprint.FormBlock
	Table *blueprint.Table
}

// Use gives the form with the id.
func (v *View) Use(id string) (Use, error) {
	in, x, err := At[*blueprint.FormBlock](v, id)
	if err != nil {
		return Use{}, err
	}
	return in.use(x), nil
}

func (v *View) use(x *blueprint.FormBlock) Use {
	return Use{v, x, v.Seat.Blueprint.Table(x.Table)}
}

func (u Use) action() blueprint.Action {
	if u.Block.Changes {
		return blueprint.Modify
	}
	return blueprint.Add
}

// Asks tells whether whoever looks is asked for a field.
func (u Use) Asks(field string) (bool, error) {
	return access.Asks(u.Seat.Blueprint, u.Seat.Catalog, u.Seat.Viewer, u.Table.ID, field, u.action())
}

// Asked gives a question of the form that whoever looks is asked, or nil.
func (u Use) Asked(field string) (*blueprint.Field, error) {
	if u.Block.Question(field) == nil {
		return nil, nil
	}
	if asks, err := u.Asks(field); err != nil || !asks {
		return nil, err
	}
	return u.Table.Field(field), nil
}

// offers gives the table whose records a question about a field offers, or nil.
func (u Use) offers(f *blueprint.Field) *blueprint.Table {
	if f.Type == blueprint.Link || f.Type == blueprint.Links {
		return u.Seat.Blueprint.Table(f.Target)
	}
	return nil
}

// formFields are the fields of the page's record that a form asks for.
func formFields(x *blueprint.FormBlock) []string {
	var out []string
	if x.Changes {
		for q := range x.Questions {
			out = append(out, q.Field)
		}
	}
	return out
}

// showForm leaves for later what depends on what is answered at first.
func showForm(v *View, x *blueprint.FormBlock, _ []records.Result) (*Form, error) {
	u := v.use(x)
	out := &Form{Order: placesOf(x.Blocks), Submit: x.Submit, Review: x.Review}
	values, err := u.row()
	if err != nil {
		return nil, err
	}
	if n, ok := values["revision"].(float64); ok {
		out.Revision = int(n)
	}
	for y := range x.Blocks.All {
		q, asks := y.(blueprint.Asker)
		c, err := v.Seat.Blueprint.Conditions(v.spot(), x, y, v.Seat.Catalog)
		if err != nil {
			return nil, fmt.Errorf("read the conditions of a form on %s: %w", v.Page.Name, err)
		}
		out.Live = out.Live || y.Self().When != "" || c.Says || asks && q.How().Depends()
	}
	*v.later = append(*v.later, func(ctx context.Context) (err error) {
		out.State, err = u.State(ctx, StateAsked{})
		return err
	})
	return out, nil
}

// row is the record that the form changes; nothing where it adds one.
func (u Use) row() (Row, error) {
	if !u.Block.Changes {
		return Row{}, nil
	}
	rows, err := Rows([]records.Row{u.Record})
	if err != nil {
		return nil, err
	}
	return rows[0], nil
}

// question gives a question with what its field holds.
func (u Use) question(p form.Part, values Row) (Question, error) {
	q, f := p.Question.How(), p.Field
	out := Question{ID: p.ID, Words: q.Words, Help: q.Help, Example: q.Example, Ask: string(q.Ask), Value: values[f.ID],
		Column: ColumnOf(u.Seat.Blueprint, u.Seat.Catalog, u.Table, f), Required: q.Required || f.Required}
	if label, ok := values[f.ID+"~"].(string); ok {
		out.Label = label
	}
	if count, ok := values[f.ID+"~"].(float64); ok {
		out.Count = int(count)
	}
	var err error
	out.Files, err = filesIn(values, f.ID)
	return out, err
}

// filesIn gives what is known of the files that a row holds in a field.
func filesIn(row Row, field string) ([]records.File, error) {
	list, ok := row[field+"~"].([]any)
	if !ok {
		return nil, nil
	}
	raw, err := json.Marshal(list)
	if err != nil {
		return nil, err
	}
	var out []records.File
	return out, json.Unmarshal(raw, &out)
}

// Options lists the first records of a table that somebody may see and whose
// labels contain the words, and tells whether there are more.
func Options(ctx context.Context, road records.Road, seat *records.Seat, t *blueprint.Table, search string) ([]RecordOption, bool, error) {
	return OptionsWhere(ctx, road, seat, t, search, nil)
}

// OptionsWhere is [Options] of those records for which a condition holds.
func OptionsWhere(ctx context.Context, road records.Road, seat *records.Seat, t *blueprint.Table, search string,
	where *expr.Checked) ([]RecordOption, bool, error) {
	raw, next, err := road.List(ctx, seat, query.Selection{Table: t, Search: search, Filter: where, Limit: firstOptions})
	if err != nil {
		return nil, false, err
	}
	out, err := optionsOf(raw)
	return out, next != "", err
}

func optionsOf(raw []records.Row) ([]RecordOption, error) {
	rows, err := Rows(raw)
	if err != nil {
		return nil, err
	}
	out := []RecordOption{}
	for _, r := range rows {
		id, _ := r["id"].(string)
		label, _ := r["label"].(string)
		if label == "" {
			label = words.Say("no-label", nil)
		}
		out = append(out, RecordOption{ID: id, Label: label})
	}
	return out, nil
}

// Presets computes what the form sets by itself.
func (u Use) Presets(ctx context.Context) (map[string]expr.Value, error) {
	b := u.Seat.Blueprint
	scope := b.ListScope(u.spot(), "", u.Seat.Catalog)
	env := u.Road.Env(ctx, u.Seat, b.Table(scope.Me), b.Table(u.Page.Record)) // which is what a part is about, too
	out := map[string]expr.Value{}
	for _, g := range u.Block.Presets {
		c, err := b.Preset(u.spot(), u.Table.Field(g.Field), g.Value, u.Seat.Catalog)
		if err != nil {
			return nil, fmt.Errorf("read what a form on %s sets: %w", u.Page.Name, err)
		}
		out[g.Field] = expr.Eval(u.boundListed(c), u.Seat.Catalog, env)
	}
	return out, env.Err()
}

// Write adds or changes the record of the form.
func (u Use) Write(ctx context.Context, road records.Road, revision int, answers records.Values,
	presets map[string]expr.Value) (*records.Write, error) {
	if !u.Block.Changes {
		return road.Add(ctx, u.Seat, u.Table, answers, presets)
	}
	w, err := road.Change(ctx, u.Seat, u.Table, u.Seat.Page, revision, answers, presets)
	if err != nil {
		return nil, err
	}
	return w, u.emptied(w, answers)
}

// emptied refuses answers that took away all of what the form has to have: of links it
// shows only in the record how many are left.
func (u Use) emptied(w *records.Write, answers records.Values) error {
	wrong := records.FieldErrors{}
	for q := range u.Block.Questions {
		if _, sent := answers[q.Field]; sent && q.Required && w.After[q.Field] == nil {
			wrong[q.Field] = form.Missing(u.Table.Field(q.Field))
		}
	}
	if len(wrong) > 0 {
		return wrong
	}
	return nil
}

// Done is what is shown after a form was sent.
type Done struct {
	Thanks string  `json:"thanks"`
	Go     *Target `json:"go,omitempty"`
}

// After says what is shown after the form wrote a record.
func (u Use) After(record string) Done {
	out := Done{Thanks: u.Block.Thanks}
	if out.Thanks == "" {
		out.Thanks = words.Say("form-thanks", nil)
	}
	if out.Go = u.target(u.Block.Then); out.Go != nil && u.Seat.Blueprint.Page(u.Block.Then).Record != "" {
		out.Go.Record = record // the one that was written, not that of the page
	}
	return out
}

// Sentence tells what the form did, for the list of changes.
func (u Use) Sentence() string {
	code := "history-form-add"
	if u.Block.Changes {
		code = "history-form-change"
	}
	return words.Say(code, words.Args{"table": u.Table.Name})
}
