package imports

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"pinegate/app/act"
	"pinegate/core/blueprint"
	"pinegate/core/intake"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/records"
)

// Placed says by ids where the sheets and columns of an import went; "" for
// those that were left out.
type Placed struct {
	Tables []string   `json:"tables"`
	Fields [][]string `json:"fields"`
}

// Leftover is an import that kept rows aside which nobody mended yet.
type Leftover struct {
	Import string    `json:"import"`
	At     time.Time `json:"at"`
	By     string    `json:"by"`
	Rows   int       `json:"rows"`
}

// Leftovers lists the imports of an app with rows that are kept aside, newest
// first.
func (s *Service) Leftovers(ctx context.Context, app string) ([]Leftover, error) {
	found, err := s.store.Pool.Query(ctx, `SELECT i.id::text, i.created_at, i.made_by, count(*) FROM imports i JOIN imports_aside a ON a.import_id = i.id
		WHERE i.app_id = $1 AND i.status = 'done' AND i.placed IS NOT NULL GROUP BY i.id ORDER BY i.created_at DESC LIMIT 50`, app)
	if err != nil {
		return nil, fmt.Errorf("find what was kept aside: %w", err)
	}
	return pgx.AppendRows([]Leftover{}, found, func(r pgx.CollectableRow) (l Leftover, err error) {
		return l, r.Scan(&l.Import, &l.At, &l.By, &l.Rows)
	})
}

// AsideRow is a row that could not be read, with the reason.
type AsideRow struct {
	ID     int64    `json:"id"`
	Sheet  int      `json:"sheet"`
	Row    int      `json:"row"`
	Reason string   `json:"reason"`
	Cells  []string `json:"cells"`
}

// AsideSheet is a sheet of which rows are kept aside.
type AsideSheet struct {
	Name    string   `json:"name"`
	Headers []string `json:"headers"`
	Used    []bool   `json:"used"` // which columns go into a field
}

// Aside are the rows that an import kept aside.
type Aside struct {
	Sheets []AsideSheet `json:"sheets"`
	Rows   []AsideRow   `json:"rows"`

	proposal intake.Proposal
	placed   Placed
}

// Aside lists the rows that an import kept aside, at most so many.
func (s *Service) Aside(ctx context.Context, app, id string, most int) (*Aside, error) {
	var proposal, placed []byte
	err := s.store.Pool.QueryRow(ctx, "SELECT proposal, placed FROM imports WHERE id = $1 AND app_id = $2", id, app).Scan(&proposal,
		&placed)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, store.ErrNotFound
	}
	out := &Aside{Sheets: []AsideSheet{}}
	if err = errors.Join(err, json.Unmarshal(proposal, &out.proposal)); err != nil {
		return nil, fmt.Errorf("read import: %w", err)
	}
	if placed != nil {
		if err := json.Unmarshal(placed, &out.placed); err != nil {
			return nil, fmt.Errorf("read where an import went: %w", err)
		}
	}
	for i, sheet := range out.proposal.Sheets {
		a := AsideSheet{Name: sheet.Sheet, Headers: []string{}, Used: []bool{}}
		for j, c := range sheet.Columns {
			a.Headers = append(a.Headers, c.Header)
			a.Used = append(a.Used, i < len(out.placed.Fields) && out.placed.Fields[i][j] != "")
		}
		out.Sheets = append(out.Sheets, a)
	}
	found, err := s.store.Pool.Query(ctx,
		"SELECT id, sheet, row_number, reason, cells FROM imports_aside WHERE import_id = $1 ORDER BY sheet, row_number LIMIT $2", id, most)
	if err != nil {
		return nil, fmt.Errorf("read what was kept aside: %w", err)
	}
	out.Rows, err = pgx.AppendRows([]AsideRow{}, found, func(r pgx.CollectableRow) (a AsideRow, err error) {
		return a, r.Scan(&a.ID, &a.Sheet, &a.Row, &a.Reason, &a.Cells)
	})
	return out, err
}

// Drop forgets rows that were kept aside, for good.
func (s *Service) Drop(ctx context.Context, app, id string, rows []int64) error {
	_, err := s.store.Pool.Exec(ctx,
		"DELETE FROM imports_aside a USING imports i WHERE i.id = a.import_id AND i.app_id = $1 AND i.id = $2 AND a.id = ANY ($3)", app, id,
		rows)
	if err != nil {
		return fmt.Errorf("forget what was kept aside: %w", err)
	}
	return nil
}

// MendedRow is a row that was kept aside, with its cells as they are now.
type MendedRow struct {
	ID    int64    `json:"id"`
	Cells []string `json:"cells" maxItems:"1000"`
}

// MostMended is how many rows can be tried again at once.
const MostMended = 500

