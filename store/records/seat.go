// Package records is the only road to the records of an app. Whoever reads or
// writes has a [Seat]; the access rules are applied to each read and write.
package records

import (
	"cmp"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"gorm.io/gorm"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/core/words"
	"pinegate/store"
)

// Seat is where somebody sits: the environment of an app, and who they are in
// it.
type Seat struct {
	Schema    string
	Blueprint *blueprint.Blueprint
	Catalog   *expr.Catalog
	Viewer    access.Viewer
	By        string // who is written down as having made a change
	Clock     expr.Clock
	Page      string   // id of the record of the page in hand, or ""
	Homes     []string // ids of the pages on which the viewer lands, the first that is open to them
	// Kept are the values that are kept for the viewer, as [query.Context] has them.
	Kept map[string]string

	seeing map[string][]access.Grant // what is known of seeing, by table
}

// doer gives the id of whoever makes a change: of the builder for whom the work is, or
// of the person whose seat it is; nil where that is nobody whom a record says.
func (s *Seat) doer(ctx context.Context) *string {
	return store.Work{By: cmp.Or(store.WorkOf(ctx).By, s.PersonID())}.Doer()
}

// AsApp gives the seat in which the app itself does something, bound by no rule, with what is written down as having done it.
func (s *Seat) AsApp(by string) *Seat {
	out := *s
	out.seeing, out.Viewer, out.By = nil, access.Viewer{Founder: true}, by
	return &out
}

// PersonID gives the id under which histories keep what the person does, or "".
func (s *Seat) PersonID() string {
	for _, m := range s.Viewer.Memberships {
		if role := s.Blueprint.Role(m.Role); role != nil && m.Record != "" {
			return store.ByPerson(role.People, m.Record)
		}
	}
	return ""
}

func (s *Seat) context() query.Context {
	return query.Context{Schema: s.Schema, Blueprint: s.Blueprint, Catalog: s.Catalog, Viewer: s.Viewer, Clock: s.Clock, Page: s.Page,
		Kept: s.Kept}
}

// KeptAs names the person for whom values are kept, who is signed in.
func (s *Seat) KeptAs() string { return cmp.Or(strings.ToLower(s.Viewer.Email), s.PersonID()) }

// Sees tells whether the person may see the field in some record.
func (s *Seat) Sees(table, field string) (bool, error) {
	if s.Viewer.Founder {
		return true, nil
	}
	grants, known := s.seeing[table]
	if !known {
		var err error
		if grants, err = access.Grants(s.Blueprint, s.Catalog, s.Viewer, table, blueprint.See); err != nil {
			return false, err
		}
		if s.seeing == nil {
			s.seeing = map[string][]access.Grant{}
		}
		s.seeing[table] = grants
	}
	return slices.ContainsFunc(grants, func(g access.Grant) bool { return g.Shows(field) }), nil
}

// Allowed tells whether the person may do something in a table, with some record.
func (s *Seat) Allowed(table string, a blueprint.Action) (bool, error) {
	grants, err := access.Grants(s.Blueprint, s.Catalog, s.Viewer, table, a)
	return s.Viewer.Founder || len(grants) > 0, err
}

// Errors of the road. They say nothing of what is behind them.
var (
	ErrForbidden = errors.New("not allowed")
	ErrChanged   = errors.New("someone changed this meanwhile")
)

// FieldErrors says by the ids of fields what is wrong with their values.
type FieldErrors map[string]*words.Problem

func (e FieldErrors) Error() string { return fmt.Sprintf("%d fields are not right", len(e)) }

// Road is the way to records. Within a transaction it is made on that.
type Road struct {
	db    *gorm.DB
	news  *store.News
	later *Later
	noted func(*Seat, *Write)
}

// On gives the road over a connection or a transaction.
func On(db *gorm.DB) Road { return Road{db: db} }

// Gathering gives the road on which what is written is gathered instead of told.
func (r Road) Gathering(news *store.News) Road {
	r.news = news
	return r
}

