package main

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"github.com/jackc/pgx/v5"

	"pinegate/app/act"
	"pinegate/app/page"
	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/form"
	"pinegate/store/apps"
	"pinegate/store/records"
)

// formShape are two forms: one whose choices are narrowed by answers, with a rule that looks
// something up, and one that saves an order with its boat, an entry and ten parts.
func formShape() []blueprint.Change {
	all := blueprint.Permission{Extent: blueprint.AllRecords}
	add := blueprint.Adding
	out := []blueprint.Change{add("role", "", "r_desk", "name", "Desk")}
	for _, table := range []string{"own", "boat", "ord", "ent", "part"} {
		out = append(out, blueprint.Permit("r_desk", table, "see", all, "add", all))
	}
	return append(out,
		add("page", "", "pf", "name", "Forms"),
		add("block", "pf", "narrow", "kind", "form", "table", "ord", "fields", asked("o_paid")),
		add("block", "narrow", "f_own", "kind", "ask", "name", "Whose", "type", "link", "target", "own"),
		add("block", "narrow", "f_boat", "kind", "question", "field", "o_boat", "narrow", "owner = answers.whose"),
		add("block", "narrow", "f_after", "kind", "ask", "name", "After", "type", "link", "target", "ord", "narrow", "boat = answers.boat"),
		add("block", "narrow", "f_title", "kind", "question", "field", "o_title", "rules",
			[]map[string]string{{"holds": "CONTAINS(answers.name, answers.boat.owner.name)"}}),
		add("block", "pf", "save", "kind", "form", "table", "ord", "fields", asked("o_title", "o_hours")),
		add("block", "save", "w_boat", "kind", "with", "link", "o_boat", "fields", asked("b_name", "b_owner")),
		add("block", "save", "w_ent", "kind", "with", "link", "e_order", "fields", asked("e_note", "e_hours")),
		add("block", "save", "w_part", "kind", "with", "link", "p_order", "lines", true, "fields", asked("p_name")))
}

func asked(fields ...string) []map[string]any {
	var out []map[string]any
	for _, f := range fields {
		out = append(out, map[string]any{"field": f})
	}
	return out
}

// desk opens a form for somebody at the desk.
func (w *world) desk(ctx context.Context, block string) (page.Use, error) {
	s := apps.FounderSeat(w.app, apps.Draft, w.b, "bench")
	s.Viewer = access.Viewer{Memberships: []access.Membership{{Role: "r_desk"}}, Name: "Desk"}
	v, err := page.Open(ctx, w.a.Road(ctx), s, "forms", "")
	if err != nil {
		return page.Use{}, err
	}
	return v.Use(block)
}

// forms measures how a form is with its answers, and what sending one takes.
func (w *world) forms(ctx context.Context) error {
	if err := w.states(ctx); err != nil {
		return err
	}
	acts, err := act.New(w.a)
	if err != nil {
		return err
	}
	n := 0
	a, b, err := turns(100, func() error { n++; return w.sentByHand(ctx, n) }, func() error { n++; return w.sent(ctx, acts, n) })
	if err != nil {
		return fmt.Errorf("send a form: %w", err)
	}
	row("Form with three records and ten lines, sent", a, b, 1.3)
	return nil
}

// states asks for the state of a form with two narrowed choices and a look-up, each time with
// other answers.
func (w *world) states(ctx context.Context) error {
	var took []time.Duration
	for i := range 400 {
		owner, boat := w.id(1, 1+(i*131)%w.owners), ""
		if err := w.s.Pool.QueryRow(ctx, "SELECT coalesce((SELECT id::text FROM twin.boats WHERE owner = $1 LIMIT 1), '')",
			owner).Scan(&boat); err != nil {
			return err
		}
		answers := form.Answers{"f_own": raw(owner), "o_title": raw(fmt.Sprintf("Owner %d", i))}
		if boat != "" {
			answers["o_boat"] = raw(boat)
		}
		start := time.Now()
		u, err := w.desk(ctx, "narrow")
		if err != nil {
			return err
		}
		state, err := u.State(ctx, page.StateAsked{Answers: answers, Have: []string{"f_own", "f_boat", "f_after", "f_title"}})
		if err != nil {
			return err
		}
		took = append(took, time.Since(start))
		if state.Parts["f_boat"].Cleared != "" || boat != "" && len(state.Parts["f_boat"].Options) == 0 {
			return fmt.Errorf("the boat %s of %s is not offered", boat, owner)
		}
	}
	slices.Sort(took)
	fmt.Printf("\nState of a form with two narrowed choices and a look-up: median %s, p95 %s (aim 30 ms)\n\n", took[len(took)/2].Round(10*time.Microsecond),
		took[len(took)*95/100].Round(10*time.Microsecond))
	return nil
}

