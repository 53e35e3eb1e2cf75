package imports

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"strings"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"gorm.io/gorm"

	"pinegate/app/act"
	"pinegate/core/blueprint"
	"pinegate/core/intake"
	"pinegate/core/query"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/records"
)

// Ends of a run that are no failure: it was stopped, or another server went on with
// it.
var (
	errCancelled = errors.New("the import was stopped")
	errTaken     = errors.New("another server goes on with the import")
)

// run is one run of an import. Its files are read beside the app into tables that
// nobody sees; only then it takes hold of the app and puts what was read in its
// place, all of it or nothing.
type run struct {
	service  *Service
	id       string
	claim    string // under which this run goes on, and no other
	dry      bool   // it counts what would come of it, and changes nothing
	runs     int    // of this import, with this one
	app, by  string
	byID     string // as [store.Work] has it, or ""
	uploads  []string
	proposal intake.Proposal

	carried  *intake.Carried
	seat     *records.Seat
	road     records.Road
	conn     *pgx.Conn // the one on which the transaction is
	base     uuid.UUID // with which the ids of new records begin
	keys     keys
	imported int
	updates  map[int]int // rows of sheets that update, where it only counts
	done     int
	aside    []asideRow
	gone     map[string]bool  // ids of records of rows that were put aside
	staged   map[int]*bringer // what was read, by sheet
}

type asideRow struct {
	sheet, row int
	reason     string
	cells      []string
}

// carryOut does the whole import.
func (r *run) carryOut(ctx context.Context) error {
	sheets, err := r.service.planned(ctx, r.app, r.uploads, &r.proposal)
	if err != nil {
		return err
	}
	order, err := r.order()
	if err != nil {
		return err
	}
	if err := r.plan(ctx); err != nil {
		return err
	}
	if err := r.bring(ctx, order, sheets); err != nil {
		return errors.Join(err, r.service.unstage(context.WithoutCancel(ctx), r.seat.Schema, r.staging()))
	}
	r.look(ctx)
	return nil
}

// bring reads the files beside the app, and puts what was read in its place.
func (r *run) bring(ctx context.Context, order []int, sheets []*intake.Sheet) (err error) {
	if err := r.index(ctx, sheets); err != nil {
		return err
	}
	for _, i := range order {
		if r.proposal.Sheets[i].Mode == intake.Update {
			continue
		}
		if r.staged[i], err = r.stage(ctx, i, sheets[i]); err != nil {
			return err
		}
	}
	if r.dry {
		return nil
	}
	if err := r.placing(ctx); err != nil {
		return err
	}
	return r.service.acts.Within(ctx, r.app, func(conn *pgx.Conn, u *act.Unit, app *store.App) error {
		return r.place(ctx, conn, u, app, order, sheets)
	})
}

// plan finds what the draft is to be, as it is now.
func (r *run) plan(ctx context.Context) error {
	if err := r.progress(ctx, 0); err != nil {
		return err
	}
	app, before, err := r.service.draft(ctx, r.app)
	if err != nil {
		return err
	}
	if r.carried, err = intake.Carry(&r.proposal, before, apps.NewID); err != nil {
		return err
	}
	after, err := blueprint.Apply(before, r.carried.Changes...)
	if err != nil {
		return err
	}
	r.keys, r.staged, r.gone, r.updates = keys{}, map[int]*bringer{}, map[string]bool{}, map[int]int{}
	if r.base, err = uuid.NewV7(); err != nil {
		return fmt.Errorf("make record ids: %w", err)
	}
	r.seat, r.road = apps.FounderSeat(app, apps.Draft, after, r.by), r.service.apps.Road(ctx)
	return nil
}

// place puts what was read in its place.
func (r *run) place(ctx context.Context, conn *pgx.Conn, u *act.Unit, app *store.App, order []int, sheets []*intake.Sheet) error {
	if err := r.progress(ctx, 0); err != nil { // another server may have done it meanwhile
		return err
	}
	read := r.seat.Blueprint
	b, err := r.prepare(ctx, u, app)
	if err != nil {
		return err
	}
	if err := r.fits(read, b); err != nil {
		return err
	}
	r.conn, r.road, r.seat = conn, u.Road, apps.FounderSeat(*app, apps.Draft, b, r.by)
	for at, i := range order {
		if s := r.staged[i]; s != nil {
			err = s.insert(ctx, order[:at+1])
		} else {
			err = r.update(ctx, i, sheets[i])
		}
		if err != nil {
			return err
		}
	}
	for _, i := range order { // links lead to all sheets only now
		if s := r.staged[i]; s != nil {
			if err := s.afterwards(ctx); err != nil {
				return err
			}
		}
	}
	return r.finish(ctx, u.Tx)
}

