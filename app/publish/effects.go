package publish

import (
	"context"

	"gorm.io/gorm"

	"pinegate/core/blueprint"
	"pinegate/core/schema"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/apps"
)

// Effects are what a change of the draft would do besides what it says.
type Effects struct {
	// Mends are the places that use what would be removed; they keep it from
	// being removed unless they are mended.
	Mends []blueprint.Mended `json:"mends"`
	// Losses are the values in the draft that would no longer be seen.
	Losses []PlanStep `json:"losses"`
	// Openings tell who could then add people.
	Openings []string `json:"openings"`
}

// EffectsOf tells what a change of the draft would do, and makes none.
func EffectsOf(ctx context.Context, a *apps.Apps, app store.App, c blueprint.Change) (Effects, error) {
	out := Effects{Mends: []blueprint.Mended{}, Losses: []PlanStep{}, Openings: []string{}}
	before, err := a.Blueprint(ctx, app, apps.Draft)
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
	out.Openings = append(out.Openings, openings(before, after)...)
	err = a.Transaction(ctx, func(tx *gorm.DB) error {
		away, err := apps.Aside(ctx, tx, apps.SchemaName(app, apps.Draft))
		if err != nil {
			return err
		}
		steps, err := tell(ctx, tx, schema.Compare(apps.SchemaName(app, apps.Draft), before, after, away))
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

// openings tells which rules let somebody add people that did not before.
func openings(before, after *blueprint.Blueprint) []string {
	var out []string
	for _, o := range blueprint.NewOpenings(before, after) {
		people := make([]string, len(o.People))
		for i, r := range o.People {
			people[i] = r.Name
		}
		code := "opening-role"
		if o.Role.ID == blueprint.VisitorRole {
			code = "opening-visitor"
		}
		out = append(out, words.Say(code, words.Args{"role": o.Role.Name, "table": o.Table.Name, "people": people}))
	}
	return out
}