// Retry brings rows that were kept aside, as they were mended. Those that are
// right become records, together and undone together; of the others the cells
// and what is wrong now are kept. It gives how many became records.
func (s *Service) Retry(ctx context.Context, app store.App, by, id string, rows []MendedRow) (int, error) {
	if len(rows) > MostMended {
		return 0, words.New("import-mended", "most", MostMended)
	}
	aside, err := s.Aside(ctx, app.ID, id, 1<<30)
	if err != nil {
		return 0, err
	}
	b, err := s.apps.Blueprint(ctx, app, apps.Draft)
	if err != nil {
		return 0, err
	}
	again := &retry{run: &run{service: s, id: id, by: by, proposal: aside.proposal, keys: keys{},
		carried: &intake.Carried{Tables: aside.placed.Tables, Fields: aside.placed.Fields}, seat: apps.FounderSeat(app, apps.Draft, b, by),
		road: s.apps.Road(ctx)}, reasons: map[int64]string{}}
	kept := map[int64]AsideRow{}
	for _, r := range aside.Rows {
		kept[r.ID] = r
	}
	bySheet := map[int][]AsideRow{}
	for _, r := range rows {
		if row, ok := kept[r.ID]; ok && len(r.Cells) == len(row.Cells) {
			row.Cells = r.Cells
			bySheet[row.Sheet] = append(bySheet[row.Sheet], row)
		}
	}
	done := 0
	for sheet, list := range bySheet {
		n, err := again.sheet(ctx, app, sheet, list)
		if err != nil {
			return done, err
		}
		done += n
	}
	return done, nil
}

// retry tries rows again.
type retry struct {
	*run
	key     *cell // by which rows of an update are told apart
	reasons map[int64]string
}

// sheet tries the rows of a sheet: all that are right are written in one
// transaction.
func (r *retry) sheet(ctx context.Context, app store.App, sheet int, rows []AsideRow) (int, error) {
	t := r.seat.Blueprint.Table(r.carried.Tables[sheet])
	if t == nil {
		return 0, words.New("import-table-left", "sheet", r.proposal.Sheets[sheet].Sheet)
	}
	plan, err := r.plan(sheet, t)
	if err != nil {
		return 0, err
	}
	cells, err := r.cells(ctx, sheet, plan, t)
	if err != nil {
		return 0, err
	}
	known, err := r.known(ctx, plan, t, cells)
	if err != nil {
		return 0, err
	}
	var good []AsideRow
	var edits []records.Edit
	for _, row := range rows {
		edit, wrong, err := r.edit(ctx, t, cells, known, row.Cells)
		if err != nil {
			return 0, err
		}
		if wrong != "" {
			r.reasons[row.ID] = wrong
			continue
		}
		good, edits = append(good, row), append(edits, edit)
	}
	good, err = r.write(ctx, app, t, good, edits)
	if err != nil {
		return 0, err
	}
	for _, row := range rows {
		if reason := r.reasons[row.ID]; reason != "" {
			raw, err := json.Marshal(row.Cells)
			if err != nil {
				return 0, fmt.Errorf("keep a row aside: %w", err)
			}
			if _, err := r.service.store.Pool.Exec(ctx, "UPDATE imports_aside SET reason = $2, cells = $3 WHERE id = $1", row.ID, reason,
				raw); err != nil {
				return 0, fmt.Errorf("keep a row aside: %w", err)
			}
		}
	}
	return len(good), nil
}

// plan gives the sheet as it was planned, with links that led to other sheets
// leading to the tables that were made of them.
func (r *retry) plan(sheet int, t *blueprint.Table) (*intake.SheetPlan, error) {
	plan := r.proposal.Sheets[sheet]
	plan.Columns = append([]intake.ColumnPlan{}, plan.Columns...)
	for j := range plan.Columns {
		c := &plan.Columns[j]
		if r.carried.Fields[sheet][j] != "" && t.Field(r.carried.Fields[sheet][j]) == nil {
			return nil, words.New("import-field-left", "table", t.Name, "column", c.Header)
		}
		if c.Link == nil || c.Link.Sheet < 0 {
			continue
		}
		link := *c.Link
		for k, target := range r.proposal.Sheets[link.Sheet].Columns {
			if target.Header == c.Link.By {
				link.By = r.carried.Fields[link.Sheet][k]
			}
		}
		link.Sheet = -1
		c.Link = &link
	}
	return &plan, nil
}

// known gives the ids of records by the key of an update; nil where rows are
// added.
func (r *retry) known(ctx context.Context, plan *intake.SheetPlan, t *blueprint.Table, cells []*cell) (map[string]string, error) {
	if plan.Mode != intake.Update {
		return nil, nil
	}
	for _, c := range cells {
		if c.column.Header == plan.Key {
			r.key = c
			pairs, err := r.road.KeyedIDs(ctx, r.seat, t, c.field.ID)
			return byKey(pairs), err
		}
	}
	return nil, words.New("import-key-left", "column", plan.Key)
}

