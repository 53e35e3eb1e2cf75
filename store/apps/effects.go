package apps

import (
	"context"

	"gorm.io/gorm"

	"pinegate/core/blueprint"
	"pinegate/core/schema"
	"pinegate/store"
)

// Effects are what a change of the draft would do besides what it says.
type Effects struct {
	// Mends are the places that use what would be removed; they keep it from
	// being removed unless they are mended.
	Mends []blueprint.Mended `json:"mends"`
	// Losses are the values in the draft that would no longer be seen.
	Losses []PlanStep `json:"losses"`
}

// Effects tells what a change of the draft would do, and makes none.
func (a *Apps) Effects(ctx context.Context, app store.App, c blueprint.Change) (Effects, error) {
	out := Effects{Mends: []blueprint.Mended{}, Losses: []PlanStep{}}
	before, err := a.Blueprint(ctx, app, Draft)
	if err != nil {
		return out, err
	}
	mends, err := blueprint.Mends(before, c)
	if err != nil {
		return out, err
	}
	if len(mends) > 0 {
		out.Mends = mends
		c = mending(c)
	}
	after, err := blueprint.Apply(before, c)
	if err != nil {
		return out, err
	}
	err = a.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		away, err := aside(ctx, tx, SchemaName(app, Draft), before)
		if err != nil {
			return err
		}
		steps, err := tell(ctx, tx, schema.Compare(SchemaName(app, Draft), before, after, away))
		for _, s := range steps {
			if s.Loss {
				out.Losses = append(out.Losses, s)
			}
		}
		return err
	})
	return out, err
}

// mending gives the removal that mends what uses the thing removed.
func mending(c blueprint.Change) blueprint.Change {
	if remove, ok := c.(*blueprint.Remove); ok {
		return &blueprint.Remove{Of: remove.Of, Mend: true}
	}
	return c
}
