package runs

import (
	"context"
	"fmt"
	"time"
)

// Tally is how many runs of a workflow ended in each way, since a time.
type Tally struct {
	Workflow                       string
	Name                           string // as it was called last
	Done, Failed, Stopped, Waiting int
}

// Tallies counts the runs of each workflow since a time, those with most runs first.
func (b *Book) Tallies(ctx context.Context, app, place string, since time.Time) ([]Tally, error) {
	out := []Tally{}
	err := b.db.WithContext(ctx).Raw(`SELECT workflow, (array_agg(name ORDER BY began_at DESC))[1] AS name,
			count(*) FILTER (WHERE status = ?) AS done, count(*) FILTER (WHERE status = ?) AS failed,
			count(*) FILTER (WHERE status = ?) AS stopped, count(*) FILTER (WHERE status = ?) AS waiting
		FROM runs WHERE app_id = ? AND place = ? AND began_at > ? GROUP BY workflow ORDER BY count(*) DESC, workflow`,
		Done, Failed, Stopped, Waits, app, place, since).Scan(&out).Error
	if err != nil {
		return nil, fmt.Errorf("count runs: %w", err)
	}
	return out, nil
}

// Fates counts what became of mails since a time.
func (b *Book) Fates(ctx context.Context, app, place string, since time.Time) (map[Fate]int, error) {
	var rows []struct {
		Status Fate
		N      int
	}
	err := b.db.WithContext(ctx).Raw("SELECT status, count(*) AS n FROM letters WHERE app_id = ? AND place = ? AND made_at > ? GROUP BY status",
		app, place, since).Scan(&rows).Error
	if err != nil {
		return nil, fmt.Errorf("count mails: %w", err)
	}
	out := map[Fate]int{}
	for _, r := range rows {
		out[r.Status] = r.N
	}
	return out, nil
}
