// Package seats tells as whom an app is seen.
package seats

import (
	"context"
	"strings"
	"time"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
	"pinegate/store/records"
)

// Names of those as whom an app can be seen: founder, visitor, role.ID, and
// person.ROLE.RECORD; with live. before them, with the live records.
const (
	Founder = "founder"
	Visitor = "visitor"
	live    = "live."
)

// Split tells which environment a name means, and whom in it.
func Split(as string) (apps.Environment, string) {
	if who, is := strings.CutPrefix(as, live); is {
		return apps.Live, who
	}
	return apps.Draft, as
}

// As gives the seat of a builder in an app, seen as the one named.
func As(ctx context.Context, a *apps.Apps, app store.App, builder, as string) (*records.Seat, error) {
	env, who := Split(as)
	b, err := a.Blueprint(ctx, app, env)
	if err != nil {
		return nil, err
	}
	seat := apps.FounderSeat(app, env, b, builder)
	parts := strings.Split(who, ".")
	switch {
	case (who == Founder || who == "") && env == apps.Draft:
	case who == Visitor:
		seat.Viewer = access.Visitor()
	case parts[0] == "role" && len(parts) == 2 && b.Role(parts[1]) != nil:
		seat.Viewer = access.Viewer{Memberships: []access.Membership{{Role: parts[1]}}}
		seat.Homes = anyones(b.Role(parts[1]))
	case parts[0] == "person" && len(parts) == 3 && blueprint.IsRecordID(parts[2]):
		id, err := a.Road(ctx).Person(ctx, seat, parts[1], parts[2])
		if err != nil {
			return nil, err
		}
		seat.Viewer, seat.Homes = id.Viewer, id.Homes
	default:
		return nil, store.ErrNotFound
	}
	if !seat.Viewer.Founder {
		seat.By = builder + " as " + Name(b, seat.Viewer)
	}
	return seat, nil
}

// Draft is [As] for what only looks at the draft.
func Draft(ctx context.Context, a *apps.Apps, app store.App, builder, as string) (*records.Seat, error) {
	if env, _ := Split(as); env != apps.Draft {
		return nil, store.ErrNotFound
	}
	return As(ctx, a, app, builder, as)
}

// anyones lists where people of a role land whoever they are.
func anyones(r *blueprint.Role) []string {
	for _, h := range r.Homes {
		if h.When == "" {
			return []string{h.Page}
		}
	}
	return nil
}

// Name says who a viewer is: their name, or that of their role.
func Name(b *blueprint.Blueprint, v access.Viewer) string {
	if v.Name != "" {
		return v.Name
	}
	return RoleName(b, v)
}

// RoleName gives the name of the viewer's first role.
func RoleName(b *blueprint.Blueprint, v access.Viewer) string {
	for _, id := range v.Roles() {
		if r := b.Role(id); r != nil {
			return r.Name
		}
	}
	return ""
}

// Empty gives the seat of a visitor of the live app.
func Empty(ctx context.Context, a *apps.Apps, app store.App) (*records.Seat, error) {
	b, err := a.Blueprint(ctx, app, apps.Live)
	if err != nil {
		return nil, err
	}
	return &records.Seat{Schema: apps.SchemaName(app, apps.Live), Blueprint: b, Catalog: b.Catalog(), Viewer: access.Visitor(),
		By: "a visitor", Clock: expr.Clock{Now: time.Now(), Zone: b.Location()}}, nil
}

// Live gives the seat in the live app of whoever's session it is: who that is
// now is looked up each time. Without a session, or one in which signing in is
// not done, it is a visitor's.
func Live(ctx context.Context, a *apps.Apps, app store.App, s *accounts.Session) (*records.Seat, error) {
	seat, err := Empty(ctx, a, app)
	if err != nil || s == nil || s.State != accounts.In {
		return seat, err
	}
	id, err := Identify(ctx, a.Road(ctx), seat, s)
	if err == nil && id.In() {
		seat.Viewer, seat.By, seat.Homes = id.Viewer, id.Viewer.Name, id.Homes
	}
	return seat, err
}

// Identify finds who has a session now.
func Identify(ctx context.Context, road records.Road, seat *records.Seat, s *accounts.Session) (records.Identity, error) {
	if s.RecordID == "" {
		return road.PeopleWith(ctx, seat, s.Email)
	}
	id, err := road.PersonAt(ctx, seat, s.PeopleTable, s.RecordID)
	if err == nil && !strings.EqualFold(id.Email, s.Email) { // the record is another person's by now
		return records.Identity{Viewer: access.Visitor()}, nil
	}
	return id, err
}
