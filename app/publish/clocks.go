package publish

import (
	"context"
	"fmt"
	"time"

	"gorm.io/gorm"

	"pinegate/core/blueprint"
	"pinegate/core/flow"
	"pinegate/store/runs"
)

// wind sets the clocks that start workflows of a version that goes live.
func wind(ctx context.Context, tx *gorm.DB, app string, b *blueprint.Blueprint) error {
	now := time.Now()
	var clocks []runs.Clock
	for i := range b.Workflows {
		w := &b.Workflows[i]
		t, is := w.Starts.Trigger.(blueprint.ClockTrigger)
		if !is || w.Off {
			continue
		}
		next, err := flow.Next(t.Clock(), b.Location(), now)
		if err != nil {
			return fmt.Errorf("wind the clock of %s: %w", w.Name, err)
		}
		clocks = append(clocks, runs.Clock{AppID: app, Workflow: w.ID, SeenAt: now, NextAt: next})
	}
	return runs.In(tx).Wind(ctx, app, clocks)
}
