package builder

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/app/act"
	"pinegate/app/page"
	"pinegate/core/blueprint"
	"pinegate/core/words"
	"pinegate/server/runtime"
	"pinegate/server/seats"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/records"
)

// OfTable is the path of a table of an own app, seen as somebody.
type OfTable struct {
	Own
	Table string `path:"table"`
	As    string `query:"as" doc:"As whom the records are seen"`
}

// Grid is a run of records of a table.
type Grid struct {
	Columns []string   `json:"columns"` // ids of the fields that are seen
	Rows    []page.Row `json:"rows"`
	Next    string     `json:"next"`
	Total   int        `json:"total"`
	Sees    string     `json:"sees"` // in a sentence, which records are seen
}

// Entry is what is entered for a record.
type Entry struct {
	Revision int            `json:"revision,omitempty"`
	Values   records.Values `json:"values"`
}

// Written is the record after a write, as it is seen.
type Written struct {
	Row page.Row `json:"row"`
}

// People are persons as whom an app can be seen.
type People struct {
	People []page.RecordOption `json:"people"`
	More   bool                `json:"more"`
}

type entryInput struct {
	OfTable
	Body Entry
}

// RecordInput is the path of a record; as an id that is none could not be there
// either, it is answered like one that is not.
type RecordInput struct {
	OfTable
	Record   string `path:"record"`
	Revision int    `query:"revision"`
}

type recordInput = RecordInput

type recordEntry struct {
	OfTable
	Record string `path:"record"`
	Body   Entry
}

const gridPage = 100

func (h *Handlers) registerRecords(api huma.API) {
	appRoute(h, api, store.Viewer, http.MethodGet, "/tables/{table}/records", "Records of a table", h.grid)
	appRoute(h, api, store.Editor, http.MethodPost, "/tables/{table}/records", "Add a record", h.add)
	appRoute(h, api, store.Editor, http.MethodPatch, "/tables/{table}/records/{record}", "Change a record", h.edit)
	appRoute(h, api, store.Editor, http.MethodDelete, "/tables/{table}/records/{record}", "Delete a record", h.remove)
	appRoute(h, api, store.Viewer, http.MethodGet, "/tables/{table}/options", "Records to link to", h.options)
	appRoute(h, api, store.Editor, http.MethodPost, "/tables/{table}/named", "Add a record by its name", h.named)
	appRoute(h, api, store.Viewer, http.MethodGet, "/tables/{table}/totals", "Totals of records", h.totals)
	appRoute(h, api, store.Editor, http.MethodPost, "/tables/{table}/bulk", "Write several records, all or none", h.bulk)
	appRoute(h, api, store.Viewer, http.MethodGet, "/tables/{table}/bin", "Deleted records", h.bin)
	appRoute(h, api, store.Editor, http.MethodDelete, "/tables/{table}/bin", "Delete what is in the bin for good", h.emptyBin)
	appRoute(h, api, store.Viewer, http.MethodGet, "/tables/{table}/records/{record}", "A record", h.record)
	appRoute(h, api, store.Editor, http.MethodPost, "/tables/{table}/records/{record}/restore", "Bring a record back from the bin",
		h.restore)
	appRoute(h, api, store.Viewer, http.MethodGet, "/tables/{table}/records/{record}/history", "What was written to a record", h.past)
	appRoute(h, api, store.Editor, http.MethodPost, "/tables/{table}/records/{record}/bring-back",
		"Bring back an earlier state of a record", h.bringBack)
	appRoute(h, api, store.Viewer, http.MethodGet, "/people", "Persons of a role", h.people)
}

// seated gives the table in the seat of the one as whom it is seen.
func (h *Handlers) seated(ctx context.Context, r request, in OfTable) (*records.Seat, *blueprint.Table, error) {
	seat, err := seats.Draft(ctx, h.Apps, r.app, r.builder.Name, in.As)
	if err != nil {
		return nil, nil, err
	}
	t := seat.Blueprint.Table(in.Table)
	if t == nil {
		return nil, nil, store.ErrNotFound
	}
	return seat, t, nil
}

func whoSees(seat *records.Seat, t *blueprint.Table) string {
	if seat.Viewer.Founder {
		return words.Say("sees-founder", nil)
	}
	args := words.Args{"role": seats.RoleName(seat.Blueprint, seat.Viewer), "table": t.Name}
	for _, id := range seat.Viewer.Roles() {
		switch seat.Blueprint.Role(id).Rule(t.ID).See.Extent {
		case blueprint.AllRecords:
			return words.Say("sees-all", args)
		case blueprint.Where:
			return words.Say("sees-where", args)
		}
	}
	return words.Say("sees-none", args)
}

