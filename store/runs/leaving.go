package runs

import (
	"context"
	"fmt"
	"strings"
)

// Leaving is somebody who unsubscribes from the mails of a workflow.
type Leaving struct {
	App      string `json:"a"`
	Place    string `json:"p"`
	Workflow string `json:"w"` // id
	Address  string `json:"e"`
}

// Leave has no more mails of the workflow go to the address, or with back has them go there again.
func (b *Book) Leave(ctx context.Context, l Leaving, back bool) error {
	sql := "INSERT INTO unsubscribed (app_id, place, workflow, address) VALUES (?, ?, ?, ?) ON CONFLICT DO NOTHING"
	if back {
		sql = "DELETE FROM unsubscribed WHERE app_id = ? AND place = ? AND workflow = ? AND address = ?"
	}
	if err := b.db.WithContext(ctx).Exec(sql, l.App, l.Place, l.Workflow, strings.ToLower(l.Address)).Error; err != nil {
		return fmt.Errorf("unsubscribe an address: %w", err)
	}
	return nil
}

// Left gives those of the addresses, in small letters, that have unsubscribed from the mails of a workflow.
func (b *Book) Left(ctx context.Context, app, place, workflow string, addresses []string) (map[string]bool, error) {
	small := make([]string, len(addresses))
	for i, a := range addresses {
		small[i] = strings.ToLower(a)
	}
	var found []string
	err := b.db.WithContext(ctx).Raw("SELECT address FROM unsubscribed WHERE app_id = ? AND place = ? AND workflow = ? AND address IN ?",
		app, place, workflow, small).Scan(&found).Error
	if err != nil {
		return nil, fmt.Errorf("look who has unsubscribed: %w", err)
	}
	out := map[string]bool{}
	for _, a := range found {
		out[a] = true
	}
	return out, nil
}
