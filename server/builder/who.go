package builder

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/app/why"
	"pinegate/core/blueprint"
	"pinegate/core/query"
	"pinegate/server/seats"
	"pinegate/store"
	"pinegate/store/apps"
)

// WhoSees tells, role by role, who sees a record.
type WhoSees struct {
	Roles []why.RoleSees `json:"roles"`
}

// SeenTable tells how many records of a table somebody sees, of how many.
type SeenTable struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	Seen int    `json:"seen"`
	All  int    `json:"all"`
}

// Sees tells what somebody sees of each table.
type Sees struct {
	Tables []SeenTable `json:"tables"`
}

func (h *Handlers) registerWho(api huma.API) {
	appRoute(h, api, store.Viewer, http.MethodGet, "/tables/{table}/records/{record}/who", "Who sees a record, and by which rule",
		func(ctx context.Context, r request, in recordInput) (*output[WhoSees], error) {
			if !blueprint.IsRecordID(in.Record) {
				return nil, store.ErrNotFound
			}
			b, err := h.Apps.Blueprint(ctx, r.app, apps.Draft)
			if err != nil {
				return nil, err
			}
			founder := apps.FounderSeat(r.app, apps.Draft, b, r.builder.Name)
			roles, err := why.WhoSees(ctx, h.Apps.Road(ctx), founder, in.Table, in.Record)
			return out(WhoSees{roles}), err
		})
	appRoute(h, api, store.Viewer, http.MethodGet, "/sees", "How many records of each table somebody sees",
		func(ctx context.Context, r request, in struct {
			Own
			As string `query:"as"`
		}) (*output[Sees], error) {
			seat, err := seats.Draft(ctx, h.Apps, r.app, r.builder.Name, in.As)
			if err != nil {
				return nil, err
			}
			all := Sees{Tables: []SeenTable{}}
			founder := apps.FounderSeat(r.app, apps.Draft, seat.Blueprint, r.builder.Name)
			road := h.Apps.Road(ctx)
			for i := range seat.Blueprint.Tables {
				t := &seat.Blueprint.Tables[i]
				seen, err := road.Count(ctx, seat, query.Selection{Table: t})
				if err != nil {
					return nil, err
				}
				n, err := road.Count(ctx, founder, query.Selection{Table: t})
				if err != nil {
					return nil, err
				}
				all.Tables = append(all.Tables, SeenTable{t.ID, t.Name, seen, n})
			}
			return out(all), nil
		})
}
