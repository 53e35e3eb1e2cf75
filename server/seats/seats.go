// Package seats tells as whom an app is seen.
package seats

import (
	"context"
	"strings"
	"time"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/form"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/records"
)

// Names of those as whom an app can be seen: founder, visitor, role.ID, and
// person.ROLE.RECORD.
const (
	Founder = "founder"
	Visitor = "visitor"
)

// Draft gives the seat of a builder in the draft of an app, seen as the one
// named.
func Draft(ctx context.Context, a *apps.Apps, app store.App, builder, as string) (*records.Seat, error) {
	b, err := a.Blueprint(ctx, app, apps.Draft)
	if err != nil {
		return nil, err
	}
	seat := apps.FounderSeat(app, apps.Draft, b, builder)
	parts := strings.Split(as, ".")
	switch {
	case as == Founder || as == "":
	case as == Visitor:
		seat.Viewer = access.Visitor()
	case parts[0] == "role" && len(parts) == 2 && b.Role(parts[1]) != nil:
		seat.Viewer = access.Viewer{Memberships: []access.Membership{{Role: parts[1]}}}
	case parts[0] == "person" && len(parts) == 3 && form.IsRecordID(parts[2]):
		if seat.Viewer, err = a.Road(ctx).Person(ctx, seat, parts[1], parts[2]); err != nil {
			return nil, err
		}
	default:
		return nil, store.ErrNotFound
	}
	if !seat.Viewer.Founder {
		seat.By = builder + " as " + name(b, seat.Viewer)
	}
	return seat, nil
}

func name(b *blueprint.Blueprint, v access.Viewer) string {
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

// Live gives the seat in the live app of whoever is signed in with the e-mail
// address, or of a visitor for "".
func Live(ctx context.Context, a *apps.Apps, app store.App, email string) (*records.Seat, error) {
	b, err := a.Blueprint(ctx, app, apps.Live)
	if err != nil {
		return nil, err
	}
	seat := &records.Seat{Schema: apps.SchemaName(app, apps.Live), Blueprint: b, Catalog: b.Catalog(), Viewer: access.Visitor(), By: "a visitor", Clock: expr.Clock{Now: time.Now(), Zone: b.Location()}}
	if email == "" {
		return seat, nil
	}
	v, found, err := a.Road(ctx).PeopleWith(ctx, seat, email)
	if err != nil || !found {
		return seat, err
	}
	seat.Viewer, seat.By = v, v.Name
	return seat, nil
}
