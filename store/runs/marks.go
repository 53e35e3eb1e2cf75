package runs

import (
	"context"
	"encoding/json"
	"fmt"
)

// Marks gives what a builder marked in a workflow, as JSON; nil for nothing.
func (b *Book) Marks(ctx context.Context, app, builder, workflow string) (json.RawMessage, error) {
	var found []json.RawMessage
	err := b.db.WithContext(ctx).Raw("SELECT marks FROM flow_marks WHERE app_id = ? AND builder_id = ? AND workflow = ?", app, builder,
		workflow).Scan(&found).Error
	if err != nil {
		return nil, fmt.Errorf("read what is marked in a workflow: %w", err)
	}
	if len(found) == 0 {
		return nil, nil
	}
	return found[0], nil
}

// Mark keeps what a builder marked in a workflow.
func (b *Book) Mark(ctx context.Context, app, builder, workflow string, marks json.RawMessage) error {
	err := b.db.WithContext(ctx).Exec(`INSERT INTO flow_marks (app_id, builder_id, workflow, marks) VALUES (?, ?, ?, ?::jsonb)
		ON CONFLICT (app_id, builder_id, workflow) DO UPDATE SET marks = excluded.marks`, app, builder, workflow, string(marks)).Error
	if err != nil {
		return fmt.Errorf("keep what is marked in a workflow: %w", err)
	}
	return nil
}
