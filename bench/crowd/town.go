package main

import (
	"context"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"

	"pinegate/app/publish"
	"pinegate/core/blueprint"
	"pinegate/core/query"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
)

// town is many small apps, each published, with people who use them.
type town struct {
	s    *store.Store
	a    *apps.Apps
	acc  *accounts.Accounts
	apps []house
}

// house is one of the apps, in a workspace of its own.
type house struct {
	app     store.App
	email   string   // of its founder
	founder string   // their session
	people  []string // sessions of its people
}

// password is every founder's.
const password = "kettle-and-keel-9"

// shape is the small app: members, their bookings, and a page on which they see
// theirs and add one.
func shape() (*blueprint.Blueprint, error) {
	b, err := blueprint.Apply(blueprint.New("Rowing club", apps.NewID),
		blueprint.Adding("table", "", "mem", "name", "Members", "fields", []blueprint.Values{
			blueprint.Vals("id", "m_name", "name", "Name", "type", blueprint.Text),
			blueprint.Vals("id", "m_mail", "name", "Email", "type", blueprint.Email)}),
		blueprint.Adding("table", "", "book", "name", "Bookings", "fields", []blueprint.Values{
			blueprint.Vals("id", "b_title", "name", "Title", "type", blueprint.Text),
			blueprint.Vals("id", "b_day", "name", "Day", "type", blueprint.Date),
			blueprint.Vals("id", "b_fee", "name", "Fee", "type", blueprint.Money)}),
		blueprint.Adding("field", "book", "b_mem", "name", "Member", "type", blueprint.Link, "target", "mem", "back", "Bookings",
			"backId", "m_books"),
		blueprint.Adding("role", "", "r", "name", "Members", "people", "mem"),
		blueprint.Permit("r", "book", "see", blueprint.Permission{Extent: blueprint.Where, Condition: "member = me"},
			"add", blueprint.Permission{Extent: blueprint.Where, Condition: "member = me"},
			"given", []map[string]string{{"field": "b_mem", "value": "me"}}),
		blueprint.Permit("r", "mem", "see", blueprint.Permission{Extent: blueprint.AllRecords}))
	if err != nil {
		return nil, err
	}
	kind := func(id, k string) blueprint.BlockHead { return blueprint.BlockHead{ID: id, Kind: k} }
	b.Pages = append(b.Pages, blueprint.Page{ID: "home", Path: "home", Name: "Bookings", Audience: blueprint.SomeRole,
		Roles: []string{"r"},
		Blocks: []blueprint.Block{
			&blueprint.HeadingBlock{BlockHead: kind("home_a", "heading"), Text: "Hello {{ me.name }}"},
			&blueprint.RecordsBlock{BlockHead: kind("home_b", "records"), Table: "book", Columns: []string{"b_title", "b_day", "b_fee"},
				Sort: "b_day", Falling: true}}})
	adding := blueprint.Adding("block", "home", "home_c", "kind", "form", "table", "book", "fields",
		[]map[string]any{{"field": "b_title", "required": true}, {"field": "b_day"}})
	return blueprint.Apply(b, append([]blueprint.Change{adding}, following()...)...)
}

// following adds a page whose form follows its answers: whose bookings can be chosen, what is asked
// besides, and a rule about the title.
func following() []blueprint.Change {
	return []blueprint.Change{
		blueprint.Adding("field", "book", "b_after", "name", "After", "type", blueprint.Link, "target", "book"),
		blueprint.Adding("page", "", "ask", "name", "Ask"),
		blueprint.Adding("block", "ask", "ask_f", "kind", "form", "table", "book", "fields",
			[]map[string]any{{"field": "b_title", "required": true}, {"field": "b_day"}}),
		blueprint.Adding("block", "ask_f", "ask_w", "kind", "ask", "name", "Whose", "type", "link", "target", "mem"),
		blueprint.Adding("block", "ask_f", "ask_a", "kind", "question", "field", "b_after", "narrow",
			"member = answers.whose and CONTAINS(title, answers.title)"),
		blueprint.Adding("block", "ask_f", "ask_n", "kind", "ask", "name", "Nights", "type", "number", "when", `answers.day <> ""`,
			"rules", []map[string]string{{"holds": "answers.nights > 0", "says": "At least one."}}),
	}
}