func (h *Handlers) add(ctx context.Context, r request, in entryInput) (*output[Written], error) {
	return h.write(ctx, r, in.OfTable, "did-add-one", func(road records.Road, seat *records.Seat, t *blueprint.Table) (*records.Write,
		error) {
		return road.Add(ctx, seat, t, in.Body.Values, nil)
	})
}

func (h *Handlers) edit(ctx context.Context, r request, in recordEntry) (*output[Written], error) {
	return h.write(ctx, r, in.OfTable, "did-change-one", func(road records.Road, seat *records.Seat, t *blueprint.Table) (*records.Write,
		error) {
		if !blueprint.IsRecordID(in.Record) {
			return nil, store.ErrNotFound
		}
		return road.Change(ctx, seat, t, in.Record, in.Body.Revision, in.Body.Values, nil)
	})
}

func (h *Handlers) remove(ctx context.Context, r request, in recordInput) (*struct{}, error) {
	_, err := h.write(ctx, r, in.OfTable, "did-delete-one", func(road records.Road, seat *records.Seat, t *blueprint.Table) (*records.Write,
		error) {
		if !blueprint.IsRecordID(in.Record) {
			return nil, store.ErrNotFound
		}
		return road.Delete(ctx, seat, t, in.Record, in.Revision)
	})
	return nil, err
}

func (h *Handlers) write(ctx context.Context, r request, in OfTable, what string,
	do func(records.Road, *records.Seat, *blueprint.Table) (*records.Write, error)) (*output[Written], error) {
	seat, t, err := h.seated(ctx, r, in)
	if err != nil {
		return nil, err
	}
	w, err := h.Acts.Edit(ctx, r.app, seat, words.Say(what, words.Args{"table": t.Name}), func(u *act.Unit) (*records.Write, error) {
		return do(u.Road, seat, t)
	})
	if err != nil {
		return nil, err
	}
	o := Written{Row: page.Row{}}
	if w.After == nil {
		return out(o), nil
	}
	row, err := h.Apps.Road(ctx).Get(ctx, seat, t, w.Record)
	if err != nil {
		return nil, err
	}
	rows, err := page.Rows([]records.Row{row})
	if err != nil {
		return nil, err
	}
	o.Row = rows[0]
	return out(o), nil
}

func (h *Handlers) options(ctx context.Context, r request, in struct {
	OfTable
	Search string `query:"search" maxLength:"200"`
	Live   bool   `query:"live" doc:"Those of the live app"`
}) (*output[runtime.OptionList], error) {
	seat, t, err := h.seated(ctx, r, in.OfTable)
	if in.Live && err == nil {
		seat, t, err = h.liveTable(ctx, r, in.Table)
	}
	if err != nil {
		return nil, err
	}
	options, more, err := page.Options(ctx, h.Apps.Road(ctx), seat, t, in.Search)
	return out(runtime.OptionList{Options: options, More: more}), err
}

// liveTable gives the seat of an owner of the workspace at the records of the live app.
func (h *Handlers) liveTable(ctx context.Context, r request, table string) (*records.Seat, *blueprint.Table, error) {
	if !r.app.Member.May(store.Owner) { // they are people's records
		return nil, nil, errLevel(store.Owner)
	}
	b, err := h.Apps.Blueprint(ctx, r.app, apps.Live)
	if err != nil {
		return nil, nil, err
	}
	t := b.Table(table)
	if t == nil {
		return nil, nil, store.ErrNotFound
	}
	return apps.FounderSeat(r.app, apps.Live, b, r.builder.Name), t, nil
}

func (h *Handlers) people(ctx context.Context, r request, in struct {
	Own
	Role   string `query:"role"`
	Search string `query:"search" maxLength:"200"`
	Live   bool   `query:"live" doc:"Those of the live app"`
}) (*output[People], error) {
	env := apps.Draft
	if in.Live {
		env = apps.Live
		if !r.app.Member.May(store.Editor) {
			return nil, errLevel(store.Editor)
		}
	}
	b, err := h.Apps.Blueprint(ctx, r.app, env)
	if err != nil {
		return nil, err
	}
	role := b.Role(in.Role)
	if role == nil || b.Table(role.People) == nil {
		return nil, store.ErrNotFound
	}
	seat := apps.FounderSeat(r.app, env, b, r.builder.Name)
	have, err := b.OfPerson(role, role.Where, seat.Catalog)
	if err != nil {
		return nil, err
	}
	if in.Live {
		if err := h.noteLook(ctx, r, "people "+role.ID, words.Say("team-looked-people", words.Args{"people": role.Name})); err != nil {
			return nil, err
		}
	}
	options, more, err := page.OptionsWhere(ctx, h.Apps.Road(ctx), seat, b.Table(role.People), in.Search, have)
	return out(People{options, more}), err
}
