package main

import (
	"context"
	"encoding/json"
	"fmt"
	"net/url"

	"github.com/jackc/pgx/v5"

	"pinegate/app/page"
	"pinegate/core/access"
	"pinegate/store/apps"
	"pinegate/store/records"
)

// office is the seat of somebody under a rule over fields.
func (w *world) office() *records.Seat {
	s := apps.FounderSeat(w.app, apps.Draft, w.b, "bench")
	s.Viewer = access.Viewer{Memberships: []access.Membership{{Role: "r_office"}}, Name: "Office"}
	return s
}

// shown composes a page as it is answered, and tells how many rows stand on it.
func (w *world) shown(ctx context.Context, path, asks string) (int, error) {
	v, err := page.Open(ctx, w.a.Road(ctx), w.office(), path, "")
	if err != nil {
		return 0, err
	}
	values, err := url.ParseQuery(asks)
	if err != nil {
		return 0, err
	}
	v.Asks = page.Asks(values)
	blocks, err := v.Blocks(ctx)
	if err != nil {
		return 0, err
	}
	raw, err := json.Marshal(blocks)
	if err != nil {
		return 0, err
	}
	var got []struct {
		Rows  []json.RawMessage
		Board struct {
			Columns []struct{ Rows []json.RawMessage }
		}
	}
	if err := json.Unmarshal(raw, &got); err != nil {
		return 0, err
	}
	n := 0
	for _, b := range got {
		n += len(b.Rows)
		for _, c := range b.Board.Columns {
			n += len(c.Rows)
		}
	}
	return n, nil
}

// asked is what the twin sends: all that a page needs in one go, each row as JSON.
func (w *world) asked(ctx context.Context, statements ...string) (int, error) {
	batch, n := &pgx.Batch{}, 0
	for _, sql := range statements {
		batch.Queue(sql).Query(func(rows pgx.Rows) error {
			all, err := pgx.CollectRows(rows, pgx.RowTo[string])
			for _, one := range all {
				var row map[string]any
				if err := json.Unmarshal([]byte(one), &row); err != nil {
					return err
				}
				if row["id"] != nil {
					n++
				}
			}
			return err
		})
	}
	return n, w.s.Pool.SendBatch(ctx, batch).Close()
}

// pages compares whole pages: a board of six columns with fifty cards, a month with some
// three hundred entries, and a table with five filters, groups and totals.
func (w *world) pages(ctx context.Context) error {
	const from = "FROM twin.orders o LEFT JOIN twin.boats b ON b.id = o.boat AND b.deleted_at IS NULL WHERE o.deleted_at IS NULL AND o.price > 1"
	const columns = "o.id, o.name, o.boat, b.name AS boat_name, o.status, o.due, o.hours, o.price"
	var board []string
	for i := range 6 {
		board = append(board, fmt.Sprintf("SELECT row_to_json(q)::text FROM (SELECT %s %s AND o.status = 's%d' ORDER BY o.due, o.id LIMIT 50) q",
			columns, from, i))
	}
	board = append(board, "SELECT row_to_json(q)::text FROM (SELECT o.status, count(*), sum(o.price) "+from+" GROUP BY o.status) q")
	month := "SELECT row_to_json(q)::text FROM (SELECT " + columns + " " + from +
		" AND o.hours > 38 AND o.price < 18 AND o.due >= date '2025-02-24' AND o.due <= date '2025-04-06' ORDER BY o.due, o.id LIMIT 501) q"
	narrowed := " AND o.status IN ('s0', 's2', 's4') AND o.due BETWEEN date '2024-06-01' AND date '2025-12-31' AND o.hours BETWEEN 5 AND 30 AND o.price >= 10 AND o.paid"
	table := []string{
		"SELECT row_to_json(q)::text FROM (SELECT " + columns + " " + from + narrowed + " ORDER BY array_position(ARRAY['s0','s1','s2','s3','s4','s5'], o.status), o.due, o.id LIMIT 26) q",
		"SELECT row_to_json(q)::text FROM (SELECT o.status, count(*), sum(o.hours) AS hours, sum(o.price) AS price " + from + narrowed + " GROUP BY o.status) q"}
	for _, x := range []struct {
		what, path, asks string
		twin             []string
		n                int
	}{
		{"Page with a board, 6 columns of 50", "board", "", board, 7},
		{"Page with a month of some 300 entries", "calendar", "month.day=2025-03-10", []string{month}, 9},
		{"Page with a table: 5 filters, groups, totals", "table", "table.is.o_status=s0,s2,s4&table.is.o_due=2024-06-01..2025-12-31&table.is.o_hours=5..30&table.is.o_price=10..&table.is.o_paid=yes", table, 9},
	} {
		var byHand, ours int
		a, b, err := turns(x.n, func() (err error) { byHand, err = w.asked(ctx, x.twin...); return err },
			func() (err error) { ours, err = w.shown(ctx, x.path, x.asks); return err })
		if err != nil {
			return fmt.Errorf("%s: %w", x.what, err)
		}
		if ours == 0 || ours > byHand || ours < byHand-1 { // one more row tells that there are more
			return fmt.Errorf("%s: the twin shows %d rows, the product %d", x.what, byHand, ours)
		}
		row(x.what, a, b, 1.2)
	}
	return nil
}
