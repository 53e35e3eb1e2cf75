package records

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/form"
	"pinegate/core/query"
	"pinegate/core/words"
)

// ReadTexts reads values of fields from texts as people read and copy them:
// choices and records by their labels.
func (r Road) ReadTexts(ctx context.Context, s *Seat, t *blueprint.Table, texts map[string]string) (Values, FieldErrors, error) {
	out, wrong := Values{}, FieldErrors{}
	for id, text := range texts {
		f := t.Field(id)
		if f == nil {
			wrong[id] = words.New("no-such-field")
			continue
		}
		v, message, err := r.readText(ctx, s, f, text)
		if err != nil {
			return nil, nil, err
		}
		if message != nil {
			wrong[id] = message
			continue
		}
		raw, err := json.Marshal(argument(v))
		if err != nil {
			return nil, nil, fmt.Errorf("read text: %w", err)
		}
		out[id] = raw
	}
	return out, wrong, nil
}

func (r Road) readText(ctx context.Context, s *Seat, f *blueprint.Field, text string) (expr.Value, *words.Problem, error) {
	text = strings.TrimSpace(text)
	if text == "" {
		return expr.Empty(), nil, nil
	}
	one := func(part string) (expr.Value, *words.Problem, error) {
		if f.Type == blueprint.Link || f.Type == blueprint.Links {
			return r.byLabel(ctx, s, s.Blueprint.Table(f.Target), part)
		}
		v, message := choiceByLabel(s.Blueprint.List(f.List), part)
		return v, message, nil
	}
	switch f.Type {
	case blueprint.Choose, blueprint.Link:
		return one(text)
	case blueprint.ChooseMany, blueprint.Links:
		var items []expr.Value
		for _, part := range strings.Split(text, ",") {
			v, wrong, err := one(strings.TrimSpace(part))
			if err != nil || wrong != nil {
				return v, wrong, err
			}
			items = append(items, v)
		}
		return expr.ListValue(items), nil, nil
	case blueprint.Date:
		text = dateText(text)
	case blueprint.Number, blueprint.Money:
		text = strings.ReplaceAll(text, " ", "")
	}
	v, wrong := form.Read(s.Blueprint, f, text)
	return v, wrong, nil
}

// dateText reads the dates that say which is the day and which the month.
func dateText(text string) string {
	for _, layout := range []string{"2 Jan 2006", "2 January 2006", "Jan 2, 2006", "January 2, 2006", "02.01.2006", "2.1.2006"} {
		if t, err := time.Parse(layout, text); err == nil {
			return t.Format(time.DateOnly)
		}
	}
	return text
}

func choiceByLabel(l *blueprint.ChoiceList, label string) (expr.Value, *words.Problem) {
	if l != nil {
		for _, c := range l.Choices {
			if strings.EqualFold(c.Label, label) {
				return expr.ChoiceOf(c.ID), nil
			}
		}
		return expr.Value{}, words.New("not-in-list", "value", label, "list", l.Name)
	}
	return expr.Value{}, words.New("gone", "thing", "choice list")
}

// byLabel finds the one record of a table, among those that the person sees,
// that is known by the label.
func (r Road) byLabel(ctx context.Context, s *Seat, t *blueprint.Table, label string) (expr.Value, *words.Problem, error) {
	found, err := r.byLabels(ctx, s, t, []string{label})
	if err != nil {
		return expr.Value{}, nil, err
	}
	v, problem := found[label].value(t, label)
	return v, problem, nil
}

// labelled are the records that have a label.
type labelled struct {
	ID    string // of one of them
	Count int
}

// value gives the one record, or says that it is not one.
func (l labelled) value(t *blueprint.Table, label string) (expr.Value, *words.Problem) {
	switch l.Count {
	case 0:
		return expr.Value{}, words.New("no-record-named", "value", label, "table", t.Name)
	case 1:
		return expr.RecordOf(l.ID), nil
	}
	return expr.Value{}, words.New("several-named", "value", label, "table", t.Name)
}

// byLabels finds the records by each of several labels.
func (r Road) byLabels(ctx context.Context, s *Seat, t *blueprint.Table, labels []string) (map[string]labelled, error) {
	// what the database cannot keep is nobody's label
	labels = slices.DeleteFunc(slices.Clone(labels), func(l string) bool { return form.Storable(l) != nil })
	stmt, err := query.BuildByLabel(s.context(), t, labels)
	if err != nil {
		return nil, err
	}
	found, err := r.rows(ctx, stmt)
	if err != nil {
		return nil, fmt.Errorf("find records of %s: %w", t.Name, err)
	}
	out := map[string]labelled{}
	for _, raw := range found {
		var x struct {
			labelled
			N int
		}
		if err := json.Unmarshal(raw, &x); err != nil {
			return nil, fmt.Errorf("find records of %s: %w", t.Name, err)
		}
		out[labels[x.N-1]] = x.labelled
	}
	return out, nil
}

// AddNamed adds a record that is known by the name, where no more is needed.
func (r Road) AddNamed(ctx context.Context, s *Seat, t *blueprint.Table, name string) (*Write, error) {
	record, err := uuid.NewV7()
	if err != nil {
		return nil, fmt.Errorf("make record id: %w", err)
	}
	return r.AddNamedAs(ctx, s, t, record.String(), name)
}

// AddNamedAs is [Road.AddNamed] for a record that is to have an id.
func (r Road) AddNamedAs(ctx context.Context, s *Seat, t *blueprint.Table, record, name string) (*Write, error) {
	id := ""
	for _, f := range t.Fields {
		if f.Type == blueprint.Text && id == "" {
			id = f.ID
		}
	}
	if label := s.Catalog.Tables[t.ID].Label; label != nil && label.Root.Op == expr.OpRef && len(label.Root.Path) == 1 {
		if f := t.Field(label.Root.Path[0].ID); f != nil && f.Type == blueprint.Text {
			id = f.ID
		}
	}
	raw, err := json.Marshal(name)
	if err != nil {
		return nil, fmt.Errorf("write name: %w", err)
	}
	w, err := r.AddAs(ctx, s, t, record, Values{id: raw}, nil)
	var wrong FieldErrors
	if id == "" || errors.As(err, &wrong) {
		return nil, words.New("link-needs-more", "table", t.Name)
	}
	return w, err
}
