package main

import (
	"context"
	"fmt"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"github.com/jackc/pgx/v5"

	"pinegate/app/act"
	flowing "pinegate/app/run"
	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/runs"
)

// flowShape are two workflows of a button: one with five steps about records, and one with twenty.
func flowShape() []blueprint.Change {
	add, out := blueprint.Adding, []blueprint.Change{}
	given := func(pairs ...string) []map[string]string {
		var list []map[string]string
		for i := 0; i < len(pairs); i += 2 {
			list = append(list, map[string]string{"field": pairs[i], "value": pairs[i+1]})
		}
		return list
	}
	for flow, times := range map[string]int{"five": 1, "twenty": 4} {
		out = append(out, add("workflow", "", flow, "kind", "press", "name", flow, "roles", []string{"r_desk"}, "record", "ord"),
			blueprint.Setting(flow, "rights", "app"))
		for i := range times {
			id := func(what string) string { return fmt.Sprintf("%s_%s%d", flow, what, i) }
			step := func(what, kind string, pairs ...any) {
				out = append(out, add("step", flow, id(what), append([]any{"kind", kind}, pairs...)...))
			}
			named := func(what string) string { return fmt.Sprintf("%s %d", what, i) }
			step("a", "add", "table", "ent", "name", named("entry"),
				"values", given("e_note", `"Begun"`, "e_hours", "1", "e_order", "this"))
			step("b", "change", "record", "this", "values", given("o_hours", "hours + 1"))
			step("c", "find", "what", "list", "table", "part", "name", named("found"), "where", "order = this")
			step("d", "add", "table", "part", "name", named("part"), "values", given("p_name", `"Seal"`, "p_order", "this"))
			step("e", "change", "record", fmt.Sprintf("made.entry_%d", i),
				"values", given("e_hours", fmt.Sprintf("COUNT(made.found_%d) + 1", i)))
		}
	}
	return out
}

// flows measures what runs of workflows take.
func (w *world) flows(ctx context.Context) error {
	acts, err := act.New(w.a)
	if err != nil {
		return err
	}
	r := &flowing.Runs{Acts: acts, Apps: w.a, Book: runs.In(w.s.DB)}
	n := 0
	order := func() string { return w.id(3, 1+(n*37)%w.orders) }
	byHand := func() error { n++; return w.ranByHand(ctx, order()) }
	a, b, err := turns(200, byHand, func() error { n++; return w.ran(ctx, r, "five", order()) })
	if err != nil {
		return fmt.Errorf("run a workflow: %w", err)
	}
	written, err := w.recording(ctx, r)
	if err != nil {
		return err
	}
	row("Workflow with five steps about records, less what is written down of it", a, b-written, 1.3)
	row("The same with that", a, b, 1.3*1.15)
	fmt.Printf("\nWriting down what it did: %s, %.0f %% of the run (aim 15 %%)\n", written.Round(10*time.Microsecond), 100*float64(written)/float64(b))
	if err := w.manyRuns(ctx, r); err != nil {
		return err
	}
	return w.rehearsals(ctx, r)
}

// recording measures what it takes to write down what a run did: a unit with that against one without.
func (w *world) recording(ctx context.Context, r *flowing.Runs) (time.Duration, error) {
	list, err := r.Book.Of(ctx, runs.Page{App: w.app.ID, Place: string(apps.Draft), Workflow: "five", Limit: 1})
	if err != nil {
		return 0, err
	}
	run, err := r.Book.Run(ctx, w.app.ID, list[0].ID)
	if err != nil {
		return 0, err
	}
	unit := func(keeps bool) func() error {
		return func() error {
			return r.Acts.Do(ctx, func(u *act.Unit) error {
				all := []store.Statement{{SQL: "SELECT 1"}}
				if keeps {
					run.ID = newID()
					if err := runs.In(u.Tx).Adding(&run, func(s store.Statement) { all = append(all, s) }); err != nil {
						return err
					}
				}
				return store.Together(ctx, u.Tx, all)
			})
		}
	}
	without, with, err := turns(200, unit(false), unit(true))
	if err != nil {
		return 0, fmt.Errorf("write down what a run did: %w", err)
	}
	return with - without, nil
}

