package main

import (
	"context"
	"fmt"
	"slices"

	"github.com/google/uuid"

	"pinegate/app/act"
	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
	"pinegate/store/records"
)

// world is the boatyard at size, in an app and in tables made by hand.
type world struct {
	s                                     *store.Store
	a                                     *apps.Apps
	app                                   store.App
	b                                     *blueprint.Blueprint
	owners, boats, orders, entries, parts int
	me                                    string        // an owner
	filter                                *expr.Checked // of the list, checked once, as that of a page is
}

// shape is the boatyard as far as it matters here.
func shape() []blueprint.Change {
	table := func(id, name, field, called string) blueprint.Change {
		return blueprint.Adding("table", "", id, "name", name, "fields", []blueprint.Values{blueprint.Vals("id", field, "name", called)})
	}
	field := func(table, id, name string, t blueprint.FieldType, more ...any) blueprint.Change {
		return blueprint.Adding("field", table, id, append([]any{"name", name, "type", t}, more...)...)
	}
	where := func(condition string) blueprint.Permission {
		return blueprint.Permission{Extent: blueprint.Where, Condition: condition}
	}
	all := blueprint.Permission{Extent: blueprint.AllRecords}
	return []blueprint.Change{
		blueprint.Adding("list", "", "st", "name", "States", "choices", "Planned\nIn the yard\nWaiting\nDone\nBilled\nPaid", "ids",
			[]string{"s0", "s1", "s2", "s3", "s4", "s5"}),
		table("own", "Owners", "w_name", "Name"), field("own", "w_email", "E-mail", blueprint.Email),
		table("boat", "Boats", "b_name", "Name"), field("boat", "b_owner", "Owner", blueprint.Link, "target", "own"),
		table("ord", "Orders", "o_title", "Name"), field("ord", "o_boat", "Boat", blueprint.Link, "target", "boat"),
		field("ord", "o_status", "Status", blueprint.Choose, "list", "st"),
		field("ord", "o_due", "Due", blueprint.Date), field("ord", "o_hours", "Hours", blueprint.Number),
		field("ord", "o_price", "Price", blueprint.Number), field("ord", "o_paid", "Paid", blueprint.YesNo),
		table("ent", "Entries", "e_note", "Name"), field("ent", "e_order", "Order", blueprint.Link, "target", "ord", "back", "Entries",
			"backId", "o_entries"), field("ent", "e_hours", "Hours", blueprint.Number),
		table("part", "Parts", "p_name", "Name"), field("part", "p_order", "Order", blueprint.Link, "target", "ord", "back", "Parts",
			"backId", "o_parts"),
		field("ord", "o_worked", "Worked", blueprint.RollUp, "via", "o_entries", "take", "e_hours", "total", blueprint.SumTotal),
		field("ord", "o_used", "Used", blueprint.RollUp, "via", "o_parts", "total", blueprint.CountTotal),
		blueprint.Adding("role", "", "r_own", "name", "Boat owners", "people", "own", "email", "w_email", "admit", "not ISBLANK(name)"),
		blueprint.Adding("role", "", "r_crew", "name", "Crew"),
		blueprint.Permit("r_crew", "ord", "see", where(`hours > 5 and status <> "Done"`)),
		blueprint.Permit("r_own", "ord", "see", where("boat.owner = me")), blueprint.Permit("r_own", "boat", "see", where("owner = me")),
		blueprint.Permit("r_own", "ent", "see", all), blueprint.Permit("r_own", "part", "see", all),
		blueprint.Adding("role", "", "r_office", "name", "Office"), blueprint.Permit("r_office", "ord", "see", where("price > 1")),
		blueprint.Permit("r_office", "boat", "see", all),
		blueprint.Adding("page", "", "pb", "name", "Board"), blueprint.Adding("page", "", "pc", "name", "Calendar"),
		blueprint.Adding("page", "", "pt", "name", "Table"),
		blueprint.Adding("block", "pb", "board", "kind", "records", "table", "ord", "ways", []string{"board"}, "board", "o_status",
			"columns", []string{"o_title", "o_boat", "o_due", "o_price"}, "sort", "o_due", "totals", []string{"o_price"}),
		blueprint.Adding("block", "pc", "month", "kind", "records", "table", "ord", "ways", []string{"calendar"}, "from", "o_due",
			"columns", []string{"o_title", "o_boat", "o_status"}, "filter", "hours > 38 and price < 18"),
		blueprint.Adding("block", "pt", "table", "kind", "records", "table", "ord", "columns",
			[]string{"o_title", "o_boat", "o_status", "o_due", "o_hours", "o_price"}, "sort", "o_due", "group", "o_status", "totals",
			[]string{"o_hours", "o_price"}, "filters", []string{"o_status", "o_due", "o_hours", "o_price", "o_paid"}),
	}
}

func newWorld(ctx context.Context, s *store.Store, orders int) (*world, error) {
	w := &world{s: s, a: apps.New(s), orders: orders, owners: orders / 20, boats: orders * 3 / 50, entries: orders, parts: orders / 2}
	builder, err := accounts.New(s).AddBuilder(ctx, "a@yard.example", "Ann", "long-enough-password")
	if err != nil {
		return nil, err
	}
	if w.app, err = w.a.Create(ctx, builder.ID, builder.Name, blueprint.New("Bench", apps.NewID)); err != nil {
		return nil, err
	}
	acts, err := act.New(w.a)
	if err != nil {
		return nil, err
	}
	if w.app, err = acts.Apply(ctx, w.app.ID, "Ann", slices.Concat(shape(), formShape(), flowShape(), figureShape())...); err != nil {
		return nil, err
	}
	if w.b, err = w.a.Blueprint(ctx, w.app, apps.Draft); err != nil {
		return nil, err
	}
	if w.filter, err = expr.CheckCondition("hours > 5", expr.Scope{Catalog: w.b.Catalog(), Row: "ord"}); err != nil {
		return nil, err
	}
	return w, w.fill(ctx)
}

