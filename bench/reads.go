package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"

	"github.com/gin-gonic/gin"

	"pinegate/core/access"
	"pinegate/core/query"
	"pinegate/store/apps"
	"pinegate/store/records"
)

// order is the row of the twin's list.
type order struct {
	ID, Title, Boat, BoatName, Status, Due, Price string
	Worked                                        string
	Used                                          int
}

// lists asks both over HTTP for 25 of one's own orders: an access condition
// over a link, a filter, a sort and two roll-ups.
func (w *world) lists(ctx context.Context) error {
	gin.SetMode(gin.ReleaseMode)
	g := gin.New()
	g.GET("/twin", w.twinList)
	g.GET("/ours", w.ourList)
	site := httptest.NewServer(g)
	defer site.Close()
	get := func(path string) (string, error) {
		r, err := http.NewRequestWithContext(ctx, http.MethodGet, site.URL+path, nil)
		if err != nil {
			return "", err
		}
		answer, err := http.DefaultClient.Do(r)
		if err != nil {
			return "", err
		}
		defer func() { _ = answer.Body.Close() }() // it was only read
		raw, err := io.ReadAll(answer.Body)
		if answer.StatusCode != http.StatusOK {
			return "", fmt.Errorf("%s: %s", path, raw)
		}
		return string(raw), err
	}
	if err := sameOrders(get); err != nil {
		return err
	}
	do := func(path string) func() error {
		return func() error { _, err := get(path); return err }
	}
	a, b, err := turns(300, do("/twin"), do("/ours"))
	if err == nil {
		row("List of 25: rule over a link, filter, sort, two roll-ups", a, b, 1.2)
	}
	return err
}

// sameOrders makes sure that both answer the same.
func sameOrders(get func(string) (string, error)) error {
	var twin []order
	var ours []map[string]any
	a, err := get("/twin")
	if err != nil {
		return err
	}
	b, err := get("/ours")
	if err != nil {
		return err
	}
	if err := json.Unmarshal([]byte(a), &twin); err != nil {
		return err
	}
	if err := json.Unmarshal([]byte(b), &ours); err != nil {
		return err
	}
	if len(twin) == 0 || len(twin) != len(ours) {
		return fmt.Errorf("the twin lists %d orders, the product %d", len(twin), len(ours))
	}
	for i := range twin {
		if twin[i].ID != ours[i]["id"] || twin[i].Worked != ours[i]["o_worked"] || fmt.Sprint(twin[i].Used) != ours[i]["o_used"] {
			return fmt.Errorf("row %d differs: %+v and %v", i, twin[i], ours[i])
		}
	}
	return nil
}

func (w *world) twinList(g *gin.Context) {
	var out []order
	err := w.s.DB.WithContext(g.Request.Context()).Raw(`SELECT o.id::text, o.name AS title, o.boat::text, o.boat_name, o.status, o.due::text, o.price::text,
			(SELECT COALESCE(sum(hours), 0) FROM twin.entries WHERE "order" = o.id AND deleted_at IS NULL)::text AS worked,
			(SELECT count(*) FROM twin.parts WHERE "order" = o.id AND deleted_at IS NULL) AS used
		FROM (SELECT o.*, b.name AS boat_name FROM twin.orders o JOIN twin.boats b ON b.id = o.boat AND b.deleted_at IS NULL
			WHERE b.owner = ?::uuid AND o.deleted_at IS NULL AND o.hours > 5 ORDER BY o.due, o.id LIMIT 25) o ORDER BY o.due, o.id`, w.me).Scan(&out).Error
	if err != nil {
		g.String(http.StatusInternalServerError, err.Error())
		return
	}
	g.JSON(http.StatusOK, out)
}

func (w *world) ourList(g *gin.Context) {
	rows, err := w.listOurs(g.Request.Context())
	if err != nil {
		g.String(http.StatusInternalServerError, err.Error())
		return
	}
	g.JSON(http.StatusOK, rows)
}

func (w *world) listOurs(ctx context.Context) ([]records.Row, error) {
	rows, _, err := w.a.Road(ctx).List(ctx, w.seat(), query.Selection{Table: w.b.Table("ord"), Filter: w.filter, FilterName: "bench",
		Sorts: []query.Sort{{Field: "o_due"}}, Limit: 25,
		Columns: []string{"o_title", "o_boat", "o_status", "o_due", "o_price", "o_worked", "o_used"}})
	return rows, err
}