// manyRuns runs workflows by several at once.
func (w *world) manyRuns(ctx context.Context, r *flowing.Runs) error {
	const hands, span = 8, 5 * time.Second
	var done atomic.Int64
	var wait sync.WaitGroup
	errs := make(chan error, hands)
	end := time.Now().Add(span)
	for hand := range hands {
		wait.Go(func() {
			for i := 0; time.Now().Before(end); i++ {
				if err := w.ran(ctx, r, "five", w.id(3, 1+(hand*1000+i)%w.orders)); err != nil {
					errs <- err
					return
				}
				done.Add(1)
			}
		})
	}
	wait.Wait()
	close(errs)
	for err := range errs {
		return fmt.Errorf("run workflows at once: %w", err)
	}
	fmt.Printf("\nRuns of that workflow by %d at once: %.0f a second (aim 200)\n", hands, float64(done.Load())/span.Seconds())
	return nil
}

// rehearsals rehearses a workflow of twenty steps.
func (w *world) rehearsals(ctx context.Context, r *flowing.Runs) error {
	var took []time.Duration
	for i := range 40 {
		start := time.Now()
		s := w.start("twenty")
		s.Input.Record = w.id(3, 1+i)
		got, err := r.Rehearse(ctx, s)
		if err != nil {
			return fmt.Errorf("rehearse a workflow: %w", err)
		}
		if len(got.Steps) != 20 || got.Status != runs.Done {
			return fmt.Errorf("rehearse a workflow: %d steps, %s: %s", len(got.Steps), got.Status, got.Error)
		}
		took = append(took, time.Since(start))
	}
	slices.Sort(took)
	fmt.Printf("\nRehearsal of twenty steps: median %s, p95 %s (aim 300 ms)\n\n", took[len(took)/2].Round(100*time.Microsecond),
		took[len(took)*95/100].Round(100*time.Microsecond))
	return nil
}

// start is what starts a workflow for somebody at the desk.
func (w *world) start(flow string) flowing.Start {
	seat := apps.FounderSeat(w.app, apps.Draft, w.b, "Desk")
	seat.Viewer = access.Viewer{Memberships: []access.Membership{{Role: "r_desk"}}, Name: "Desk"}
	return flowing.Start{App: w.app, Env: apps.Draft, Person: seat, Workflow: w.b.Workflow(flow)}
}

// ran presses the button, as the server does.
func (w *world) ran(ctx context.Context, r *flowing.Runs, flow, order string) error {
	s := w.start(flow)
	return r.Keep(ctx, r.Acts.Do(ctx, func(u *act.Unit) error {
		_, err := r.Press(ctx, u, w.app, s.Person, flow, order, nil)
		return err
	}))
}

// ranByHand is a handler that does the same in one transaction, with its history.
func (w *world) ranByHand(ctx context.Context, order string) error {
	return pgx.BeginFunc(ctx, w.s.Pool, func(tx pgx.Tx) error {
		var name string
		const known = "SELECT name FROM twin.orders WHERE id = $1 AND deleted_at IS NULL FOR UPDATE"
		if err := tx.QueryRow(ctx, known, order).Scan(&name); err != nil {
			return fmt.Errorf("there is no such order: %w", err)
		}
		entry, part := newID(), newID()
		one := func(sql string, args ...any) error {
			_, err := tx.Exec(ctx, sql, args...)
			return err
		}
		noted := func(record, what string) error {
			return one("INSERT INTO twin.history (record, after) VALUES ($1, jsonb_build_object('name', $2::text))", record, what)
		}
		if err := one(`INSERT INTO twin.entries (id, name, hours, "order") VALUES ($1, 'Begun', 1, $2)`, entry, order); err != nil {
			return err
		}
		if err := noted(entry, "Begun"); err != nil {
			return err
		}
		if err := one("UPDATE twin.orders SET hours = hours + 1, updated_at = now() WHERE id = $1", order); err != nil {
			return err
		}
		if err := noted(order, name); err != nil {
			return err
		}
		rows, err := tx.Query(ctx, `SELECT id::text FROM twin.parts WHERE "order" = $1 AND deleted_at IS NULL ORDER BY id LIMIT 1000`, order)
		if err != nil {
			return err
		}
		parts, err := pgx.CollectRows(rows, pgx.RowTo[string])
		if err != nil {
			return err
		}
		if err := one(`INSERT INTO twin.parts (id, name, "order") VALUES ($1, 'Seal', $2)`, part, order); err != nil {
			return err
		}
		if err := noted(part, "Seal"); err != nil {
			return err
		}
		if err := one("UPDATE twin.entries SET hours = $2, updated_at = now() WHERE id = $1", entry, len(parts)+1); err != nil {
			return err
		}
		if err := noted(entry, "Begun"); err != nil {
			return err
		}
		return one("SELECT pg_notify('twin', $1)", order)
	})
}
