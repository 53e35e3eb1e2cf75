package main

import (
	"context"
	"fmt"

	"pinegate/app/page"
	"pinegate/core/blueprint"
)

// figureShape is a dashboard of six figures and four charts.
func figureShape() []blueprint.Change {
	add := blueprint.Adding
	out := []blueprint.Change{add("page", "", "pfig", "name", "Figures")}
	block := func(id, kind, total, of, weight string, more ...any) {
		out = append(out, add("block", "pfig", id, append([]any{"kind", kind, "table", "ord"}, more...)...))
		switch {
		case weight != "":
			out = append(out, blueprint.Setting(id+"_1", "total", total, "of", of, "weight", weight))
		case total != "":
			out = append(out, blueprint.Setting(id+"_1", "total", total, "of", of))
		}
	}
	block("fig1", "figure", "", "", "", "filter", `status = "In the yard"`)
	block("fig2", "figure", "sum", "price", "", "filter", "paid")
	block("fig3", "figure", "average", "hours", "")
	block("fig4", "figure", "greatest", "price", "", "filter", "not paid")
	block("fig5", "figure", "weighted", "price", "hours")
	block("fig6", "figure", "sum", "hours * price", "", "filter", `due >= DATE(2025, 1, 1)`)
	block("cha1", "chart", "sum", "price", "", "by", "o_due")
	block("cha2", "chart", "", "", "", "by", "o_status", "shape", "donut")
	block("cha3", "chart", "sum", "price", "", "by", "o_boat", "shape", "sideways")
	block("cha4", "chart", "", "", "", "by", "o_due", "unit", "quarter", "then", "o_status", "stack", "stacked")
	return out
}

// figures compares a dashboard with the same statements by hand.
func (w *world) figures(ctx context.Context) error {
	const where = " FROM twin.orders o WHERE o.deleted_at IS NULL AND o.price > 1"
	one := func(what, and string) string {
		return "SELECT row_to_json(q)::text FROM (SELECT count(*), " + what + " AS v" + where + and + ") q"
	}
	grouped := func(by, what string) string {
		return "SELECT row_to_json(q)::text FROM (SELECT " + by + " AS k, count(*), " + what + " AS v" + where +
			" GROUP BY GROUPING SETS ((" + by + "), ()) ORDER BY 1) q"
	}
	twin := []string{
		one("count(*)", " AND o.status = 's1'"), one("sum(o.price)", " AND o.paid"), one("avg(o.hours)", ""),
		one("max(o.price)", " AND o.paid IS NOT TRUE"), one("sum(o.price * o.hours) / sum(o.hours)", ""),
		one("sum(o.hours * o.price)", " AND o.due >= date '2025-01-01'"),
		grouped("date_trunc('month', o.due)::date", "sum(o.price)"), grouped("o.status", "count(*)"),
		`WITH x AS (SELECT o.boat, o.price` + where + `), t AS (SELECT boat, true AS there FROM x GROUP BY 1 ORDER BY sum(price) DESC, 1 LIMIT 12)
			SELECT row_to_json(q)::text FROM (SELECT g.*, b.name FROM (SELECT CASE WHEN t.there THEN x.boat END AS k, t.there IS NULL AS other, count(*),
			sum(x.price) AS v FROM x LEFT JOIN t ON t.boat = x.boat GROUP BY GROUPING SETS ((1, 2), ())) g LEFT JOIN twin.boats b ON b.id = g.k) q`,
		"SELECT row_to_json(q)::text FROM (SELECT date_trunc('quarter', o.due)::date AS k, o.status, count(*)" + where +
			" GROUP BY GROUPING SETS ((1, 2), ()) ORDER BY 1, 2) q",
	}
	a, b, err := turns(5, func() error { _, err := w.asked(ctx, twin...); return err }, func() error {
		v, err := page.Open(ctx, w.a.Road(ctx), w.office(), "figures", "")
		if err != nil {
			return err
		}
		blocks, err := v.Blocks(ctx)
		if err == nil && len(blocks) != 11 { // with the heading of the page
			err = fmt.Errorf("%d blocks are shown", len(blocks))
		}
		return err
	})
	if err != nil {
		return fmt.Errorf("show figures: %w", err)
	}
	row("Dashboard of six figures and four charts", a, b, 1.1)
	return nil
}
