package builder

import (
	"context"
	"encoding/csv"
	"fmt"
	"io"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/app/imports"
	"pinegate/core/blueprint"
	"pinegate/core/intake"
	"pinegate/core/query"
	"pinegate/server/runtime"
	"pinegate/server/seats"
	"pinegate/store"
)

// Uploaded names a file that was received.
type Uploaded struct {
	ID string `json:"id"`
}

// Uploads are files that belong together.
type Uploads struct {
	Uploads []string `json:"uploads" minItems:"1" maxItems:"20"`
	// Turned are the sheets, by their number, whose first row names the columns though it does not seem so, or does not though
	// it does.
	Turned []int `json:"turned,omitempty" maxItems:"1000" uniqueItems:"true"`
}

// Bring is an import that is to be run.
type Bring struct {
	Uploads  []string        `json:"uploads" minItems:"1" maxItems:"20"`
	Proposal intake.Proposal `json:"proposal"`
}

// ImportInput is the path of an import.
type ImportInput struct {
	Own
	Import string `path:"import"`
}

type importInput = ImportInput

func (h *Handlers) registerImports(api huma.API) {
	appRoute(h, api, store.Editor, http.MethodPost, "/imports/propose", "What files seem to hold",
		func(ctx context.Context, r request, in struct {
			Own
			Body Uploads
		}) (*output[intake.Proposal], error) {
			if err := areIDs(in.Body.Uploads...); err != nil {
				return nil, err
			}
			p, err := h.Imports.Propose(ctx, r.app, in.Body.Uploads, in.Body.Turned...)
			if err != nil {
				return nil, err
			}
			return out(*p), nil
		})
	appRoute(h, api, store.Editor, http.MethodPost, "/imports/tally", "What would come of a proposal",
		func(ctx context.Context, r request, in struct {
			Own
			Body Bring
		}) (*output[intake.Tally], error) {
			if err := areIDs(in.Body.Uploads...); err != nil {
				return nil, err
			}
			t, err := h.Imports.Tally(ctx, r.app, in.Body.Uploads, &in.Body.Proposal)
			if err != nil {
				return nil, err
			}
			return out(*t), nil
		})
	appRoute(h, api, store.Editor, http.MethodPost, "/imports", "Bring files", func(ctx context.Context, r request, in struct {
		Own
		Body Bring
	}) (*output[Uploaded], error) {
		if err := areIDs(in.Body.Uploads...); err != nil {
			return nil, err
		}
		id, err := h.Imports.Start(ctx, h.Jobs, r.app, r.builder.Name, in.Body.Uploads, &in.Body.Proposal)
		return out(Uploaded{id}), err
	})
	appRoute(h, api, store.Viewer, http.MethodGet, "/imports/{import}", "How an import stands",
		func(ctx context.Context, r request, in importInput) (*output[imports.Status], error) {
			if err := areIDs(in.Import); err != nil {
				return nil, err
			}
			status, err := h.Imports.Status(ctx, r.app.ID, in.Import)
			return out(status), err
		})
	appRoute(h, api, store.Editor, http.MethodDelete, "/imports/{import}", "Stop an import",
		func(ctx context.Context, r request, in importInput) (*struct{}, error) {
			if err := areIDs(in.Import); err != nil {
				return nil, err
			}
			return nil, h.Imports.Cancel(ctx, r.app.ID, in.Import)
		})
	h.registerAside(api)
	appRoute(h, api, store.Viewer, http.MethodGet, "/export", "Records as a file", h.export)
}

func areIDs(list ...string) error {
	for _, id := range list {
		if !blueprint.IsRecordID(id) {
			return store.ErrNotFound
		}
	}
	return nil
}

// Upload receives a file, as it is, in the body of a request.
func (h *Handlers) Upload(ctx context.Context, app, name string, body io.Reader) (string, error) {
	r, err := h.own(ctx, app)
	if err != nil {
		return "", err
	}
	if name = strings.TrimSpace(name); name == "" || len(name) > 200 {
		name = "records.csv"
	}
	return h.Imports.Upload(ctx, r.app, name, body)
}

// mostAside is how many rows that were kept aside a file holds.
const mostAside = 10_000

