// Package apps keeps apps: the revisions of their blueprints, what was done to
// them, and their published versions. It makes the database follow.
package apps

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"strings"
	"time"

	"github.com/google/uuid"
	lru "github.com/hashicorp/golang-lru/v2"
	"golang.org/x/sync/singleflight"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/core/schema"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/records"
)

// Environment is one of the two sets of records of an app.
type Environment string

// The environments.
const (
	Draft Environment = "draft"
	Live  Environment = "live"
)

// Apps is the collection of apps in a store.
type Apps struct {
	db         *gorm.DB
	known      *lru.Cache[string, *blueprint.Blueprint] // by app, environment and number; these never change
	reading    singleflight.Group                       // of blueprints, each once however many ask
	workspaces *lru.Cache[string, string]               // by app; an app stays in its workspace
	quota      Quota
}

// In gives the apps as a transaction sees them.
func (a *Apps) In(tx *gorm.DB) *Apps {
	return &Apps{db: tx, known: a.known, workspaces: a.workspaces, quota: a.quota}
}

// How many blueprints and apps are kept in memory.
const (
	mostKnown = 1_000
	mostApps  = 20_000
)

// New gives the apps in the store.
func New(s *store.Store) *Apps {
	return &Apps{db: s.DB, known: kept[*blueprint.Blueprint](mostKnown), workspaces: kept[string](mostApps)}
}

// kept makes a cache that keeps what is used most recently.
func kept[V any](most int) *lru.Cache[string, V] {
	c, err := lru.New[string, V](most)
	if err != nil {
		panic(err) // only for a size that is none
	}
	return c
}

// WorkspaceOf tells to which workspace an app belongs; [store.ErrNotFound] when
// there is no such app.
func (a *Apps) WorkspaceOf(ctx context.Context, app string) (string, error) {
	if id, ok := a.workspaces.Get(app); ok {
		return id, nil
	}
	if _, err := uuid.Parse(app); err != nil {
		return "", store.ErrNotFound
	}
	found, err := a.find(ctx, "id = ?", app)
	if err != nil {
		return "", err
	}
	a.workspaces.Add(app, found.WorkspaceID)
	return found.WorkspaceID, nil
}

// SchemaName gives the PostgreSQL schema that holds an environment of an app.
func SchemaName(app store.App, env Environment) string {
	return "app_" + strings.ReplaceAll(app.ID, "-", "") + "_" + string(env)
}

// NewID makes ids for what is new in blueprints: short, unguessable enough not
// to meet by chance, and fit to be part of an SQL name.
func NewID() string {
	const letters = "abcdefghijkmnpqrstuvwxyz23456789"
	id := uuid.New()
	var b strings.Builder
	b.WriteByte('z')
	for _, c := range id[:9] {
		b.WriteByte(letters[int(c)%len(letters)])
	}
	return b.String()
}

// BySlug finds an app by its address; [store.ErrNotFound] when there is none.
func (a *Apps) BySlug(ctx context.Context, slug string) (store.App, error) {
	return a.find(ctx, "slug = ?", slug)
}

// Find finds an app by its id, for whom nobody needs to ask; [store.ErrNotFound]
// when there is none.
func (a *Apps) Find(ctx context.Context, id string) (store.App, error) {
	return a.find(ctx, "id = ?", id)
}

// ByID finds an app that a builder builds, with what the builder is in its
// workspace; [store.ErrNotFound] when they have no part in it.
func (a *Apps) ByID(ctx context.Context, builder, id string) (store.App, error) {
	if _, err := uuid.Parse(id); err != nil {
		return store.App{}, store.ErrNotFound
	}
	var app store.App
	err := a.ofBuilder(ctx, builder).Where("apps.id = ?", id).Take(&app).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return app, store.ErrNotFound
	}
	if err != nil {
		return app, fmt.Errorf("find app: %w", err)
	}
	return app, a.ready(ctx, &app)
}

func (a *Apps) ofBuilder(ctx context.Context, builder string) *gorm.DB {
	return a.db.WithContext(ctx).Select("apps.*, members.role AS member").Joins("JOIN members ON members.workspace_id = apps.workspace_id AND members.builder_id = ?", builder)
}

func (a *Apps) find(ctx context.Context, where string, args ...any) (store.App, error) {
	var app store.App
	err := a.db.WithContext(ctx).Where(where, args...).Take(&app).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return app, store.ErrNotFound
	}
	if err != nil {
		return app, fmt.Errorf("find app: %w", err)
	}
	return app, a.ready(ctx, &app)
}

// Of lists the apps that a builder builds by name.
func (a *Apps) Of(ctx context.Context, builder string) ([]store.App, error) {
	out := []store.App{}
	if err := a.ofBuilder(ctx, builder).Order("apps.name, apps.id").Find(&out).Error; err != nil {
		return nil, fmt.Errorf("list apps: %w", err)
	}
	return out, nil
}

var notSlug = regexp.MustCompile(`[^a-z0-9]+`)