// prepare makes the tables and fields, under one line in the list of changes.
func (r *run) prepare(ctx context.Context, u *act.Unit, app *store.App) (*blueprint.Blueprint, error) {
	var names []string
	for _, s := range r.proposal.Sheets {
		if s.Mode != intake.Ignore {
			names = append(names, s.Sheet)
		}
	}
	return r.service.acts.Prepare(ctx, u, app, r.by, r.id, words.Say("did-import", words.Args{"sheets": names}), r.carried.Changes)
}

// fits refuses to put what was read into tables and fields that somebody changed
// since.
func (r *run) fits(read, now *blueprint.Blueprint) error {
	for i, sheet := range r.proposal.Sheets {
		if r.carried.Tables[i] == "" || sheet.Mode == intake.Ignore {
			continue
		}
		was, is := read.Table(r.carried.Tables[i]), now.Table(r.carried.Tables[i])
		if is == nil {
			return words.New("import-draft-changed", "table", was.Name)
		}
		for _, id := range r.carried.Fields[i] {
			if id == "" {
				continue
			}
			f, g := was.Field(id), is.Field(id)
			if g == nil || g.Type != f.Type || g.Target != f.Target || g.List != f.List || g.Of != f.Of {
				return words.New("import-draft-changed", "table", was.Name)
			}
		}
	}
	return nil
}

// order gives the sheets so that what is pointed to comes first. Of sheets that
// point to each other, links that lead forward are filled in afterwards.
func (r *run) order() ([]int, error) {
	var out []int
	state := make([]int, len(r.proposal.Sheets))
	var visit func(i int)
	visit = func(i int) {
		if state[i] != 0 || r.proposal.Sheets[i].Mode == intake.Ignore {
			return
		}
		state[i] = 1
		for _, c := range r.proposal.Sheets[i].Columns {
			if c.Link != nil && !c.Skip && c.Link.Sheet >= 0 && c.Link.Sheet < len(state) {
				visit(c.Link.Sheet)
			}
		}
		out = append(out, i)
	}
	for i := range state {
		visit(i)
	}
	return out, nil
}

// cell reads one column of a sheet.
type cell struct {
	at     int
	column intake.ColumnPlan
	field  *blueprint.Field
	reader *intake.Reader
	links  map[string]string // ids of records by what is pointed to
	target *blueprint.Table
	made   int      // links that rows have
	empty  int      // values that point to nothing
	names  []string // some of these
	// forward tells that it leads to a sheet which is put in its place later.
	forward bool
}

func (r *run) cells(ctx context.Context, i int, plan *intake.SheetPlan, t *blueprint.Table) ([]*cell, error) {
	var out []*cell
	for j, c := range plan.Columns {
		if r.carried.Fields[i][j] == "" {
			continue
		}
		f := t.Field(r.carried.Fields[i][j])
		if f == nil {
			return nil, fmt.Errorf("bring %s: no field for %s", plan.Sheet, c.Header)
		}
		links := f.Type == blueprint.Link || f.Type == blueprint.Links
		if !links {
			c.Link = nil // what a column seemed to point to is nothing to a field of another type
		}
		x := &cell{at: j, column: c, field: f, reader: intake.NewReader(r.seat.Blueprint, f, c)}
		if links {
			if err := r.lookUp(ctx, x); err != nil {
				return nil, err
			}
		}
		out = append(out, x)
	}
	return out, nil
}

// lookUp makes ready the records to which a column can point.
func (r *run) lookUp(ctx context.Context, x *cell) error {
	x.target = r.seat.Blueprint.Table(x.field.Target)
	by := ""
	if l := x.column.Link; l != nil {
		if l.Sheet >= 0 {
			x.links = r.keys[keyColumn{l.Sheet, l.By}]
			return nil
		}
		by = l.By
	}
	pairs, err := r.road.KeyedIDs(ctx, r.seat, x.target, by)
	if err != nil {
		return err
	}
	x.links = byKey(pairs)
	return nil
}