// fill makes the same records for both; ids are made of numbers, in order.
func (w *world) fill(ctx context.Context) error {
	id := func(kind int, n string) string {
		return fmt.Sprintf("('018f0000-0000-7%03d-8000-' || lpad(to_hex(%s), 12, '0'))::uuid", kind, n)
	}
	schema := query.Quote(apps.SchemaName(w.app, apps.Draft))
	fill := func(prefix, by string) []string {
		cols, vals := "", ""
		if by != "" {
			cols, vals = ", created_by, changed_by", ", 'x', 'x'"
		}
		return []string{
			fmt.Sprintf("INSERT INTO %sowners (id, name, e_mail%s) SELECT %s, 'Owner ' || n, 'o' || n || '@sail.example'%s FROM generate_series(1, %d) n", prefix, cols, id(1, "n"), vals, w.owners),
			fmt.Sprintf("INSERT INTO %sboats (id, name, owner%s) SELECT %s, 'Boat ' || n, %s%s FROM generate_series(1, %d) n", prefix, cols,
				id(2, "n"), id(1, fmt.Sprintf("1 + n * 7 %% %d", w.owners)), vals, w.boats),
			fmt.Sprintf("INSERT INTO %sorders (id, name, boat, status, due, hours, price, paid%s) SELECT %s, 'Order ' || n, %s, 's' || n %% 6, date '2024-01-01' + n %% 900, n %% 40, (n * 37) %% 5000 / 100.0, n %% 3 = 0%s FROM generate_series(1, %d) n", prefix, cols, id(3, "n"), id(2, fmt.Sprintf("1 + n * 13 %% %d", w.boats)), vals, w.orders),
			fmt.Sprintf("INSERT INTO %sentries (id, name, \"order\", hours%s) SELECT %s, 'Entry', %s, n %% 9%s FROM generate_series(1, %d) n", prefix, cols, id(4, "n"), id(3, fmt.Sprintf("1 + n * 3 %% %d", w.orders)), vals, w.entries),
			fmt.Sprintf("INSERT INTO %sparts (id, name, \"order\"%s) SELECT %s, 'Part', %s%s FROM generate_series(1, %d) n", prefix, cols,
				id(5, "n"), id(3, fmt.Sprintf("1 + n * 11 %% %d", w.orders)), vals, w.parts),
		}
	}
	// the twin's tables have the columns that every GORM model has
	statements := append(fill(schema+".", "x"), `CREATE SCHEMA twin`,
		`CREATE TABLE twin.owners (id uuid PRIMARY KEY, name text, e_mail text, created_at timestamptz NOT NULL DEFAULT now(), updated_at timestamptz NOT NULL DEFAULT now(), deleted_at timestamptz)`,
		`CREATE TABLE twin.boats (id uuid PRIMARY KEY, name text, owner uuid REFERENCES twin.owners, created_at timestamptz NOT NULL DEFAULT now(), updated_at timestamptz NOT NULL DEFAULT now(), deleted_at timestamptz)`,
		`CREATE TABLE twin.orders (id uuid PRIMARY KEY, name text, boat uuid REFERENCES twin.boats, status text, due date, hours numeric, price numeric, paid boolean, created_at timestamptz NOT NULL DEFAULT now(), updated_at timestamptz NOT NULL DEFAULT now(), deleted_at timestamptz)`,
		`CREATE TABLE twin.entries (id uuid PRIMARY KEY, name text, "order" uuid REFERENCES twin.orders, hours numeric, created_at timestamptz NOT NULL DEFAULT now(), updated_at timestamptz NOT NULL DEFAULT now(), deleted_at timestamptz)`,
		`CREATE TABLE twin.parts (id uuid PRIMARY KEY, name text, "order" uuid REFERENCES twin.orders, created_at timestamptz NOT NULL DEFAULT now(), updated_at timestamptz NOT NULL DEFAULT now(), deleted_at timestamptz)`,
		`CREATE INDEX ON twin.boats (owner)`, `CREATE INDEX ON twin.orders (boat)`, `CREATE INDEX ON twin.entries ("order")`,
		`CREATE INDEX ON twin.parts ("order")`, `CREATE INDEX ON twin.orders (status, due, id) WHERE deleted_at IS NULL`,
		`CREATE INDEX ON twin.orders (due, id) WHERE deleted_at IS NULL`)
	statements = append(append(statements, fill("twin.", "")...),
		"CREATE TABLE twin.history (id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY, record uuid, after jsonb, at timestamptz NOT NULL DEFAULT now())",
		"CREATE INDEX ON twin.history (record, id)", "ANALYZE") // by which the history of a record is shown
	for _, sql := range statements {
		if _, err := w.s.Pool.Exec(ctx, sql); err != nil {
			return fmt.Errorf("fill (%.60s): %w", sql, err)
		}
	}
	return w.s.Pool.QueryRow(ctx,
		"SELECT owner::text FROM twin.boats b JOIN twin.orders o ON o.boat = b.id GROUP BY owner ORDER BY count(*) DESC LIMIT 1").Scan(&w.me)
}

// seat is that of the owner.
func (w *world) seat() *records.Seat {
	s := apps.FounderSeat(w.app, apps.Draft, w.b, "bench")
	s.Viewer = access.Viewer{Memberships: []access.Membership{{Role: "r_own", Record: w.me}}, Name: "Owner"}
	return s
}

func newID() string { return uuid.Must(uuid.NewV7()).String() }
