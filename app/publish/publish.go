// Package publish tells what a new version would do to the records of an app, and
// makes it live.
package publish

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"gorm.io/gorm"

	"pinegate/app/why"
	"pinegate/core/blueprint"
	"pinegate/core/query"
	"pinegate/core/schema"
	"pinegate/core/sentence"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/records"
)

// PlanStep is a step of a publish, told with the number of live records that
// it concerns.
type PlanStep struct {
	Text  string `json:"text"`
	Count int    `json:"count"`
	Loss  bool   `json:"loss"`           // values would no longer be seen
	Stop  bool   `json:"stop"`           // this must be put right before it can be published
	Opens bool   `json:"opens"`          // it tells who could then add people
	Care  bool   `json:"care,omitempty"` // it tells what may not be meant
	// Samples are some of the values that cannot be converted.
	Samples []string `json:"samples,omitempty"`
}

// Plan says what publishing would do.
type Plan struct {
	First       bool                  `json:"first"` // nothing is live yet
	Revision    int                   `json:"revision"`
	LiveVersion int                   `json:"liveVersion"`
	Differences []sentence.Difference `json:"differences"`
	Steps       []PlanStep            `json:"steps"`
	Draft       int                   `json:"draft"` // records in the draft
}

// Loses tells whether values would no longer be seen.
func (p Plan) Loses() bool {
	for _, s := range p.Steps {
		if s.Loss {
			return true
		}
	}
	return false
}

// stop gives the first step that cannot be carried out, or "".
func (p Plan) stop() string {
	for _, s := range p.Steps {
		if s.Stop {
			return s.Text
		}
	}
	return ""
}

// Samples tells whether the plan shows values of live records.
func (p Plan) Samples() bool {
	return slices.ContainsFunc(p.Steps, func(s PlanStep) bool { return len(s.Samples) > 0 })
}

// WithoutSamples gives the plan without values of live records.
func (p Plan) WithoutSamples() Plan {
	p.Steps = slices.Clone(p.Steps)
	for i := range p.Steps {
		p.Steps[i].Samples = nil
	}
	return p
}

// Publication says what is to be published: the draft as it was at a revision,
// or an earlier version.
type Publication struct {
	Revision     int  // the draft's revision that the plan was read for
	LiveVersion  int  // the live version that the plan was read for
	Version      int  // the version to go back to, or 0 for the draft
	Accept       bool // values that would no longer be seen are accepted
	BringRecords bool // copy the draft's records, at the first publish
}

// Errors of publishing, in words.
var (
	ErrStale = words.New("publish-stale")
	ErrLoss  = words.New("publish-loss")
)

// PlanOf says what publishing the draft, or going back to a version, would do.
func PlanOf(ctx context.Context, a *apps.Apps, id string, version int) (Plan, error) {
	var out Plan
	err := a.Transaction(ctx, func(tx *gorm.DB) error {
		app, err := appIn(tx, id)
		if err != nil {
			return err
		}
		p, _, _, err := planIn(ctx, a, tx, app, version)
		out = p
		return err
	})
	return out, err
}

func appIn(tx *gorm.DB, id string) (store.App, error) {
	var app store.App
	if err := tx.Where("id = ?", id).Take(&app).Error; err != nil {
		return app, fmt.Errorf("find app: %w", err)
	}
	return app, nil
}

func planIn(
	ctx context.Context, a *apps.Apps, tx *gorm.DB, app store.App, version int,
) (Plan, schema.Plan, *blueprint.Blueprint, error) {
	out := Plan{First: app.LiveVersion == 0, Revision: app.Revision, LiveVersion: app.LiveVersion, Steps: []PlanStep{}}
	next, err := target(a, tx, app, version)
	if err != nil {
		return out, schema.Plan{}, nil, err
	}
	live := &blueprint.Blueprint{}
	away := schema.Aside{}
	if !out.First {
		if live, err = a.Version(tx, app.ID, app.LiveVersion); err != nil {
			return out, schema.Plan{}, nil, err
		}
		if away, err = apps.Aside(ctx, tx, apps.SchemaName(app, apps.Live)); err != nil {
			return out, schema.Plan{}, nil, err
		}
	} else if out.Draft, err = countAll(ctx, tx, app, next); err != nil {
		return out, schema.Plan{}, nil, err
	}
	out.Differences = sentence.Compare(live, next)
	steps := schema.Compare(apps.SchemaName(app, apps.Live), live, next, away)
	if out.Steps, err = tell(ctx, tx, steps); err != nil {
		return out, steps, next, err
	}
	for _, text := range openings(live, next) {
		out.Steps = append(out.Steps, PlanStep{Text: text, Opens: true})
	}
	if version != 0 {
		return out, steps, next, err
	}
	// what does not hold in the draft is told before it is tried with live records
	found, err := held(ctx, tx, app, apps.Draft, next)
	for _, h := range found {
		if !h.Holds {
			out.Steps = append(out.Steps, PlanStep{Text: words.Say("plan-expectation",
				words.Args{"expectation": h.Text, "reason": h.Reason}), Stop: true})
		}
	}
	return out, steps, next, err
}