// asideFile gives the rows that were kept aside, to be mended and brought again.
// The last two columns say where they stood and what is wrong.
func (h *Handlers) asideFile(ctx context.Context, r request, in importInput) (*huma.StreamResponse, error) {
	if err := areIDs(in.Import); err != nil {
		return nil, err
	}
	aside, err := h.Imports.Aside(ctx, r.app.ID, in.Import, mostAside)
	if err != nil {
		return nil, err
	}
	return &huma.StreamResponse{Body: func(hc huma.Context) {
		runtime.Attach(hc, "kept-aside.csv", "text/csv; charset=utf-8")
		w := csv.NewWriter(hc.BodyWriter())
		last := -1
		for _, row := range aside.Rows {
			if row.Sheet != last {
				last = row.Sheet
				_ = w.Write(append(aside.Sheets[last].Headers, "Row in the file", "What is wrong")) // told by Flush
			}
			_ = w.Write(append(row.Cells, fmt.Sprint(row.Row), row.Reason)) // told by Flush
		}
		w.Flush()
		if err := w.Error(); err != nil {
			panic(http.ErrAbortHandler) // cutting the answer off is how the browser hears of it
		}
	}}, nil
}

// Leftovers lists imports with rows that are kept aside.
type Leftovers struct {
	Imports []imports.Leftover `json:"imports"`
}

// MendedRows are rows that were kept aside, as they are now.
type MendedRows struct {
	Rows []imports.MendedRow `json:"rows" maxItems:"500"`
}

// Retried tells how many of the rows became records.
type Retried struct {
	Done int `json:"done"`
}

// Dropped are rows that are no longer to be kept aside.
type Dropped struct {
	Rows []int64 `json:"rows" maxItems:"10000"`
}

func (h *Handlers) registerAside(api huma.API) {
	appRoute(h, api, store.Viewer, http.MethodGet, "/imports/{import}/aside", "Rows that could not be read, as CSV", h.asideFile)
	appRoute(h, api, store.Viewer, http.MethodGet, "/leftovers", "Imports with rows that are kept aside",
		func(ctx context.Context, r request, _ Own) (*output[Leftovers], error) {
			list, err := h.Imports.Leftovers(ctx, r.app.ID)
			return out(Leftovers{list}), err
		})
	appRoute(h, api, store.Viewer, http.MethodGet, "/leftovers/{import}", "Rows that could not be read",
		func(ctx context.Context, r request, in importInput) (*output[imports.Aside], error) {
			if err := areIDs(in.Import); err != nil {
				return nil, err
			}
			aside, err := h.Imports.Aside(ctx, r.app.ID, in.Import, imports.MostMended)
			if err != nil {
				return nil, err
			}
			return out(*aside), nil
		})
	appRoute(h, api, store.Editor, http.MethodPost, "/leftovers/{import}/retry", "Bring rows that were kept aside",
		func(ctx context.Context, r request, in struct {
			ImportInput
			Body MendedRows
		}) (*output[Retried], error) {
			if err := areIDs(in.Import); err != nil {
				return nil, err
			}
			n, err := h.Imports.Retry(ctx, r.app, r.builder.Name, in.Import, in.Body.Rows)
			return out(Retried{n}), err
		})
	appRoute(h, api, store.Editor, http.MethodPost, "/leftovers/{import}/drop", "Forget rows that were kept aside",
		func(ctx context.Context, r request, in struct {
			ImportInput
			Body Dropped
		}) (*struct{}, error) {
			if err := areIDs(in.Import); err != nil {
				return nil, err
			}
			return nil, h.Imports.Drop(ctx, r.app.ID, in.Import, in.Body.Rows)
		})
}

func (h *Handlers) export(ctx context.Context, r request, in struct {
	Own
	Table  string `query:"table" doc:"Id of a table, or nothing for all"`
	As     string `query:"as"`
	Format string `query:"format" enum:"csv,xlsx,json" default:"csv"`
	Sort   string `query:"sort" maxLength:"300"`
	Search string `query:"search" maxLength:"200"`
	Filter string `query:"filter" maxLength:"10000"`
}) (*huma.StreamResponse, error) {
	seat, err := seats.Draft(ctx, h.Apps, r.app, r.builder.Name, in.As)
	if err != nil {
		return nil, err
	}
	var lists []query.Selection
	for i := range seat.Blueprint.Tables {
		t := &seat.Blueprint.Tables[i]
		if in.Table != "" && t.ID != in.Table {
			continue
		}
		w := Wanted{}
		if in.Table != "" {
			w.Sort, w.Search, w.Filter = in.Sort, in.Search, in.Filter
		}
		l, err := w.list(seat, t)
		if err != nil {
			return nil, err
		}
		if len(l.Columns) > 0 {
			lists = append(lists, l)
		}
	}
	if len(lists) == 0 || in.Format == "csv" && len(lists) != 1 {
		return nil, store.ErrNotFound
	}
	name := r.app.Slug
	if in.Table != "" {
		name = lists[0].Table.Key
	}
	return runtime.Export(h.Apps.Road(ctx), seat, imports.Kind(in.Format), name, lists), nil
}
