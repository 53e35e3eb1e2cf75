package page

import (
	"context"
	"encoding/json"
	"fmt"

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
	Back     bool   `json:"back,omitempty"`   // afterwards people are where they came from
	Stamp    string `json:"stamp,omitempty"`  // goes along when visitors send it
	Submit   string `json:"submit"`
	Still    bool   `json:"still,omitempty"`   // there is nothing to send
	Compare  bool   `json:"compare,omitempty"` // people can keep answers aside, to compare their results
	Opens    string `json:"opens,omitempty"`   // words of a button that opens it
	Revision int    `json:"revision"`
}

// Place is where something stands in a form. What stands in a section comes with that.
type Place struct {
	ID   string  `json:"id"` // of a question, a section, what goes with the form, or words
	Step bool    `json:"step,omitempty"`
	With string  `json:"with,omitempty" enum:"one,lines"` // of what goes with the form, whether it is one or several
	Most int     `json:"most,omitempty"`                  // lines
	Of   []Place `json:"of,omitempty"`
}

// placesOf gives how blocks stand in a form.
func placesOf(blocks blueprint.Blocks) []Place {
	out := []Place{}
	for _, x := range blocks {
		p := Place{ID: x.Self().ID}
		switch x := x.(type) {
		case *blueprint.SectionBlock:
			p.Step, p.Of = x.Way == blueprint.StepSection, placesOf(x.Blocks)
		case *blueprint.WithBlock:
			p.With, p.Of = "one", placesOf(x.Blocks)
			if x.Lines {
				p.With, p.Most = "lines", x.MostSent()
			}
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

// Asked is a question that whoever looks is asked.
type Asked struct {
	Field *blueprint.Field
	Table *blueprint.Table // in which the field is
	Asker blueprint.Asker
}

// Asked gives the question about a field, of the form's record or of one that goes with it, that
// whoever looks is asked; nil for none.
func (u Use) Asked(field string) (*Asked, error) {
	b := u.Seat.Blueprint
	for a, with := range u.Block.Askers {
		t := u.Block.TableOf(b, with)
		f := a.Asks(b, t)
		if f == nil || f.ID != field {
			continue
		}
		p := form.Part{Question: a, Field: f}
		if p.Free() {
			return &Asked{f, t, a}, nil
		}
		if p.Shows() {
			return nil, nil
		}
		err := u.asks(&p, t)
		asked := !p.Unasked || !p.Unchanged
		if with == nil {
			asked = u.Block.Changes && !p.Unchanged || !u.Block.Changes && !p.Unasked
		}
		if err != nil || !asked {
			return nil, err
		}
		return &Asked{f, t, a}, nil
	}
	return nil, nil
}

// offers gives the table whose records a question about a field offers, or nil.
func (u Use) offers(f *blueprint.Field) *blueprint.Table {
	if f.Type == blueprint.Link || f.Type == blueprint.Links {
		return u.Seat.Blueprint.Table(f.Target)
	}
	return nil
}

// formFields are the fields of the page's record that a form asks for, or that lead to what goes
// with it.
func formFields(x *blueprint.FormBlock) []string {
	var out []string
	if x.Changes {
		for q := range x.Questions {
			out = append(out, q.Field)
		}
		for w := range x.With {
			out = append(out, w.Link)
		}
	}
	return out
}

func showForm(v *View, x *blueprint.FormBlock, _ []records.Result) (*Form, error) {
	out := &Form{}
	return out, v.use(x).fill(out)
}

// fill fills in how the form is, and leaves for later what depends on what is answered at first.
func (u Use) fill(out *Form) error {
	v, x := u.View, u.Block
	out.Order, out.Submit, out.Opens, out.Review, out.Back = placesOf(x.Blocks), x.Submit, x.Opens, x.Review, x.Back
	out.Still, out.Compare = x.Calculates() && !x.Sends(), x.Compare
	if !v.Seat.Viewer.SignedIn() && !v.signsUp() {
		out.Stamp = u.stamp()
	}
	values, err := u.row()
	if err != nil {
		return err
	}
	if n, ok := values["revision"].(float64); ok {
		out.Revision = int(n)
	}
	for y := range x.Blocks.All {
		_, with := y.(*blueprint.WithBlock)
		_, calculated := y.(*blueprint.ResultBlock)
		q, asks := y.(blueprint.Asker)
		c, err := v.Seat.Blueprint.Conditions(v.spot(), x, y, v.Seat.Catalog)
		if err != nil {
			return fmt.Errorf("read the conditions of a form on %s: %w", v.Page.Name, err)
		}
		out.Live = out.Live || with || calculated || v.signsUp() && asks && u.offers(y.(blueprint.Asker).Asks(v.Seat.Blueprint, u.Table)) != nil ||
			y.Self().When != "" || c.Says || asks && q.How().Depends()
	}
	*v.later = append(*v.later, u.first(out))
	return nil
}

// first finds out how the form is at first.
func (u Use) first(out *Form) func(context.Context) error {
	return func(ctx context.Context) (err error) {
		out.State, err = u.State(ctx, StateAsked{})
		return err
	}
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
func (s *showing) question(p form.Part, t *blueprint.Table, values Row) (Question, error) {
	q, f := p.Question.How(), p.Field
	if values["id"] == nil { // a new record
		v, err := s.starts(p, s.env)
		if err != nil {
			return Question{}, err
		}
		values = Row{f.ID: v}
		if at, id := s.offers(f), expr.RecordOf(fmt.Sprint(v)); v != nil && at != nil && f.Type == blueprint.Link {
			values[f.ID+"~"] = s.env.Label(at.ID, id).Text
		}
	}
	out := Question{ID: p.ID, Words: q.Words, Help: q.Help, Example: q.Example, Ask: string(q.Ask), Value: values[f.ID],
		Column: ColumnOf(s.Seat.Blueprint, s.Seat.Catalog, t, f), Required: q.Required || f.Required, Shown: p.Shows(), Param: q.Param}
	if q.Ask == blueprint.AskSlider {
		out.Column.Least, out.Column.Most = f.Span()
	}
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
