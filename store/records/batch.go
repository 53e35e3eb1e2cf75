package records

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"sync/atomic"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"golang.org/x/sync/errgroup"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/store"
)

// Read is something that is read for a page: records of a list, totals over them, or
// the texts of expressions over a record.
type Read struct {
	List   *query.Selection
	Totals *query.Totals
	Report *query.Report
	// Texts are computed over the record with the id, or over none where there is
	// no table.
	Texts []*expr.Checked
	Table *blueprint.Table
	ID    string
}

// Result is what a [Read] found: rows, of a list with the cursor of what follows, or texts,
// nil for empty.
type Result struct {
	Rows  []Row
	Next  string
	Texts []*string
}

// Batch reads several things at once: outside of a transaction, the database gets
// all statements in one go.
func (r Road) Batch(ctx context.Context, s *Seat, reads []Read) ([]Result, error) {
	statements := make([]query.Statement, len(reads))
	for i, read := range reads {
		var err error
		if statements[i], err = s.statement(read); err != nil {
			return nil, err
		}
	}
	rows, err := r.answers(ctx, statements)
	if err != nil {
		return nil, err
	}
	out := make([]Result, len(reads))
	for i, read := range reads {
		if out[i], err = resultOf(read, rows[i]); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func (s *Seat) statement(read Read) (query.Statement, error) {
	if read.Totals != nil {
		return query.BuildTotals(s.context(), *read.Totals)
	}
	if read.Report != nil {
		return query.BuildReport(s.context(), *read.Report)
	}
	if read.List == nil {
		return query.BuildValues(s.context(), read.Table, read.ID, read.Texts)
	}
	l := *read.List
	l.Limit++ // one more tells whether there are more
	return query.BuildSelection(s.context(), l)
}

func resultOf(read Read, rows []Row) (out Result, err error) {
	if read.Totals != nil || read.Report != nil {
		return Result{Rows: rows}, nil
	}
	if read.List == nil {
		if len(rows) == 0 {
			return out, store.ErrNotFound
		}
		if err := json.Unmarshal(rows[0], &out.Texts); err != nil {
			return out, fmt.Errorf("read texts: %w", err)
		}
		return out, nil
	}
	out.Rows = rows
	if limit := read.List.Limit; len(rows) > limit && read.List.Each == "" {
		out.Rows = rows[:limit]
		out.Next, err = query.Cursor(rows[limit-1])
	}
	return out, err
}

// answers runs statements whose only column is a text.
func (r Road) answers(ctx context.Context, statements []query.Statement) (out [][]Row, err error) {
	if pools, outside := store.Outside(r.db); outside && len(statements) > 1 {
		all := make([]string, len(statements))
		for i, stmt := range statements {
			all[i] = stmt.SQL
		}
		err = pools.Read(ctx, strings.Join(all, ";"), func(ctx context.Context) error {
			out, err = atOnce(ctx, pools, statements)
			return err
		})
		return out, err
	}
	out = make([][]Row, len(statements))
	for i, stmt := range statements {
		if out[i], err = r.rows(ctx, stmt); err != nil {
			return nil, fmt.Errorf("read for a page: %w", err)
		}
	}
	return out, nil
}

// atOnce sends the statements together on one connection, or has several run them where that takes long.
func atOnce(ctx context.Context, pools *store.Pools, statements []query.Statement) ([][]Row, error) {
	conn, err := pools.Acquire(ctx)
	if err != nil {
		return nil, fmt.Errorf("read for a page: %w", err)
	}
	defer conn.Release()
	more, leave := pools.Beside(ctx, min(len(statements)-1, mostBeside))
	defer leave()
	if len(more) > 0 {
		return apart(ctx, append(more, conn), statements)
	}
	return inOneGo(ctx, conn, statements)
}

// mostBeside is how many connections more one page has that takes long.
const mostBeside = 2

// apart runs statements on several connections, each the next that none has begun.
func apart(ctx context.Context, conns []*pgxpool.Conn, statements []query.Statement) ([][]Row, error) {
	out := make([][]Row, len(statements))
	var next atomic.Int64
	g, ctx := errgroup.WithContext(ctx)
	for _, conn := range conns {
		g.Go(func() error {
			for i := int(next.Add(1)) - 1; i < len(statements); i = int(next.Add(1)) - 1 {
				got, err := inOneGo(ctx, conn, statements[i:i+1])
				if err != nil {
					return err
				}
				out[i] = got[0]
			}
			return nil
		})
	}
	return out, g.Wait()
}

// inOneGo sends statements on one connection in one go.
func inOneGo(ctx context.Context, conn *pgxpool.Conn, statements []query.Statement) ([][]Row, error) {
	var out [][]Row
	batch := &pgx.Batch{}
	for _, stmt := range statements {
		batch.Queue(stmt.SQL, stmt.Args...).Query(func(rows pgx.Rows) error {
			found, err := pgx.CollectRows(rows, func(row pgx.CollectableRow) (Row, error) {
				var raw []byte
				err := row.Scan(&raw)
				return raw, err
			})
			out = append(out, found)
			return err
		})
	}
	if err := conn.SendBatch(ctx, batch).Close(); err != nil {
		return nil, fmt.Errorf("read for a page: %w", err)
	}
	return out, nil
}

// Counts tells how many records each table has, by their ids, each counted to most
// and one, in one statement. It is for founders.
func (r Road) Counts(ctx context.Context, s *Seat, most int) (map[string]int, error) {
	out := map[string]int{}
	if !s.Viewer.Founder {
		return nil, ErrForbidden
	}
	var parts []string
	for i := range s.Blueprint.Tables {
		t := &s.Blueprint.Tables[i]
		parts = append(parts,
			fmt.Sprintf("SELECT json_build_object('table', %s, 'n', (SELECT count(*) FROM (SELECT FROM %s WHERE deleted_at IS NULL LIMIT %d) q))::text",
				query.Literal(t.ID), s.context().TableName(t), most+1))
	}
	if len(parts) == 0 {
		return out, nil
	}
	rows, err := r.rows(ctx, query.Statement{SQL: strings.Join(parts, " UNION ALL ")})
	if err != nil {
		return nil, fmt.Errorf("count records: %w", err)
	}
	for _, raw := range rows {
		var c struct {
			Table string
			N     int
		}
		if err := json.Unmarshal(raw, &c); err != nil {
			return nil, fmt.Errorf("count records: %w", err)
		}
		out[c.Table] = c.N
	}
	return out, nil
}