// Create makes an app in a workspace, with its first revision and the tables of its draft.
func (a *Apps) Create(ctx context.Context, workspace, by string, b *blueprint.Blueprint) (store.App, error) {
	if err := b.Validate(); err != nil {
		return store.App{}, err
	}
	id, err := uuid.NewV7()
	if err != nil {
		return store.App{}, fmt.Errorf("make app id: %w", err)
	}
	app := store.App{ID: id.String(), WorkspaceID: workspace, Name: b.Name, CreatedAt: time.Now(), Member: store.Owner, Database: mainDatabase,
		DraftLevel: Level}
	err = a.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := a.roomForApp(tx, workspace); err != nil {
			return err
		}
		if app.Slug, err = freeSlug(tx, b.Name); err != nil {
			return err
		}
		if err := tx.Create(&app).Error; err != nil {
			return fmt.Errorf("add app: %w", err)
		}
		if err := MakeSchema(ctx, tx, SchemaName(app, Draft)); err != nil {
			return err
		}
		if err := Run(ctx, tx, schema.Compare(SchemaName(app, Draft), nil, b, nil)); err != nil {
			return err
		}
		one := 1
		if err := saveRevision(tx, &app, one, b); err != nil {
			return err
		}
		return tx.Create(&store.Activity{AppID: app.ID, MadeBy: by,
			Sentences: []string{words.Say("did-create-app", words.Args{"app": b.Name})}, Status: store.Dropped, AfterRevision: &one}).Error
	})
	return app, err
}

// freeSlug gives an address from a name that no other app has, nor gets until the
// transaction is over.
func freeSlug(tx *gorm.DB, name string) (string, error) {
	base := strings.Trim(notSlug.ReplaceAllString(strings.ToLower(name), "-"), "-")
	if base == "" {
		base = "app"
	}
	if len(base) > 40 {
		base = strings.Trim(base[:40], "-")
	}
	if err := tx.Exec("SELECT pg_advisory_xact_lock(hashtext(?))", "address "+base).Error; err != nil {
		return "", fmt.Errorf("look for a free address: %w", err)
	}
	slug := base
	for n := 2; ; n++ {
		var taken int64
		if err := tx.Model(&store.App{}).Where("slug = ?", slug).Count(&taken).Error; err != nil {
			return "", fmt.Errorf("look for a free address: %w", err)
		}
		if taken == 0 {
			return slug, nil
		}
		slug = fmt.Sprintf("%s-%d", base, n)
	}
}

// possible tells what must be put right before a plan can be carried out.
func possible(ctx context.Context, tx *gorm.DB, plan schema.Plan) error {
	for _, step := range plan.Steps {
		if !step.Stop {
			continue
		}
		n := 0
		if err := store.Conn(tx).QueryRowContext(ctx, step.Count).Scan(&n); err != nil {
			return fmt.Errorf("look before a step: %w", err)
		}
		if n > 0 {
			return words.New("change-stopped", "reason", step.Told(n))
		}
	}
	return nil
}

// Run carries out a plan.
func Run(ctx context.Context, tx *gorm.DB, plan schema.Plan) error {
	for _, step := range plan.Steps {
		for _, sql := range step.SQL {
			if _, err := store.Conn(tx).ExecContext(ctx, sql); err != nil {
				return fmt.Errorf("carry out plan (%s): %w", sql, err)
			}
		}
	}
	return nil
}

func saveRevision(tx *gorm.DB, app *store.App, number int, b *blueprint.Blueprint) error {
	raw, err := json.Marshal(b)
	if err != nil {
		return fmt.Errorf("write blueprint: %w", err)
	}
	if err := tx.Exec("INSERT INTO revisions (app_id, number, blueprint) VALUES (?, ?, ?::jsonb)", app.ID, number,
		string(raw)).Error; err != nil {
		return fmt.Errorf("keep revision: %w", err)
	}
	app.Revision, app.Name = number, b.Name
	if err := tx.Model(app).Select("revision", "name").Updates(app).Error; err != nil {
		return fmt.Errorf("set revision: %w", err)
	}
	return nil
}

// Blueprint gives the newest draft of an app, or its live version.
func (a *Apps) Blueprint(ctx context.Context, app store.App, env Environment) (*blueprint.Blueprint, error) {
	if env == Live {
		if app.LiveVersion == 0 {
			return nil, store.ErrNotFound
		}
		return a.load(a.db.WithContext(ctx), "versions", app.ID, app.LiveVersion)
	}
	return a.load(a.db.WithContext(ctx), "revisions", app.ID, app.Revision)
}

func (a *Apps) load(tx *gorm.DB, table, app string, number int) (*blueprint.Blueprint, error) {
	key := fmt.Sprintf("%s %s %d", table, app, number)
	if b, ok := a.known.Get(key); ok {
		return b, nil
	}
	if _, outside := store.Outside(tx); !outside { // what a transaction wrote, only it can read
		return a.read(tx, key, table, app, number)
	}
	// whoever asked first may go away before it is read
	tx = tx.WithContext(context.WithoutCancel(tx.Statement.Context))
	b, err, _ := a.reading.Do(key, func() (any, error) { return a.read(tx, key, table, app, number) })
	if err != nil {
		return nil, err
	}
	return b.(*blueprint.Blueprint), nil
}