// peopleEach is how many people an app has.
const peopleEach = 20

// build makes the apps.
func build(ctx context.Context, s *store.Store, n int) (*town, error) {
	t := &town{s: s, a: apps.New(s), acc: accounts.New(s)}
	b, err := shape()
	if err != nil {
		return nil, err
	}
	first, err := t.acc.AddBuilder(ctx, founder(0), "Founder", password)
	if err != nil {
		return nil, err
	}
	for i := range n {
		if i > 0 { // with the same password, which is costly to hash
			id := uuid.NewString()
			for _, sql := range []string{
				"INSERT INTO builders (id, email, name, password, confirmed_at) SELECT '" + id + "', '" + founder(i) + "', name, password, now() FROM builders WHERE id = '" + first.ID + "'",
				"INSERT INTO workspaces (id, name) VALUES ('" + id + "', 'Club')",
				"INSERT INTO members (workspace_id, builder_id, role) VALUES ('" + id + "', '" + id + "', 'owner')",
			} {
				if _, err := s.Pool.Exec(ctx, sql); err != nil {
					return nil, fmt.Errorf("add a founder: %w", err)
				}
			}
			first.ID = id
		}
		h, err := t.house(ctx, first.ID, b)
		if err != nil {
			return nil, err
		}
		h.email = founder(i)
		t.apps = append(t.apps, h)
	}
	_, err = s.Pool.Exec(ctx, "ANALYZE")
	return t, err
}

func founder(i int) string { return fmt.Sprintf("founder-%d@club.example", i) }

// bookings is how many an app has.
const bookings = 400

func (t *town) house(ctx context.Context, workspace string, b *blueprint.Blueprint) (h house, err error) {
	if h.app, err = t.a.Create(ctx, workspace, "Founder", b); err != nil {
		return h, err
	}
	draft := query.Quote(apps.SchemaName(h.app, apps.Draft))
	for _, sql := range []string{
		fmt.Sprintf(`INSERT INTO %s.members (id, name, email, created_by, changed_by) SELECT ('018f0000-0000-7001-8000-' || lpad(n::text, 12, '0'))::uuid,
			'Member ' || n, 'member-' || n || '@club.example', 'x', 'x' FROM generate_series(1, %d) n`, draft, peopleEach),
		fmt.Sprintf(`INSERT INTO %s.bookings (id, title, day, fee, member, created_by, changed_by) SELECT gen_random_uuid(), 'Boat ' || n,
			date '2026-01-01' + n %% 300, n %% 40, ('018f0000-0000-7001-8000-' || lpad((1 + n %% %d)::text, 12, '0'))::uuid, 'x', 'x'
			FROM generate_series(1, %d) n`, draft, peopleEach, bookings),
	} {
		if _, err := t.s.Pool.Exec(ctx, sql); err != nil {
			return h, fmt.Errorf("fill an app: %w", err)
		}
	}
	if _, err := publish.Do(ctx, t.a, h.app.ID, "Founder", publish.Publication{Revision: h.app.Revision,
		BringRecords: true}); err != nil {
		return h, err
	}
	h.app.LiveVersion = 1
	return h, nil
}

// letIn starts sessions for people and the founder of an app.
func (t *town) letIn(ctx context.Context, h *house, people int) error {
	for n := len(h.people); n < people; n++ {
		token, err := t.acc.SignInPerson(ctx, accounts.Person{App: h.app.ID, Email: member(n)}, accounts.In, accounts.Stay{Hours: 12})
		if err != nil {
			return err
		}
		h.people = append(h.people, token)
	}
	return nil
}

func member(n int) string { return fmt.Sprintf("member-%d@club.example", 1+n%peopleEach) }

// rows is a file of so many bookings.
func rows(n int) string {
	var b strings.Builder
	b.WriteString("Crew,Launched on,Distance,Kind,Remark\n")
	day := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)
	for i := range n {
		fmt.Fprintf(&b, "Crew %d,%s,%d.%d,%s,Remark number %d\n", i, day.AddDate(0, 0, i%300).Format(time.DateOnly), i%30, i%10,
			[]string{"Race", "Training", "Tour"}[i%3], i)
	}
	return b.String()
}