// held tries what is expected with the records of an environment whose tables are
// those of the blueprint.
func held(ctx context.Context, tx *gorm.DB, app store.App, env apps.Environment, b *blueprint.Blueprint) ([]why.Held, error) {
	return why.Expectations(ctx, records.On(tx), apps.FounderSeat(app, env, b, ""))
}

// kept refuses a version of which something that is expected is not met.
func kept(found []why.Held) error {
	for _, h := range found {
		if !h.Holds {
			return words.New("publish-expectation", "expectation", h.Text, "reason", h.Reason)
		}
	}
	return nil
}

// tell tells the steps of a plan, with what they concern and lose now.
func tell(ctx context.Context, tx *gorm.DB, plan schema.Plan) ([]PlanStep, error) {
	out := []PlanStep{}
	for _, s := range plan.Steps {
		if s.Code == "" {
			continue
		}
		told := PlanStep{}
		if s.Count != "" {
			if err := store.Conn(tx).QueryRowContext(ctx, s.Count).Scan(&told.Count); err != nil {
				return nil, fmt.Errorf("count for plan: %w", err)
			}
		}
		told.Text = s.Told(told.Count)
		told.Loss, told.Stop = s.Loss && told.Count > 0, s.Stop && told.Count > 0
		if s.Stop && !told.Stop {
			continue // there is nothing to put right
		}
		if told.Loss && s.Sample != "" {
			if err := tx.Raw(s.Sample).Scan(&told.Samples).Error; err != nil {
				return nil, fmt.Errorf("sample for plan: %w", err)
			}
		}
		out = append(out, told)
	}
	return out, nil
}

func target(a *apps.Apps, tx *gorm.DB, app store.App, version int) (*blueprint.Blueprint, error) {
	switch {
	case version == 0:
		return a.Revision(tx, app.ID, app.Revision)
	case version < 0 || version > app.LiveVersion:
		return nil, store.ErrNotFound
	}
	return a.Version(tx, app.ID, version)
}

func countAll(ctx context.Context, tx *gorm.DB, app store.App, b *blueprint.Blueprint) (int, error) {
	total := 0
	seat := apps.FounderSeat(app, apps.Draft, b, "")
	for i := range b.Tables {
		n, err := records.On(tx).Count(ctx, seat, query.Selection{Table: &b.Tables[i]})
		if err != nil {
			return 0, err
		}
		total += n
	}
	return total, nil
}

// Do makes a version live, whole or not at all.
func Do(ctx context.Context, a *apps.Apps, id, by string, p Publication) (int, error) {
	number := 0
	err := a.Transaction(ctx, func(tx *gorm.DB) error {
		if err := tx.Exec("SET LOCAL lock_timeout = '5s'").Error; err != nil {
			return fmt.Errorf("limit waiting: %w", err)
		}
		app, err := apps.Locked(tx, id)
		if err != nil {
			return err
		}
		plan, steps, next, err := planIn(ctx, a, tx, app, p.Version)
		switch {
		case err != nil:
			return err
		case plan.Revision != p.Revision || plan.LiveVersion != p.LiveVersion:
			return ErrStale
		case plan.Loses() && !p.Accept:
			return ErrLoss
		}
		if stop := plan.stop(); stop != "" {
			return words.New("publish-stopped", "reason", stop)
		}
		if plan.First {
			if err := apps.MakeLive(ctx, tx, &app); err != nil {
				return err
			}
		}
		if err := apps.Run(ctx, tx, steps); err != nil {
			return err
		}
		if plan.First && p.BringRecords {
			if err := bring(ctx, tx, app, next); err != nil {
				return err
			}
		}
		found, err := held(ctx, tx, app, apps.Live, next)
		if err != nil {
			return err
		}
		if err := kept(found); err != nil {
			return err
		}
		if err := wind(ctx, tx, app.ID, next); err != nil {
			return err
		}
		number = app.LiveVersion + 1
		return apps.SaveVersion(tx, &app, number, by, next, plan.Differences)
	})
	return number, err
}

