package main

import (
	"context"
	"fmt"

	"github.com/google/uuid"

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
	field := func(table, id, name string, t blueprint.FieldType) *blueprint.AddField {
		return &blueprint.AddField{Table: table, ID: id, Name: name, Type: t}
	}
	link := func(table, id, name, target, back, backID string) *blueprint.AddField {
		return &blueprint.AddField{Table: table, ID: id, Name: name, Type: blueprint.Link, Target: target, Back: back, BackID: backID}
	}
	worked, used := field("ord", "o_worked", "Worked", blueprint.RollUp), field("ord", "o_used", "Used", blueprint.RollUp)
	worked.Via, worked.Take, worked.Total = "o_entries", "e_hours", blueprint.SumTotal
	used.Via, used.Total = "o_parts", blueprint.CountTotal
	status := field("ord", "o_status", "Status", blueprint.Choose)
	status.List = "st"
	price := field("ord", "o_price", "Price", blueprint.Number)
	return []blueprint.Change{
		&blueprint.AddChoiceList{ID: "st", Name: "States", Labels: "Planned\nIn the yard\nWaiting\nDone", Choices: []string{"s0", "s1", "s2", "s3"}},
		&blueprint.AddTable{ID: "own", Field: "w_name", Name: "Owners"}, field("own", "w_email", "E-mail", blueprint.Email),
		&blueprint.AddTable{ID: "boat", Field: "b_name", Name: "Boats"}, link("boat", "b_owner", "Owner", "own", "", ""),
		&blueprint.AddTable{ID: "ord", Field: "o_title", Name: "Orders"}, link("ord", "o_boat", "Boat", "boat", "", ""), status,
		field("ord", "o_due", "Due", blueprint.Date), field("ord", "o_hours", "Hours", blueprint.Number), price,
		&blueprint.AddTable{ID: "ent", Field: "e_note", Name: "Entries"}, link("ent", "e_order", "Order", "ord", "Entries", "o_entries"), field("ent", "e_hours", "Hours", blueprint.Number),
		&blueprint.AddTable{ID: "part", Field: "p_name", Name: "Parts"}, link("part", "p_order", "Order", "ord", "Parts", "o_parts"), worked, used,
		&blueprint.AddRole{ID: "r_own", Name: "Boat owners"}, &blueprint.SetPeople{Role: "r_own", Table: "own", Email: "w_email"},
		&blueprint.SetAdmission{Role: "r_own", Admit: "not ISBLANK(name)"},
		&blueprint.AddRole{ID: "r_crew", Name: "Crew"}, &blueprint.SetPermission{Role: "r_crew", Table: "ord", Action: blueprint.See, Extent: blueprint.Where, Condition: `hours > 5 and status <> "Done"`},
		&blueprint.SetPermission{Role: "r_own", Table: "ord", Action: blueprint.See, Extent: blueprint.Where, Condition: "boat.owner = me"},
		&blueprint.SetPermission{Role: "r_own", Table: "boat", Action: blueprint.See, Extent: blueprint.Where, Condition: "owner = me"},
		&blueprint.SetPermission{Role: "r_own", Table: "ent", Action: blueprint.See, Extent: blueprint.AllRecords},
		&blueprint.SetPermission{Role: "r_own", Table: "part", Action: blueprint.See, Extent: blueprint.AllRecords},
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
	if w.app, err = w.a.Apply(ctx, w.app.ID, "Ann", shape()...); err != nil {
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
			fmt.Sprintf("INSERT INTO %sboats (id, name, owner%s) SELECT %s, 'Boat ' || n, %s%s FROM generate_series(1, %d) n", prefix, cols, id(2, "n"), id(1, fmt.Sprintf("1 + n * 7 %% %d", w.owners)), vals, w.boats),
			fmt.Sprintf("INSERT INTO %sorders (id, name, boat, status, due, hours, price%s) SELECT %s, 'Order ' || n, %s, 's' || n %% 4, date '2024-01-01' + n %% 900, n %% 40, (n * 37) %% 5000 / 100.0%s FROM generate_series(1, %d) n", prefix, cols, id(3, "n"), id(2, fmt.Sprintf("1 + n * 13 %% %d", w.boats)), vals, w.orders),
			fmt.Sprintf("INSERT INTO %sentries (id, name, \"order\", hours%s) SELECT %s, 'Entry', %s, n %% 9%s FROM generate_series(1, %d) n", prefix, cols, id(4, "n"), id(3, fmt.Sprintf("1 + n * 3 %% %d", w.orders)), vals, w.entries),
			fmt.Sprintf("INSERT INTO %sparts (id, name, \"order\"%s) SELECT %s, 'Part', %s%s FROM generate_series(1, %d) n", prefix, cols, id(5, "n"), id(3, fmt.Sprintf("1 + n * 11 %% %d", w.orders)), vals, w.parts),
		}
	}
	// the twin's tables have the columns that every GORM model has
	statements := append(fill(schema+".", "x"), `CREATE SCHEMA twin`,
		`CREATE TABLE twin.owners (id uuid PRIMARY KEY, name text, e_mail text, created_at timestamptz NOT NULL DEFAULT now(), updated_at timestamptz NOT NULL DEFAULT now(), deleted_at timestamptz)`,
		`CREATE TABLE twin.boats (id uuid PRIMARY KEY, name text, owner uuid REFERENCES twin.owners, created_at timestamptz NOT NULL DEFAULT now(), updated_at timestamptz NOT NULL DEFAULT now(), deleted_at timestamptz)`,
		`CREATE TABLE twin.orders (id uuid PRIMARY KEY, name text, boat uuid REFERENCES twin.boats, status text, due date, hours numeric, price numeric, created_at timestamptz NOT NULL DEFAULT now(), updated_at timestamptz NOT NULL DEFAULT now(), deleted_at timestamptz)`,
		`CREATE TABLE twin.entries (id uuid PRIMARY KEY, name text, "order" uuid REFERENCES twin.orders, hours numeric, created_at timestamptz NOT NULL DEFAULT now(), updated_at timestamptz NOT NULL DEFAULT now(), deleted_at timestamptz)`,
		`CREATE TABLE twin.parts (id uuid PRIMARY KEY, name text, "order" uuid REFERENCES twin.orders, created_at timestamptz NOT NULL DEFAULT now(), updated_at timestamptz NOT NULL DEFAULT now(), deleted_at timestamptz)`,
		`CREATE INDEX ON twin.boats (owner)`, `CREATE INDEX ON twin.orders (boat)`, `CREATE INDEX ON twin.entries ("order")`, `CREATE INDEX ON twin.parts ("order")`)
	statements = append(append(statements, fill("twin.", "")...), "ANALYZE")
	for _, sql := range statements {
		if _, err := w.s.Pool.Exec(ctx, sql); err != nil {
			return fmt.Errorf("fill (%.60s): %w", sql, err)
		}
	}
	return w.s.Pool.QueryRow(ctx, "SELECT owner::text FROM twin.boats b JOIN twin.orders o ON o.boat = b.id GROUP BY owner ORDER BY count(*) DESC LIMIT 1").Scan(&w.me)
}

// seat is that of the owner.
func (w *world) seat() *records.Seat {
	s := apps.FounderSeat(w.app, apps.Draft, w.b, "bench")
	s.Viewer = access.Viewer{Memberships: []access.Membership{{Role: "r_own", Record: w.me}}, Name: "Owner"}
	return s
}

func newID() string { return uuid.Must(uuid.NewV7()).String() }
