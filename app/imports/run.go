package imports

import (
	"bufio"
	"context"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"gorm.io/gorm"

	"pinegate/app/act"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/form"
	"pinegate/core/intake"
	"pinegate/core/query"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/records"
)

var errCancelled = errors.New("the import was stopped")

// run is one run of an import.
type run struct {
	service  *Service
	id       string
	app, by  string
	uploads  []string
	proposal intake.Proposal

	carried  *intake.Carried
	seat     *records.Seat
	road     records.Road
	conn     *pgx.Conn                    // the one on which the transaction is
	keys     map[string]map[string]string // ids of records by what columns point to, by sheet and header
	imported int
	done     int
	aside    []asideRow
	brought  map[int]bool // sheets whose records are there
}

type asideRow struct {
	sheet, row int
	reason     string
	cells      []string
}

// carryOut does the whole import in one transaction.
func (r *run) carryOut(ctx context.Context) error {
	sheets, err := r.service.sheets(ctx, r.app, r.uploads)
	if err != nil {
		return err
	}
	if len(sheets) != len(r.proposal.Sheets) {
		return words.New("import-files-changed")
	}
	r.keys, r.brought = map[string]map[string]string{}, map[int]bool{}
	order, err := r.order()
	if err != nil {
		return err
	}
	return r.service.acts.Within(ctx, r.app, func(conn *pgx.Conn, u *act.Unit, app *store.App) error {
		if err := r.progress(ctx, 0); err != nil { // another server may have done it meanwhile
			return err
		}
		b, err := r.prepare(ctx, u, app)
		if err != nil {
			return err
		}
		r.conn, r.road, r.seat = conn, u.Road, apps.FounderSeat(*app, apps.Draft, b, r.by)
		for _, i := range order {
			if err := r.bring(ctx, i, sheets[i]); err != nil {
				return err
			}
			r.brought[i] = true
		}
		return r.finish(ctx, u.Tx)
	})
}

// prepare makes the tables and fields, under one line in the list of changes.
func (r *run) prepare(ctx context.Context, u *act.Unit, app *store.App) (*blueprint.Blueprint, error) {
	b, err := r.service.apps.Revision(u.Tx, app.ID, app.Revision)
	if err != nil {
		return nil, err
	}
	if r.carried, err = intake.Carry(&r.proposal, b, apps.NewID); err != nil {
		return nil, err
	}
	var names []string
	for _, s := range r.proposal.Sheets {
		if s.Mode != intake.Ignore {
			names = append(names, s.Sheet)
		}
	}
	return r.service.acts.Prepare(ctx, u, app, r.by, r.id, words.Say("did-import", words.Args{"sheets": names}), r.carried.Changes)
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
}

// later is a link that leads to a sheet which comes later, or to the same.
type later struct {
	record string
	cell   *cell
	value  string
}

