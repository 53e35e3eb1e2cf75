package page

import (
	"context"
	"encoding/json"
	"fmt"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/form"
	"pinegate/core/prop"
	"pinegate/core/query"
	"pinegate/core/words"
	"pinegate/store/records"
)

// firstOptions is how many records a link offers before one has to search.
const firstOptions = 60

// Form is a form as it is shown, with what its fields hold now.
type Form struct {
	Head
	Questions []Question `json:"questions"`
	Submit    string     `json:"submit"`
	Revision  int        `json:"revision"`
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
	for _, q := range u.Block.Fields {
		if q.Field != field {
			continue
		}
		if asks, err := u.Asks(field); err != nil || !asks {
			return nil, err
		}
		return u.Table.Field(field), nil
	}
	return nil, nil
}

// questions lists the questions that whoever looks is asked.
func (u Use) questions() ([]prop.Question, error) {
	var out []prop.Question
	for _, q := range u.Block.Fields {
		asks, err := u.Asks(q.Field)
		if err != nil {
			return nil, err
		}
		if asks {
			out = append(out, q)
		}
	}
	return out, nil
}

// offers gives the table whose records a question offers, or nil.
func (u Use) offers(q prop.Question) *blueprint.Table {
	if f := u.Table.Field(q.Field); f.Type == blueprint.Link || f.Type == blueprint.Links {
		return u.Seat.Blueprint.Table(f.Target)
	}
	return nil
}

// formFields are the fields of the page's record that a form asks for.
func formFields(x *blueprint.FormBlock) []string {
	var out []string
	if x.Changes {
		for _, q := range x.Fields {
			out = append(out, q.Field)
		}
	}
	return out
}

func formReads(v *View, x *blueprint.FormBlock) ([]records.Read, error) {
	u := v.use(x)
	asked, err := u.questions()
	if err != nil {
		return nil, err
	}
	var out []records.Read
	for _, q := range asked {
		if t := u.offers(q); t != nil {
			out = append(out, records.Read{List: &query.Selection{Table: t, Limit: firstOptions}})
		}
	}
	return out, nil
}

func showForm(v *View, x *blueprint.FormBlock, got []records.Result) (*Form, error) {
	u := v.use(x)
	asked, err := u.questions()
	if err != nil {
		return nil, err
	}
	out := &Form{Questions: []Question{}, Submit: x.Submit}
	values := Row{}
	if x.Changes {
		rows, err := Rows([]records.Row{v.Record})
		if err != nil {
			return nil, err
		}
		values = rows[0]
		if n, ok := values["revision"].(float64); ok {
			out.Revision = int(n)
		}
	}
	for _, q := range asked {
		question, err := u.question(q, values)
		if err != nil {
			return nil, err
		}
		if u.offers(q) != nil {
			if question.Options, err = optionsOf(got[0].Rows); err != nil {
				return nil, err
			}
			question.More = got[0].Next != ""
			got = got[1:]
		}
		out.Questions = append(out.Questions, question)
	}
	return out, nil
}

// question gives a question with what its field holds.
func (u Use) question(q prop.Question, values Row) (Question, error) {
	f := u.Table.Field(q.Field)
	out := Question{Column: ColumnOf(u.Seat.Blueprint, u.Seat.Catalog, u.Table, f), Required: q.Required || f.Required,
		Value: values[q.Field]}
	if label, ok := values[q.Field+"~"].(string); ok {
		out.Label = label
	}
	if count, ok := values[q.Field+"~"].(float64); ok {
		out.Count = int(count)
	}
	var err error
	out.Files, err = filesIn(values, q.Field)
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

// Check refuses answers that the form does not ask for, that cannot be taken, or
// that are missing.
func (u Use) Check(answers records.Values) error {
	asked := map[string]bool{}
	wrong := records.FieldErrors{}
	questions, err := u.questions()
	if err != nil {
		return err
	}
	for _, q := range questions {
		asked[q.Field] = true
		f := u.Table.Field(q.Field)
		raw := answers[q.Field]
		if raw == nil && u.Block.Changes { // what is not sent stays as it is
			continue
		}
		empty, problem := u.answered(f, raw)
		if problem == nil && empty && (q.Required || f.Required) {
			problem = form.Missing(f)
		}
		if problem != nil {
			wrong[q.Field] = problem
		}
	}
	for id := range answers {
		if !asked[id] {
			wrong[id] = words.New("not-asked")
		}
	}
	if len(wrong) > 0 {
		return wrong
	}
	return nil
}

// answered tells whether an answer leaves a field empty, and what is wrong with it.
func (u Use) answered(f *blueprint.Field, raw json.RawMessage) (empty bool, wrong *words.Problem) {
	if raw == nil {
		raw = json.RawMessage("null")
	}
	if f.Type == blueprint.Links {
		edit, wrong := form.AcceptLinks(u.Seat.Blueprint, f, raw)
		return len(edit.Added) == 0 && (edit.Whole || !u.Block.Changes), wrong
	}
	v, wrong := form.Accept(u.Seat.Blueprint, f, raw)
	return v.IsEmpty(), wrong
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
	for _, q := range u.Block.Fields {
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