func (a *Apps) read(tx *gorm.DB, key, table, app string, number int) (*blueprint.Blueprint, error) {
	var raw []byte
	if err := tx.Raw("SELECT blueprint FROM "+table+" WHERE app_id = ? AND number = ?", app, number).Row().Scan(&raw); err != nil {
		return nil, fmt.Errorf("read blueprint %d: %w", number, err)
	}
	b, err := blueprint.Decode(raw)
	if err != nil {
		return nil, err
	}
	b.Freeze()
	a.known.Add(key, b)
	return b, nil
}

// Locked gives the app as it is now and holds it until the transaction ends,
// so that changes come one after another. Its key is not held: people sign in to
// it meanwhile, whose sessions refer to it.
func Locked(tx *gorm.DB, id string) (store.App, error) {
	var app store.App
	if err := tx.Clauses(clause.Locking{Strength: "NO KEY UPDATE"}).Where("id = ?", id).Take(&app).Error; err != nil {
		return app, fmt.Errorf("lock app: %w", err)
	}
	return app, upgrade(tx, &app)
}

// Follow makes a blueprint the newest revision and brings the draft's tables
// to it.
func Follow(ctx context.Context, tx *gorm.DB, app *store.App, before, after *blueprint.Blueprint) error {
	name := SchemaName(*app, Draft)
	away, err := Aside(ctx, tx, name)
	if err != nil {
		return err
	}
	plan := schema.Compare(name, before, after, away)
	if err := possible(ctx, tx, plan); err != nil {
		return err
	}
	if err := Run(ctx, tx, plan); err != nil {
		return err
	}
	if err := followViews(tx, *app, before, after); err != nil {
		return err
	}
	return saveRevision(tx, app, app.Revision+1, after)
}

// Note writes down an activity; what was undone can then not be redone.
func Note(tx *gorm.DB, activity *store.Activity) error {
	if err := tx.Model(&store.Activity{}).Where("app_id = ? AND status = ?", activity.AppID, store.Undone).Update("status",
		store.Dropped).Error; err != nil {
		return fmt.Errorf("drop what was undone: %w", err)
	}
	activity.Status = store.Done
	if activity.Writes == nil {
		activity.Writes = json.RawMessage("null")
	}
	if err := tx.Create(activity).Error; err != nil {
		return fmt.Errorf("note activity: %w", err)
	}
	return nil
}

// Transaction does something in one transaction of the database.
func (a *Apps) Transaction(ctx context.Context, do func(tx *gorm.DB) error) error {
	return a.db.WithContext(ctx).Transaction(do)
}

// Connection does something on one connection to the database.
func (a *Apps) Connection(ctx context.Context, do func(db *gorm.DB) error) error {
	return a.db.WithContext(ctx).Connection(do)
}

// Revision gives a revision of the draft, inside a transaction.
func (a *Apps) Revision(tx *gorm.DB, app string, number int) (*blueprint.Blueprint, error) {
	return a.load(tx, "revisions", app, number)
}

// Version gives a published version, inside a transaction.
func (a *Apps) Version(tx *gorm.DB, app string, number int) (*blueprint.Blueprint, error) {
	return a.load(tx, "versions", app, number)
}

// Road gives the way to records outside a transaction, for reading.
func (a *Apps) Road(ctx context.Context) records.Road { return records.On(a.db.WithContext(ctx)) }

// FounderSeat is the seat of a founder in an environment.
func FounderSeat(app store.App, env Environment, b *blueprint.Blueprint, by string) *records.Seat {
	return &records.Seat{Schema: SchemaName(app, env), Blueprint: b, Catalog: b.Catalog(), Viewer: access.Viewer{Founder: true}, By: by,
		Clock: expr.Clock{Now: time.Now(), Zone: b.Location()}}
}

// Remove removes an app with all its records, for good.
func (a *Apps) Remove(ctx context.Context, app store.App) error {
	return a.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		for _, env := range []Environment{Draft, Live} {
			if _, err := store.Conn(tx).ExecContext(ctx, "DROP SCHEMA IF EXISTS "+query.Quote(SchemaName(app,
				env))+" CASCADE"); err != nil {
				return fmt.Errorf("remove records: %w", err)
			}
		}
		if err := tx.Delete(&app).Error; err != nil {
			return fmt.Errorf("remove app: %w", err)
		}
		return nil
	})
}

// Counts tells how many records the tables of the draft have, by their ids, each
// counted to most and one.
func (a *Apps) Counts(ctx context.Context, app store.App, most int) (map[string]int, error) {
	b, err := a.Blueprint(ctx, app, Draft)
	if err != nil {
		return nil, err
	}
	return a.Road(ctx).Counts(ctx, FounderSeat(app, Draft, b, ""), most)
}
