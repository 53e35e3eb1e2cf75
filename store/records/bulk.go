package records

import (
	"context"
	"errors"
	"fmt"

	"pinegate/core/blueprint"
	"pinegate/core/words"
	"pinegate/store"
)

// Edit is one of several writes: a change of the record with the id, a new
// record where there is none, or with Delete set, a deletion.
type Edit struct {
	Record   string `json:"record,omitempty"`
	Revision int    `json:"revision,omitempty"`
	Values   Values `json:"values,omitempty"`
	Delete   bool   `json:"delete,omitempty"`
	// Texts are values as people read and copy them, by the ids of fields.
	Texts map[string]string `json:"texts,omitempty"`
}

// Mistake says what is wrong with one of several writes, at a field where it
// is one's.
type Mistake struct {
	Row     int    `json:"row"`
	Field   string `json:"field,omitempty"`
	Message string `json:"message"`
}

// BulkErrors lists what is wrong with several writes, of which none was made.
type BulkErrors []Mistake

func (e BulkErrors) Error() string { return fmt.Sprintf("%d writes are not right", len(e)) }

// MostEdits is how many writes can be made at once.
const MostEdits = 5000

// Bulk makes several writes, all or none. All that are wrong are told at once.
// It is to be called in a transaction, which the caller undoes on an error.
func (r Road) Bulk(ctx context.Context, s *Seat, t *blueprint.Table, edits []Edit) ([]*Write, error) {
	if len(edits) > MostEdits {
		return nil, words.New("bulk-many", "most", MostEdits)
	}
	if writes, done, err := r.together(ctx, s, t, edits); done || err != nil {
		return writes, err
	}
	var writes []*Write
	var wrong BulkErrors
	for i, e := range edits {
		w, err := r.edit(ctx, s, t, e)
		var fields FieldErrors
		switch {
		case err == nil:
			writes = append(writes, w)
		case errors.As(err, &fields):
			for f, message := range fields {
				wrong = append(wrong, Mistake{i, f, message.Error()})
			}
		case errors.Is(err, ErrForbidden):
			wrong = append(wrong, Mistake{Row: i, Message: words.Say("not-allowed", nil)})
		case errors.Is(err, store.ErrNotFound):
			wrong = append(wrong, Mistake{Row: i, Message: words.Say("gone", words.Args{"thing": "record"})})
		case errors.Is(err, ErrChanged):
			wrong = append(wrong, Mistake{Row: i, Message: words.Say("record-changed", nil)})
		default:
			return nil, err
		}
		if err != nil && aborted(err) {
			break // the transaction can do nothing more
		}
	}
	if len(wrong) > 0 {
		return nil, wrong
	}
	return writes, nil
}

// aborted tells whether an error came from the database, after which a
// transaction answers nothing more.
func aborted(err error) bool {
	var fields FieldErrors
	if !errors.As(err, &fields) {
		return false
	}
	for _, message := range fields {
		if message.Code == "taken-alone" || message.Code == "taken-together" {
			return true
		}
	}
	return false
}

func (r Road) edit(ctx context.Context, s *Seat, t *blueprint.Table, e Edit) (*Write, error) {
	values, wrong, err := r.ReadTexts(ctx, s, t, e.Texts)
	if err != nil {
		return nil, err
	}
	if len(wrong) > 0 {
		return nil, wrong
	}
	for id, v := range e.Values {
		values[id] = v
	}
	e.Values = values
	switch {
	case e.Delete:
		return r.Delete(ctx, s, t, e.Record, e.Revision)
	case e.Record == "":
		return r.Add(ctx, s, t, e.Values, nil)
	}
	return r.Change(ctx, s, t, e.Record, e.Revision, e.Values, nil)
}