// Noting gives the road on which each write is told to note.
func (r Road) Noting(note func(*Seat, *Write)) Road {
	r.noted = note
	return r
}

// Row is a record as JSON, with the keys that [query.BuildSelection] names.
type Row = json.RawMessage

// List reads records and gives the cursor of what follows, "" at the end.
func (r Road) List(ctx context.Context, s *Seat, l query.Selection) (rows []Row, next string, err error) {
	limit := l.Limit
	l.Limit++
	stmt, err := query.BuildSelection(s.context(), l)
	if err != nil {
		return nil, "", err
	}
	rows, err = r.rows(ctx, stmt)
	if err != nil {
		return nil, "", fmt.Errorf("list %s: %w", l.Table.Name, err)
	}
	if len(rows) > limit {
		rows = rows[:limit]
		next, err = query.Cursor(rows[limit-1])
	}
	return rows, next, err
}

// Count counts the records of a list.
func (r Road) Count(ctx context.Context, s *Seat, l query.Selection) (int, error) {
	stmt, err := query.BuildCount(s.context(), l)
	if err != nil {
		return 0, err
	}
	n, err := r.number(ctx, stmt)
	if err != nil {
		return 0, fmt.Errorf("count %s: %w", l.Table.Name, err)
	}
	return n, nil
}

// Get reads one record with all the fields that are seen; [store.ErrNotFound]
// when it is not there for the person.
func (r Road) Get(ctx context.Context, s *Seat, t *blueprint.Table, id string) (Row, error) {
	return r.get(ctx, s, t, id, nil)
}

// get is [Road.Get] with those of the fields alone that are seen; with all of them where they are nil.
func (r Road) get(ctx context.Context, s *Seat, t *blueprint.Table, id string, fields []string) (Row, error) {
	columns, err := s.visible(t)
	if err != nil {
		return nil, err
	}
	if fields != nil {
		columns = slices.DeleteFunc(columns, func(id string) bool { return !slices.Contains(fields, id) })
	}
	rows, _, err := r.List(ctx, s, query.Selection{Table: t, Columns: columns, ID: id, Limit: 1})
	if err != nil {
		return nil, err
	}
	if len(rows) == 0 {
		return nil, store.ErrNotFound
	}
	return rows[0], nil
}

// visible lists the fields of a table that the person sees in some record.
func (s *Seat) visible(t *blueprint.Table) ([]string, error) {
	var out []string
	for _, f := range t.Fields {
		ok, err := s.Sees(t.ID, f.ID)
		if err != nil {
			return nil, err
		}
		if ok {
			out = append(out, f.ID)
		}
	}
	return out, nil
}

// Texts computes expressions over a record, or over none when t is nil, as the
// texts that people read; nil for empty.
func (r Road) Texts(ctx context.Context, s *Seat, t *blueprint.Table, id string, exprs []*expr.Checked) ([]*string, error) {
	if len(exprs) == 0 {
		return nil, nil
	}
	stmt, err := query.BuildValues(s.context(), t, id, exprs)
	if err != nil {
		return nil, err
	}
	rows, err := r.rows(ctx, stmt)
	if err != nil {
		return nil, fmt.Errorf("compute texts: %w", err)
	}
	if len(rows) == 0 {
		return nil, store.ErrNotFound
	}
	var out []*string
	if err := json.Unmarshal(rows[0], &out); err != nil {
		return nil, fmt.Errorf("read texts: %w", err)
	}
	return out, nil
}

// read does what only reads: outside of a transaction when it has its turn.
func (r Road) read(ctx context.Context, sql string, do func(context.Context) error) error {
	if pools, outside := store.Outside(r.db); outside {
		return pools.Read(ctx, sql, do)
	}
	return do(ctx)
}

// rows runs a statement whose only column is a text.
func (r Road) rows(ctx context.Context, stmt query.Statement) (out []Row, err error) {
	err = r.read(ctx, stmt.SQL, func(ctx context.Context) (err error) {
		out, err = r.texts(ctx, stmt)
		return err
	})
	return out, err
}