// bring makes records of the rows of a sheet.
func (r *run) bring(ctx context.Context, i int, sheet *intake.Sheet) error {
	plan := &r.proposal.Sheets[i]
	t := r.seat.Blueprint.Table(r.carried.Tables[i])
	cells, err := r.cells(ctx, i, plan, t)
	if err != nil {
		return err
	}
	if plan.Mode == intake.Update {
		return r.update(ctx, i, sheet, t, cells)
	}
	b := &bringer{run: r, sheet: i, table: t, cells: cells}
	b.kept = b.keepers()
	return b.copy(ctx, sheet)
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
		x := &cell{at: j, column: c, field: f, reader: intake.NewReader(r.seat.Blueprint, f, c)}
		if f.Type == blueprint.Link || f.Type == blueprint.Links {
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
			key := fmt.Sprintf("%d %s", l.Sheet, l.By)
			if r.keys[key] == nil {
				r.keys[key] = map[string]string{}
			}
			x.links = r.keys[key]
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

// text gives a cell as people would enter it, once it was read as the column
// says: choices and links stay as they stand.
func (c *cell) text(text string) (string, string) {
	switch c.field.Type {
	case blueprint.Link, blueprint.Links:
		return text, ""
	}
	v, wrong := c.reader.Read(text)
	if wrong != nil {
		return "", wrong.Error()
	}
	if c.field.Type == blueprint.Choose || c.field.Type == blueprint.ChooseMany {
		return text, ""
	}
	return v.String(), ""
}

// parts gives the names that stand in a cell which points to records.
func (c *cell) parts(text string) []string {
	parts := []string{text}
	if c.field.Type == blueprint.Links {
		parts = strings.Split(text, ",")
	}
	return slices.DeleteFunc(parts, func(s string) bool { return strings.TrimSpace(s) == "" })
}

// ambiguous stands for a value that several records have.
const ambiguous = "several"

// bringer writes the rows of a sheet into a table.
type bringer struct {
	*run
	sheet int
	table *blueprint.Table
	cells []*cell
	kept  []keeper
	later []later
	links map[string][][2]string // of fields that hold many
	added []string
}

// copy streams the rows that can be read into the table.
func (b *bringer) copy(ctx context.Context, sheet *intake.Sheet) error {
	columns := []string{"id", "created_by", "changed_by"}
	for _, c := range b.cells {
		if c.field.Type != blueprint.Links {
			columns = append(columns, query.Quote(c.field.Key))
		}
	}
	b.links = map[string][][2]string{}
	if err := b.createMissing(ctx, sheet); err != nil {
		return err
	}
	reader, writer := io.Pipe()
	result := make(chan error, 1)
	go func() {
		buffer := bufio.NewWriterSize(writer, 1<<16)
		w := csv.NewWriter(buffer)
		err := sheet.Each(func(n int, cells []string) error { return b.row(ctx, w, n, cells) })
		w.Flush()
		err = errors.Join(err, w.Error(), buffer.Flush())
		writer.CloseWithError(err) // no error ends the file
		result <- err
	}()
	_, err := b.conn.PgConn().CopyFrom(ctx, reader, fmt.Sprintf("COPY %s.%s (%s) FROM STDIN WITH (FORMAT csv)", query.Quote(b.seat.Schema),
		query.Quote(b.table.Key), strings.Join(columns, ", ")))
	reader.CloseWithError(errCancelled)
	if read := <-result; read != nil {
		return read
	}
	if err != nil {
		return b.seat.Taken(b.table, fmt.Errorf("copy %s: %w", sheet.Name, err))
	}
	return b.afterwards(ctx)
}

// row writes one row, or keeps it aside.
func (b *bringer) row(ctx context.Context, w *csv.Writer, n int, cells []string) error {
	if err := b.progress(ctx, 1); err != nil {
		return err
	}
	id, err := uuid.NewV7()
	if err != nil {
		return fmt.Errorf("make record id: %w", err)
	}
	record := id.String()
	out := []string{record, b.by, b.by}
	var forward []later
	links := map[string][]string{}
	for _, c := range b.cells {
		text := strings.TrimSpace(cells[c.at])
		if c.field.Type == blueprint.Link || c.field.Type == blueprint.Links {
			value, wait, wrong := c.point(text)
			if wrong != "" {
				return b.setAside(b.sheet, n, c.column.Header+": "+wrong, cells)
			}
			if wait {
				forward = append(forward, later{record, c, text})
			}
			if c.field.Type == blueprint.Links {
				links[c.field.ID] = value
				continue
			}
			out = append(out, strings.Join(value, ""))
			continue
		}
		v, wrong := c.reader.Read(text)
		if wrong != nil {
			return b.setAside(b.sheet, n, c.column.Header+": "+wrong.Error(), cells)
		}
		if c.field.Required && v.IsEmpty() {
			return b.setAside(b.sheet, n, c.column.Header+": "+form.Missing(c.field).Error(), cells)
		}
		out = append(out, copied(v))
	}
	for _, k := range b.kept {
		k.keep(record, cells)
	}
	b.later = append(b.later, forward...)
	for field, list := range links {
		for _, to := range list {
			b.links[field] = append(b.links[field], [2]string{record, to})
		}
	}
	if b.proposal.Sheets[b.sheet].Mode == intake.Append {
		b.added = append(b.added, record)
	}
	b.imported++
	return w.Write(out)
}

// copied gives a value as it stands in what is copied; nothing for empty.
func copied(v expr.Value) string {
	if len(v.Items) == 0 {
		return v.String()
	}
	items := make([]string, len(v.Items))
	for i, x := range v.Items {
		items[i] = x.Text
	}
	return "{" + strings.Join(items, ",") + "}"
}

// point gives the records to which a cell points; wait tells that they may
// come later.
func (c *cell) point(text string) (ids []string, wait bool, wrong string) {
	if text == "" {
		return nil, false, ""
	}
	for _, part := range c.parts(text) {
		id, ok := c.links[intake.Fold(part)]
		switch {
		case id == ambiguous:
			return nil, false, words.Say("import-several-named", words.Args{"value": strings.TrimSpace(part), "table": c.target.Name})
		case ok:
			ids = append(ids, id)
		case c.column.Link != nil && c.column.Link.Sheet >= 0:
			wait = true
		}
	}
	return ids, wait, ""
}

// keeper remembers records by a column to which others point.
type keeper struct {
	at    int // the column
	known map[string]string
}

func (k keeper) keep(record string, cells []string) {
	if strings.TrimSpace(cells[k.at]) == "" {
		return
	}
	key := intake.Fold(cells[k.at])
	if _, twice := k.known[key]; twice {
		k.known[key] = ambiguous
	} else {
		k.known[key] = record
	}
}

// keepers gives one for each column of the sheet to which others point.
func (b *bringer) keepers() []keeper {
	var out []keeper
	for j, c := range b.proposal.Sheets[b.sheet].Columns {
		key := fmt.Sprintf("%d %s", b.sheet, c.Header)
		if b.keys[key] == nil && b.pointedTo(c.Header) {
			b.keys[key] = map[string]string{}
		}
		if known := b.keys[key]; known != nil {
			out = append(out, keeper{j, known})
		}
	}
	return out
}

// pointedTo tells whether a column of another sheet points to the column.
func (b *bringer) pointedTo(header string) bool {
	for _, s := range b.proposal.Sheets {
		for _, c := range s.Columns {
			if c.Link != nil && !c.Skip && c.Link.Sheet == b.sheet && c.Link.By == header {
				return true
			}
		}
	}
	return false
}

func (r *run) setAside(sheet, n int, reason string, cells []string) error {
	kept := make([]string, len(cells))
	copy(kept, cells)
	r.aside = append(r.aside, asideRow{sheet: sheet, row: n, reason: reason, cells: kept})
	const most = 100_000
	if len(r.aside) > most {
		return words.New("import-unreadable", "most", most)
	}
	return nil
}

// between is after how many rows progress is written down.
const between = 5000

// progress writes down how far the import is, outside the transaction, and
// ends it where it was stopped.
func (r *run) progress(ctx context.Context, rows int) error {
	r.done += rows
	if r.done%between != 0 && rows > 0 {
		return nil
	}
	var status string
	err := r.service.store.Pool.QueryRow(ctx, "UPDATE imports SET done = $2 WHERE id = $1 RETURNING status", r.id, r.done).Scan(&status)
	if err != nil {
		return fmt.Errorf("write progress: %w", err)
	}
	if status != "running" {
		return errCancelled
	}
	return nil
}

// finish writes down what was kept aside and that the import is done.
func (r *run) finish(ctx context.Context, tx *gorm.DB) error {
	if err := r.progress(ctx, 0); err != nil {
		return err
	}
	_, err := r.conn.CopyFrom(ctx, pgx.Identifier{"imports_aside"}, []string{"import_id", "sheet", "row_number", "reason", "cells"},
		pgx.CopyFromSlice(len(r.aside), func(i int) ([]any, error) {
			a := r.aside[i]
			raw, err := json.Marshal(a.cells)
			return []any{uuid.MustParse(r.id), a.sheet, a.row, a.reason, raw}, err
		}))
	if err != nil {
		return fmt.Errorf("keep rows aside: %w", err)
	}
	for _, id := range r.carried.Tables {
		if t := r.seat.Blueprint.Table(id); t != nil {
			if _, err := r.conn.Exec(ctx, fmt.Sprintf("ANALYZE %s.%s", query.Quote(r.seat.Schema), query.Quote(t.Key))); err != nil {
				return fmt.Errorf("look at the new records: %w", err)
			}
		}
	}
	placed, err := json.Marshal(Placed{r.carried.Tables, r.carried.Fields})
	if err != nil {
		return fmt.Errorf("keep where an import went: %w", err)
	}
	message := words.Say("import-done", words.Args{"imported": r.imported, "n": len(r.aside)})
	result := tx.WithContext(ctx).Exec("UPDATE imports SET status = 'done', message = ?, imported = ?, done = ?, placed = ?::jsonb WHERE id = ? AND status = 'running'", message, r.imported, r.done, string(placed), r.id)
	if result.Error == nil && result.RowsAffected == 0 {
		return errCancelled
	}
	return result.Error
}
