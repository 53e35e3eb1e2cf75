package records

import (
	"context"
	"fmt"

	"pinegate/core/blueprint"
	"pinegate/core/query"
)

// Holding finds the record that holds a text in a field, whatever the capitals, and whoever asks:
// the oldest where there are several, "" where there is none. Whoever looks for the same text waits
// until the transaction is over, so that two who would add one make one. The caller does not tell.
func (r Road) Holding(ctx context.Context, s *Seat, t *blueprint.Table, f *blueprint.Field, text string) (string, error) {
	if err := r.lockAddress(ctx, s, text); err != nil {
		return "", err
	}
	rows, err := r.rows(ctx, query.Statement{SQL: fmt.Sprintf("SELECT id::text FROM %s WHERE deleted_at IS NULL AND"+
		" lower(%s) = lower($1::text) ORDER BY id LIMIT 1", s.context().TableName(t), query.Quote(f.Key)), Args: []any{text}})
	if err != nil {
		return "", fmt.Errorf("look for a record of %s: %w", t.Name, err)
	}
	if len(rows) == 0 {
		return "", nil
	}
	return string(rows[0]), nil
}

// Holds tells whether a record holds anything in a field, whoever asks. The caller does not tell.
func (r Road) Holds(ctx context.Context, s *Seat, t *blueprint.Table, id string, f *blueprint.Field) (bool, error) {
	n, err := r.number(ctx, query.Statement{SQL: fmt.Sprintf("SELECT count(*) FROM %s WHERE id = $1::uuid AND %s IS NOT NULL",
		s.context().TableName(t), query.Quote(f.Key)), Args: []any{id}})
	if err != nil {
		return false, fmt.Errorf("look at a record of %s: %w", t.Name, err)
	}
	return n > 0, nil
}
