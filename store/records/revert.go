package records

import (
	"context"
	"errors"
	"fmt"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/words"
	"pinegate/store"
)

// Revert brings a record back to what it was before a write; with forward it
// does the write again. It is for the undo of founders, who may do everything.
func (r Road) Revert(ctx context.Context, s *Seat, w Write, forward bool) error {
	t := s.Blueprint.Table(w.Table)
	if t == nil || !s.Viewer.Founder {
		return ErrForbidden
	}
	if _, err := r.current(ctx, s, t, w.Record, nil); errors.Is(err, store.ErrNotFound) {
		return words.New("record-gone")
	} else if err != nil {
		return err
	}
	to, from := w.Before, w.After
	if forward {
		to, from = from, to
	}
	for i := range w.Also {
		also := *w.Also[i]
		if !forward {
			also = *w.Also[len(w.Also)-1-i]
		}
		if err := r.Revert(ctx, s, also, forward); err != nil {
			return err
		}
	}
	if to == nil || from == nil {
		if err := r.bin(ctx, s, t, w.Record, to == nil); err != nil {
			return err
		}
	} else {
		values := map[string]expr.Value{}
		for fid, v := range to {
			if f := t.Field(fid); f != nil && (f.Type.Entered() || f.Type == blueprint.AutoNumber) && f.Of == "" {
				values[fid] = fromPlain(f, v)
			}
		}
		if err := r.set(ctx, s, t, w.Record, values); err != nil {
			return err
		}
		if _, err := r.link(ctx, s, t, w.Record, values, from); err != nil {
			return err
		}
	}
	return r.remember(ctx, s, &Write{Table: w.Table, Record: w.Record, Before: from, After: to})
}

func fromPlain(f *blueprint.Field, v any) expr.Value {
	switch v := v.(type) {
	case bool:
		return expr.YesNoOf(v)
	case string:
		return expr.Value{Kind: expr.Text, Text: v}
	case []any:
		var items []expr.Value
		for _, x := range v {
			items = append(items, fromPlain(f, x))
		}
		return expr.ListValue(items)
	}
	return expr.Empty()
}

// RevertImport moves the records that an import added to a table to the bin; with
// forward it brings them back. It is for the undo of founders.
func (r Road) RevertImport(ctx context.Context, s *Seat, t *blueprint.Table, id string, forward bool) error {
	if !s.Viewer.Founder {
		return ErrForbidden
	}
	sql := fmt.Sprintf(`UPDATE %s SET deleted_at = CASE WHEN ? THEN NULL ELSE now() END, revision = revision + 1
		WHERE id IN (SELECT record_id FROM imports_added WHERE import_id = ? AND table_id = ?)`, s.context().TableName(t))
	if err := r.db.WithContext(ctx).Exec(sql, forward, id, t.ID).Error; err != nil {
		return fmt.Errorf("move what was imported into %s: %w", t.Name, err)
	}
	return r.tell(ctx, s, t.ID)
}