// bring copies the draft's records into the live tables.
func bring(ctx context.Context, tx *gorm.DB, app store.App, b *blueprint.Blueprint) error {
	if _, err := store.Conn(tx).ExecContext(ctx, "SET CONSTRAINTS ALL DEFERRED"); err != nil {
		return fmt.Errorf("defer checks: %w", err)
	}
	draft, live := query.Quote(apps.SchemaName(app, apps.Draft)), query.Quote(apps.SchemaName(app, apps.Live))
	for i := range b.Tables {
		t := &b.Tables[i]
		columns, values := heldColumns(draft, b, t)
		sql := fmt.Sprintf("INSERT INTO %s.%s (%s) SELECT %s FROM %s.%s r WHERE deleted_at IS NULL", live, query.Quote(t.Key), columns,
			values, draft, query.Quote(t.Key))
		if _, err := store.Conn(tx).ExecContext(ctx, sql); err != nil {
			return fmt.Errorf("bring records of %s: %w", t.Name, err)
		}
	}
	files := query.Quote(query.FilesTable)
	sql := fmt.Sprintf("INSERT INTO %s.%s SELECT * FROM %s.%s WHERE record_id IS NOT NULL AND NOT gone", live, files, draft, files)
	if _, err := store.Conn(tx).ExecContext(ctx, sql); err != nil {
		return fmt.Errorf("bring files: %w", err)
	}
	for i := range b.Tables {
		if err := bringLinks(ctx, tx, draft, live, b, &b.Tables[i]); err != nil {
			return err
		}
	}
	return nil
}

// bringLinks copies links to many between records that were copied, and where
// the auto numbers stand.
func bringLinks(ctx context.Context, tx *gorm.DB, draft, live string, b *blueprint.Blueprint, t *blueprint.Table) error {
	for _, f := range t.Fields {
		sql := ""
		switch {
		case f.Type == blueprint.Links && f.Of == "":
			link := query.Quote(query.LinkTable(f.ID))
			sql = fmt.Sprintf("INSERT INTO %s.%s SELECT l.* FROM %s.%s l JOIN %s.%s a ON a.id = l.from_id JOIN %s.%s b ON b.id = l.to_id",
				live, link, draft, link, live, query.Quote(t.Key), live, query.Quote(b.Table(f.Target).Key))
		case f.Type == blueprint.AutoNumber:
			numbers := query.Quote(schema.NumbersTable)
			sql = fmt.Sprintf("UPDATE %s.%s n SET next = d.next FROM %s.%s d WHERE d.field_id = n.field_id AND n.field_id = %s", live,
				numbers, draft, numbers, query.Literal(f.ID))
		default:
			continue
		}
		if _, err := store.Conn(tx).ExecContext(ctx, sql); err != nil {
			return fmt.Errorf("bring %s of %s: %w", f.Name, t.Name, err)
		}
	}
	return nil
}

// heldColumns names what is copied of a table; links to records in the bin stay
// behind.
func heldColumns(draft string, b *blueprint.Blueprint, t *blueprint.Table) (columns, values string) {
	names := []string{"id", "created_at", "created_by", "changed_at", "changed_by", "revision"}
	from := append([]string{}, names...)
	for _, f := range t.Fields {
		if f.Type.Column() == "" {
			continue
		}
		column := query.Quote(f.Key)
		names = append(names, column)
		if target := b.Table(f.Target); target != nil {
			column = fmt.Sprintf("(SELECT l.id FROM %s.%s l WHERE l.id = r.%s AND l.deleted_at IS NULL)", draft, query.Quote(target.Key),
				column)
		}
		from = append(from, column)
	}
	return strings.Join(names, ", "), strings.Join(from, ", ")
}