// totals counts all orders and totals them in three ways.
func (w *world) totals(ctx context.Context) error {
	twin := func() error {
		for _, sql := range []string{"SELECT count(*) FROM twin.orders WHERE deleted_at IS NULL",
			"SELECT json_agg(q)::text FROM (SELECT status, count(*), sum(hours) AS hours, sum(price) AS price FROM twin.orders WHERE deleted_at IS NULL GROUP BY status) q",
			"SELECT json_agg(q)::text FROM (SELECT due, count(*), sum(hours) AS hours, sum(price) AS price FROM twin.orders WHERE deleted_at IS NULL GROUP BY due ORDER BY 2 DESC, 1 LIMIT 500) q",
			"SELECT json_agg(q)::text FROM (SELECT hours, count(*), sum(hours) AS h, sum(price) AS price FROM twin.orders WHERE deleted_at IS NULL GROUP BY hours) q"} {
			var out string
			if err := w.s.DB.WithContext(ctx).Raw(sql).Row().Scan(&out); err != nil {
				return err
			}
		}
		return nil
	}
	founder := apps.FounderSeat(w.app, apps.Draft, w.b, "bench")
	t := w.b.Table("ord")
	ours := func() error {
		if _, err := w.a.Road(ctx).Count(ctx, founder, query.Selection{Table: t}); err != nil {
			return err
		}
		for _, group := range []string{"o_status", "o_due", "o_hours"} {
			if _, err := w.a.Road(ctx).Totals(ctx, founder, query.Totals{Selection: query.Selection{Table: t}, Group: group,
				Sums: []string{"o_hours", "o_price"}}); err != nil {
				return err
			}
		}
		return nil
	}
	a, b, err := turns(7, twin, ours)
	if err == nil {
		row("Count and three grouped totals over all orders", a, b, 1.1)
	}
	return err
}

// rules compares reads under a rule with the same query and condition written by
// hand, without anything else: one record list by a rule over a link, a count by
// a rule over fields, and who the person is.
func (w *world) rules(ctx context.Context) error {
	type same struct {
		what       string
		n          int
		twin, ours func() error
	}
	text := func(sql string, args ...any) func() error {
		return func() error {
			rows, err := w.s.DB.WithContext(ctx).Raw(sql, args...).Rows()
			if err != nil {
				return err
			}
			for rows.Next() {
				var out string
				if err := rows.Scan(&out); err != nil {
					return err
				}
			}
			return errors.Join(rows.Err(), rows.Close())
		}
	}
	orders := w.b.Table("ord")
	crew := w.seat()
	crew.Viewer = access.Viewer{Memberships: []access.Membership{{Role: "r_crew"}}}
	for _, x := range []same{
		{"Rule over a link: 25 of one's own by date", 400,
			// one more than is shown, and what it is sorted by, tell where the next 25 begin
			text(`SELECT row_to_json(q)::text FROM (SELECT o.id, o.revision, o.name AS label, o.due, o.status, o.due::text AS key FROM `+w.ours("orders")+` o JOIN `+w.ours("boats")+` b ON b.id = o.boat WHERE o.deleted_at IS NULL AND b.owner = ?::uuid ORDER BY o.due NULLS LAST, o.id LIMIT 26) q`, w.me),
			func() error {
				_, _, err := w.a.Road(ctx).List(ctx, w.seat(),
					query.Selection{Table: orders, FilterName: "rules", Sorts: []query.Sort{{Field: "o_due"}}, Limit: 25,
						Columns: []string{"o_due", "o_status"}})
				return err
			}},
		{"Rule over fields: count of all orders", 9,
			text(`SELECT count(*)::text FROM ` + w.ours("orders") + ` o WHERE o.deleted_at IS NULL AND o.hours > 5 AND o.status <> 's3'`),
			func() error {
				_, err := w.a.Road(ctx).Count(ctx, crew, query.Selection{Table: orders})
				return err
			}},
		{"Who a person is, by address, with a condition to be let in", 400,
			text(`SELECT row_to_json(q)::text FROM (SELECT id, name, e_mail, name IS NOT NULL AS admitted FROM `+w.ours("owners")+` WHERE deleted_at IS NULL AND lower(e_mail) = lower(?) LIMIT 2) q`, "o7@sail.example"),
			func() error {
				id, err := w.a.Road(ctx).PeopleWith(ctx, w.seat(), "o7@sail.example")
				if err == nil && !id.In() {
					err = errors.New("the person is not found")
				}
				return err
			}},
	} {
		a, b, err := turns(x.n, x.twin, x.ours)
		if err != nil {
			return fmt.Errorf("%s: %w", x.what, err)
		}
		row(x.what, a, b, 1.15)
	}
	return nil
}

// ours gives the name of a table of the app's draft.
func (w *world) ours(table string) string {
	return query.Quote(apps.SchemaName(w.app, apps.Draft)) + "." + table
}