func (r Road) texts(ctx context.Context, stmt query.Statement) (out []Row, err error) {
	if r.later != nil && len(r.later.statements) > 0 {
		return r.textsAfter(ctx, stmt)
	}
	c, err := r.conn(ctx)
	if err != nil {
		return nil, err
	}
	found, err := c.QueryContext(ctx, stmt.SQL, stmt.Args...)
	if err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, found.Close()) }()
	out = []Row{}
	for found.Next() {
		var raw []byte
		if err := found.Scan(&raw); err != nil {
			return nil, err
		}
		out = append(out, raw)
	}
	return out, found.Err()
}

// number runs a statement that gives one number; [sql.ErrNoRows] where it
// gives none.
func (r Road) number(ctx context.Context, stmt query.Statement) (n int, err error) {
	err = r.read(ctx, stmt.SQL, func(ctx context.Context) error {
		c, err := r.conn(ctx)
		if err != nil {
			return err
		}
		return c.QueryRowContext(ctx, stmt.SQL, stmt.Args...).Scan(&n)
	})
	return n, err
}

// permitted tells whether the viewer's rules reach the record for the action,
// and gives its revision.
func (r Road) permitted(ctx context.Context, s *Seat, t *blueprint.Table, id string, action blueprint.Action,
	fields []string) (revision int, ok bool, err error) {
	if !blueprint.IsRecordID(id) { // there is none
		return 0, false, nil
	}
	return r.permittedBy(ctx, s, t, id, action, fields, query.Permitted)
}

// permittedBy is permitted by a statement that tells.
func (r Road) permittedBy(ctx context.Context, s *Seat, t *blueprint.Table, id string, action blueprint.Action, fields []string,
	by func(query.Context, *blueprint.Table, string, blueprint.Action, []string) (query.Statement, error)) (revision int, ok bool, err error) {
	stmt, err := by(s.context(), t, id, action, fields)
	if err != nil {
		return 0, false, err
	}
	revision, err = r.number(ctx, stmt)
	if errors.Is(err, sql.ErrNoRows) {
		return 0, false, nil
	}
	if err != nil {
		return 0, false, fmt.Errorf("check access to %s: %w", t.Name, err)
	}
	return revision, true, nil
}

// There tells whether the record is there for the person.
func (r Road) There(ctx context.Context, s *Seat, t *blueprint.Table, id string) (bool, error) {
	if !blueprint.IsRecordID(id) {
		return false, nil
	}
	n, err := r.Count(ctx, s, query.Selection{Table: t, ID: id})
	return n == 1, err
}

// May tells whether the person's rules reach a record for an action, with all
// the fields given; for adding it is asked of the record as it is.
func (r Road) May(ctx context.Context, s *Seat, t *blueprint.Table, id string, action blueprint.Action, fields ...string) (bool, error) {
	if !blueprint.IsRecordID(id) { // there is none
		return false, nil
	}
	_, ok, err := r.permittedBy(ctx, s, t, id, action, fields, query.Permits)
	return ok, err
}

// Totals reads the number of records and the sums of fields, for each group.
func (r Road) Totals(ctx context.Context, s *Seat, t query.Totals) ([]Row, error) {
	stmt, err := query.BuildTotals(s.context(), t)
	if err != nil {
		return nil, err
	}
	rows, err := r.rows(ctx, stmt)
	if err != nil {
		return nil, fmt.Errorf("total %s: %w", t.Table.Name, err)
	}
	return rows, nil
}

// Preview computes an expression for the first records of a table, as the
// person sees them.
func (r Road) Preview(ctx context.Context, s *Seat, t *blueprint.Table, e *expr.Checked, limit int) ([]Row, error) {
	stmt, err := query.BuildPreview(s.context(), t, e, false, limit)
	if err != nil {
		return nil, err
	}
	rows, err := r.rows(ctx, stmt)
	if err != nil {
		return nil, fmt.Errorf("compute for records of %s: %w", t.Name, err)
	}
	return rows, nil
}
