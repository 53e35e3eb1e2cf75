package runtime

import (
	"context"
	"encoding/json"
	"fmt"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/form"
	"pinegate/core/query"
	"pinegate/store/apps"
	"pinegate/store/records"
)

// firstOptions is how many records a link offers before one has to search.
const firstOptions = 60

func (f formUse) action() blueprint.Action {
	if f.def.Changes {
		return blueprint.Modify
	}
	return blueprint.Add
}

// formUse is a form on a shown page.
type formUse struct {
	*shown
	def   *blueprint.Form
	table *blueprint.Table
}

func (s *shown) use(f *blueprint.Form) formUse {
	return formUse{s, f, s.Seat.Blueprint.Table(f.Table)}
}

func (s *shown) form(ctx context.Context, def *blueprint.Form) (*Form, error) {
	f := s.use(def)
	out := &Form{Questions: []Question{}, Submit: def.Submit}
	values := Row{}
	if def.Changes {
		rows, err := Rows([]records.Row{s.record})
		if err != nil {
			return nil, err
		}
		values = rows[0]
		if n, ok := values["revision"].(float64); ok {
			out.Revision = int(n)
		}
	}
	for _, ff := range def.Fields {
		ok, err := f.asks(ff.Field)
		if err != nil {
			return nil, err
		}
		if !ok {
			continue
		}
		field := f.table.Field(ff.Field)
		q := Question{Column: ColumnOf(s.Seat.Blueprint, s.Seat.Catalog, f.table, field), Required: ff.Required || field.Required, Value: values[ff.Field]}
		if label, ok := values[ff.Field+"~"].(string); ok {
			q.Label = label
		}
		if q.Files, err = filesIn(values, ff.Field); err != nil {
			return nil, err
		}
		if field.Type == blueprint.Link || field.Type == blueprint.Links {
			if q.Options, q.More, err = Options(ctx, s.road, s.Seat, s.Seat.Blueprint.Table(field.Target), ""); err != nil {
				return nil, err
			}
		}
		out.Questions = append(out.Questions, q)
	}
	return out, nil
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

// asks tells whether the person is asked for a field: only for what they may
// set, and what their rules do not fill in.
func (f formUse) asks(field string) (bool, error) {
	if !f.def.Changes && access.Given(f.Seat.Blueprint, f.Seat.Viewer, f.table.ID, field) {
		return false, nil
	}
	return access.MaySet(f.Seat.Blueprint, f.Seat.Catalog, f.Seat.Viewer, f.table.ID, field, f.action())
}

// Options lists the first records of a table that the person may see and whose
// labels contain the words, and tells whether there are more.
func Options(ctx context.Context, road records.Road, seat *records.Seat, t *blueprint.Table, search string) ([]RecordOption, bool, error) {
	return OptionsWhere(ctx, road, seat, t, search, nil)
}

// OptionsWhere is [Options] of those records for which a condition holds.
func OptionsWhere(ctx context.Context, road records.Road, seat *records.Seat, t *blueprint.Table, search string, where *expr.Checked) ([]RecordOption, bool, error) {
	raw, next, err := road.List(ctx, seat, query.List{Table: t, Search: search, Filter: where, Limit: firstOptions})
	if err != nil {
		return nil, false, err
	}
	rows, err := Rows(raw)
	if err != nil {
		return nil, false, err
	}
	out := []RecordOption{}
	for _, r := range rows {
		id, _ := r["id"].(string)
		label, _ := r["label"].(string)
		if label == "" {
			label = "(no name)"
		}
		out = append(out, RecordOption{ID: id, Label: label})
	}
	return out, next != "", nil
}

// Sent is what a browser sends for a form.
type Sent struct {
	Path     string         `json:"path"`
	Record   string         `json:"record,omitempty"`
	Revision int            `json:"revision,omitempty"`
	Values   records.Values `json:"values"`
}

// Received is the answer to a form.
type Received struct {
	Thanks string  `json:"thanks"`
	Go     *Target `json:"go,omitempty"`
}

func (s *shown) receive(ctx context.Context, a *apps.Apps, block string, sent Sent) (*Received, error) {
	x := s.page.Block(block)
	if x == nil || x.Form == nil {
		return nil, huma.Error404NotFound("There is no such form.")
	}
	f := s.use(x.Form)
	if err := f.check(sent); err != nil {
		return nil, err
	}
	presets, err := f.presets(ctx)
	if err != nil {
		return nil, err
	}
	write, err := a.Edit(ctx, s.App, s.Seat, f.sentence(), func(r records.Road) (*records.Write, error) {
		if f.def.Changes {
			return r.Change(ctx, s.Seat, f.table, s.Seat.Page, sent.Revision, sent.Values, presets)
		}
		return r.Add(ctx, s.Seat, f.table, sent.Values, presets)
	})
	if err != nil {
		return nil, err
	}
	out := &Received{Thanks: f.def.Thanks}
	if out.Thanks == "" {
		out.Thanks = "Thank you. It is saved."
	}
	if page := s.Seat.Blueprint.Page(f.def.Then); page != nil && s.Seat.Viewer.MayOpen(page) {
		out.Go = &Target{Path: page.Path}
		if page.Record != "" {
			out.Go.Record = write.Record
		}
	}
	return out, nil
}

func (f formUse) sentence() string {
	if f.def.Changes {
		return "Changed a record of " + f.table.Name + " with a form"
	}
	return "Added a record to " + f.table.Name + " with a form"
}

// check refuses fields that the form does not ask for, and answers that are
// missing.
func (f formUse) check(sent Sent) error {
	asked := map[string]bool{}
	wrong := records.FieldErrors{}
	for _, ff := range f.def.Fields {
		asks, err := f.asks(ff.Field)
		if err != nil {
			return err
		}
		if !asks {
			continue
		}
		asked[ff.Field] = true
		field := f.table.Field(ff.Field)
		v, message := form.Accept(f.Seat.Blueprint, field, orNull(sent.Values[ff.Field]))
		if message == "" && v.IsEmpty() && (ff.Required || field.Required) {
			message = form.Missing(field)
		}
		if message != "" {
			wrong[ff.Field] = message
		}
	}
	for id := range sent.Values {
		if !asked[id] {
			wrong[id] = "This form does not ask for that."
		}
	}
	if len(wrong) > 0 {
		return wrong
	}
	return nil
}

func orNull(raw []byte) []byte {
	if raw == nil {
		return []byte("null")
	}
	return raw
}

// presets computes what the form fills in by itself.
func (f formUse) presets(ctx context.Context) (map[string]expr.Value, error) {
	b := f.Seat.Blueprint
	scope := b.PresetScope(f.page, f.Seat.Catalog)
	env := f.road.Env(ctx, f.Seat, b.Table(scope.Me), b.Table(f.page.Record))
	out := map[string]expr.Value{}
	for _, pre := range f.def.Presets {
		c, err := expr.CheckAs(pre.Value, scope, f.table.Field(pre.Field).ExprType())
		if err != nil {
			return nil, fmt.Errorf("read what a form on %s fills in: %w", f.page.Name, err)
		}
		out[pre.Field] = expr.Eval(c, f.Seat.Catalog, env)
	}
	return out, env.Err()
}