// byKey gives the ids of records by what they are known by.
func byKey(pairs []records.Keyed) map[string]string {
	out := map[string]string{}
	for _, p := range pairs {
		k := intake.Fold(p.Key)
		if _, twice := out[k]; twice {
			out[k] = ambiguous
		} else {
			out[k] = p.ID
		}
	}
	return out
}

// parts gives the names that stand in a cell which points to records.
func (c *cell) parts(text string) []string {
	parts := []string{text}
	if c.field.Type == blueprint.Links {
		parts = strings.Split(text, c.column.Format.Parts())
	}
	return slices.DeleteFunc(parts, func(s string) bool {
		s = strings.TrimSpace(s)
		return s == "" || slices.Contains(c.column.Format.Nothing, s)
	})
}

// ambiguous stands for a value that several records have.
const ambiguous = "several"

// between is after how many rows progress is written down.
const between = 5000

// progress writes down how far the import is, outside the transaction, and
// ends it where it was stopped.
func (r *run) progress(ctx context.Context, rows int) error {
	r.done += rows
	if r.done%between != 0 && rows > 0 {
		return nil
	}
	return r.still(ctx, ", done = $3", r.done)
}

// placing says that reading is over.
func (r *run) placing(ctx context.Context) error {
	return r.still(ctx, ", message = $3", words.Say("import-placing", nil))
}

// still writes down that this run goes on, and what else is to be set of it, unless it
// was stopped or another server went on with it.
func (r *run) still(ctx context.Context, set string, values ...any) error {
	if r.dry {
		return ctx.Err()
	}
	var status, claim string
	err := r.service.store.Pool.QueryRow(ctx, "UPDATE imports SET alive_at = CASE WHEN claim = $2 THEN now() ELSE alive_at END"+set+
		" WHERE id = $1 RETURNING status, claim::text", append([]any{r.id, r.claim}, values...)...).Scan(&status, &claim)
	switch {
	case err != nil:
		return fmt.Errorf("write progress: %w", err)
	case status != "running":
		return errCancelled
	case claim != r.claim:
		return errTaken
	}
	return nil
}

// finish writes down what was kept aside and that the import is done.
func (r *run) finish(ctx context.Context, tx *gorm.DB) error {
	_, err := r.conn.CopyFrom(ctx, pgx.Identifier{"imports_aside"}, []string{"import_id", "sheet", "row_number", "reason", "cells"},
		pgx.CopyFromSlice(len(r.aside), func(i int) ([]any, error) {
			a := r.aside[i]
			raw, err := json.Marshal(a.cells)
			return []any{uuid.MustParse(r.id), a.sheet, a.row, a.reason, raw}, err
		}))
	if err != nil {
		return fmt.Errorf("keep rows aside: %w", err)
	}
	placed, err := json.Marshal(Placed{r.carried.Tables, r.carried.Fields})
	if err != nil {
		return fmt.Errorf("keep where an import went: %w", err)
	}
	message, err := r.summary(ctx)
	if err != nil {
		return err
	}
	result := tx.WithContext(ctx).Exec("UPDATE imports SET status = 'done', message = ?, imported = ?, done = ?, placed = ?::jsonb WHERE id = ? AND status = 'running' AND claim = ?", message, r.imported, r.done, string(placed), r.id, r.claim)
	if result.Error == nil && result.RowsAffected == 0 {
		return r.progress(ctx, 0) // which tells why
	}
	return result.Error
}

// look has the database look at the new records, so that it finds its way. That
// lasts, and nothing depends on it.
func (r *run) look(ctx context.Context) {
	for _, id := range r.carried.Tables {
		t := r.seat.Blueprint.Table(id)
		if t == nil {
			continue
		}
		sql := fmt.Sprintf("ANALYZE %s.%s", query.Quote(r.seat.Schema), query.Quote(t.Key))
		if err := r.service.exec(ctx, sql); err != nil {
			slog.WarnContext(ctx, "look at the new records", "table", t.ID, "error", err)
		}
	}
}