// edit gives the write that a row asks for, or says what is wrong with it.
func (r *retry) edit(ctx context.Context, t *blueprint.Table, cells []*cell, known map[string]string, row []string) (records.Edit, string,
	error) {
	e := records.Edit{Texts: map[string]string{}, Values: records.Values{}}
	for _, c := range cells {
		if _, wrong, err := c.enter(&e, row[c.at]); err != nil || wrong != "" {
			return e, c.column.Header + ": " + wrong, err
		}
	}
	if known == nil {
		return e, "", nil
	}
	switch record := known[intake.Fold(row[r.key.at])]; record {
	case "":
	case ambiguous:
		return e, words.Say("import-several-keyed", nil), nil
	default:
		now, err := r.road.Get(ctx, r.seat, t, record)
		if err != nil {
			return e, "", err
		}
		var head struct{ Revision int }
		if err := json.Unmarshal(now, &head); err != nil {
			return e, "", fmt.Errorf("read a record of %s: %w", t.Name, err)
		}
		e.Record, e.Revision = record, head.Revision
	}
	return e, "", nil
}

// enter adds a cell to a write, as people would enter it once it was read as the column says: choices stay as they stand. It gives
// how the value is stored, with commas between several links, or says what is wrong.
func (c *cell) enter(e *records.Edit, text string) (stored, wrong string, err error) {
	if c.field.Type == blueprint.Link || c.field.Type == blueprint.Links {
		value, ids, wrong, err := c.linked(text)
		if err != nil || wrong != "" {
			return "", wrong, err
		}
		e.Values[c.field.ID] = value
		return strings.Join(ids, ","), "", nil
	}
	v, problem := c.reader.Read(text)
	if problem != nil {
		return "", problem.Error(), nil
	}
	if c.field.Type != blueprint.Choose && c.field.Type != blueprint.ChooseMany {
		text = v.String()
	}
	e.Texts[c.field.ID] = text
	return copied(v), "", nil
}

// linked gives the records to which a cell points, as they are entered, and their ids.
func (c *cell) linked(text string) (json.RawMessage, []string, string, error) {
	ids := []string{}
	for _, part := range c.parts(text) {
		switch id := c.links[intake.Fold(part)]; id {
		case "":
			return nil, nil, words.Say("no-record-named", words.Args{"value": part, "table": c.target.Name}), nil
		case ambiguous:
			return nil, nil, words.Say("import-several-named", words.Args{"value": part, "table": c.target.Name}), nil
		default:
			ids = append(ids, id)
		}
	}
	var entered any = ids
	if c.field.Type == blueprint.Link {
		entered = nil
		if len(ids) > 0 {
			entered = ids[0]
		}
	}
	raw, err := json.Marshal(entered)
	if err != nil {
		return nil, nil, "", fmt.Errorf("write links: %w", err)
	}
	return raw, ids, "", nil
}

// write makes the edits that are right, all in one transaction, in which their
// rows stop being kept aside. It gives the rows of those.
func (r *retry) write(ctx context.Context, app store.App, t *blueprint.Table, rows []AsideRow, edits []records.Edit) ([]AsideRow, error) {
	for len(edits) > 0 {
		err := r.service.acts.EditMany(ctx, app, r.seat, func(u *act.Unit) ([]*records.Write, string, error) {
			writes, err := u.Road.Bulk(ctx, r.seat, t, edits)
			if err != nil {
				return nil, "", err
			}
			var ids []int64
			for _, row := range rows {
				ids = append(ids, row.ID)
			}
			gone := u.Tx.Exec("DELETE FROM imports_aside WHERE id IN ?", ids)
			if gone.Error == nil && int(gone.RowsAffected) != len(ids) { // tried from two windows
				return nil, "", words.New("import-rows-changed")
			}
			err = gone.Error
			return writes, words.Say("did-import-fixed", words.Args{"n": len(writes), "table": t.Name}), err
		})
		var wrong records.BulkErrors
		if !errors.As(err, &wrong) {
			return rows, err
		}
		for _, m := range wrong {
			reason := m.Message
			if f := t.Field(m.Field); f != nil {
				reason = f.Name + ": " + reason
			}
			r.reasons[rows[m.Row].ID] = reason
		}
		var goodRows []AsideRow
		var goodEdits []records.Edit
		for i, row := range rows {
			if r.reasons[row.ID] == "" {
				goodRows, goodEdits = append(goodRows, row), append(goodEdits, edits[i])
			}
		}
		rows, edits = goodRows, goodEdits
	}
	return nil, nil
}