// id gives the id of the record of a kind with a number, as both worlds have it.
func (w *world) id(kind, n int) string {
	return fmt.Sprintf("018f0000-0000-7%03d-8000-%012x", kind, n)
}

func raw(v any) json.RawMessage {
	out, err := json.Marshal(v)
	if err != nil {
		panic(err) // only for what is no value
	}
	return out
}

// sent sends the form as the server does.
func (w *world) sent(ctx context.Context, acts *act.Acts, n int) error {
	u, err := w.desk(ctx, "save")
	if err != nil {
		return err
	}
	line := func(values form.Answers) page.Line { return page.Line{Line: form.Line{Answers: values}} }
	var parts []page.Line
	for i := range 10 {
		parts = append(parts, line(form.Answers{"p_name": raw(fmt.Sprintf("Part %d", i))}))
	}
	taken, err := u.Take(ctx, page.Sent{Values: records.Values{"o_title": raw(fmt.Sprintf("Sent %d", n)), "o_hours": raw("4")},
		With: map[string][]page.Line{
			"w_boat": {line(form.Answers{"b_name": raw(fmt.Sprintf("Boat of %d", n)), "b_owner": raw(w.me)})},
			"w_ent":  {line(form.Answers{"e_note": raw("Begun"), "e_hours": raw("1")})}, "w_part": parts}})
	if err != nil {
		return err
	}
	presets, err := u.Presets(taken)
	if err != nil {
		return err
	}
	return acts.EditMany(ctx, w.app, u.Seat, func(unit *act.Unit) ([]*records.Write, string, error) {
		wrote, err := u.Write(ctx, unit.Road, taken, presets)
		if err == nil && len(wrote.Writes) != 13 {
			err = fmt.Errorf("%d records were written", len(wrote.Writes))
		}
		return wrote.Writes, "sent", err
	})
}

// sentByHand is a handler that reads the answers, writes four statements and a history in one
// transaction, and tells that something was written.
func (w *world) sentByHand(ctx context.Context, n int) error {
	var in struct {
		Title, Hours, Boat, Owner, Note string
		Parts                           []string
	}
	sent := map[string]any{"title": fmt.Sprintf("Sent %d", n), "hours": "4", "boat": fmt.Sprintf("Boat of %d", n), "owner": w.me,
		"note":  "Begun",
		"parts": []string{"Part 0", "Part 1", "Part 2", "Part 3", "Part 4", "Part 5", "Part 6", "Part 7", "Part 8", "Part 9"}}
	if err := json.Unmarshal(raw(sent), &in); err != nil {
		return err
	}
	boat, order, entry := newID(), newID(), newID()
	return pgx.BeginFunc(ctx, w.s.Pool, func(tx pgx.Tx) error {
		var there bool
		const known = "SELECT EXISTS (SELECT 1 FROM twin.owners WHERE id = $1 AND deleted_at IS NULL)"
		if err := tx.QueryRow(ctx, known, in.Owner).Scan(&there); err != nil || !there {
			return fmt.Errorf("there is no such owner: %w", err)
		}
		for _, x := range []struct {
			sql  string
			args []any
		}{
			{"INSERT INTO twin.boats (id, name, owner) VALUES ($1, $2, $3)", []any{boat, in.Boat, in.Owner}},
			{"INSERT INTO twin.orders (id, name, hours, boat) VALUES ($1, $2, $3::text::numeric, $4)", []any{order, in.Title, in.Hours, boat}},
			{`INSERT INTO twin.entries (id, name, hours, "order") VALUES ($1, $2, 1, $3)`, []any{entry, in.Note, order}},
			{`INSERT INTO twin.parts (id, name, "order") SELECT gen_random_uuid(), n, $2 FROM unnest($1::text[]) n`, []any{in.Parts, order}},
			{"INSERT INTO twin.history (record, after) SELECT gen_random_uuid(), jsonb_build_object('name', n) FROM unnest($1::text[]) n",
				[]any{append(in.Parts, in.Boat, in.Title, in.Note)}},
			{"SELECT pg_notify('twin', $1)", []any{order}},
		} {
			if _, err := tx.Exec(ctx, x.sql, x.args...); err != nil {
				return err
			}
		}
		return nil
	})
}
