package builder

import (
	"context"
	"errors"
	"strings"

	"pinegate/app/act"
	"pinegate/app/page"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/records"
)

// Wanted says which records of a table are asked for.
type Wanted struct {
	OfTable
	Sort   string `query:"sort" maxLength:"300" doc:"Ids of fields parted by commas; - before one for falling"`
	Search string `query:"search" maxLength:"200"`
	Filter string `query:"filter" maxLength:"10000" doc:"A condition over the record"`
}

// list gives the query for the records wanted, with the columns that the person
// sees.
func (w Wanted) list(seat *records.Seat, t *blueprint.Table) (query.Selection, error) {
	q := query.Selection{Table: t, Search: w.Search}
	for _, f := range t.Fields {
		sees, err := seat.Sees(t.ID, f.ID)
		if err != nil {
			return q, err
		}
		if sees {
			q.Columns = append(q.Columns, f.ID)
		}
	}
	if w.Sort != "" {
		for _, by := range strings.Split(w.Sort, ",") {
			id, falling := strings.CutPrefix(by, "-")
			sort := query.SortBy(id, falling)
			if !contains(q.Columns, sort.Field) || !seat.Blueprint.Sorts(t, id) {
				return q, words.New("grid-sort")
			}
			q.Sorts = append(q.Sorts, sort)
		}
	}
	if strings.TrimSpace(w.Filter) == "" {
		return q, nil
	}
	c, err := expr.CheckCondition(w.Filter, expr.Scope{Catalog: seat.Catalog, Row: t.ID})
	var e *expr.Error
	if errors.As(err, &e) {
		return q, words.New("grid-condition", "error", e.Error()).With(e)
	}
	q.Filter = c
	return q, err
}

func contains(list []string, x string) bool {
	for _, y := range list {
		if x == y {
			return true
		}
	}
	return false
}

// wanted gives the query for the records wanted, in the seat of the one as whom
// they are seen.
func (h *Handlers) wanted(ctx context.Context, r request, w Wanted) (*records.Seat, query.Selection, error) {
	seat, t, err := h.seated(ctx, r, w.OfTable)
	if err != nil {
		return nil, query.Selection{}, err
	}
	q, err := w.list(seat, t)
	return seat, q, err
}

func (h *Handlers) grid(ctx context.Context, r request, in struct {
	Wanted
	After string `query:"after"`
}) (*output[Grid], error) {
	seat, q, err := h.wanted(ctx, r, in.Wanted)
	if err != nil {
		return nil, err
	}
	o := Grid{Columns: append([]string{}, q.Columns...), Sees: whoSees(seat, q.Table), Total: -1}
	if in.After == "" { // counted once, for the first rows
		if o.Total, err = h.Apps.Road(ctx).Count(ctx, seat, q); err != nil {
			return nil, err
		}
	}
	q.After, q.Limit = in.After, gridPage
	raw, next, err := h.Apps.Road(ctx).List(ctx, seat, q)
	if err != nil {
		return nil, err
	}
	o.Next = next
	o.Rows, err = page.Rows(raw)
	return out(o), err
}

// TotalsOut are the totals of records, for each group.
type TotalsOut struct {
	Groups []page.Row `json:"groups"`
}

func (h *Handlers) totals(ctx context.Context, r request, in struct {
	Wanted
	Group string `query:"group"`
}) (*output[TotalsOut], error) {
	seat, q, err := h.wanted(ctx, r, in.Wanted)
	if err != nil {
		return nil, err
	}
	q.Sorts = nil
	want := query.Totals{Selection: q, Group: in.Group}
	if in.Group != "" && !contains(q.Columns, in.Group) {
		return nil, words.New("grid-group")
	}
	for _, f := range seat.Catalog.Tables[q.Table.ID].Fields {
		if contains(q.Columns, f.ID) && f.Type == (expr.Type{Kind: expr.Number}) {
			want.Sums = append(want.Sums, f.ID)
		}
	}
	raw, err := h.Apps.Road(ctx).Totals(ctx, seat, want)
	if err != nil {
		return nil, err
	}
	rows, err := page.Rows(raw)
	return out(TotalsOut{rows}), err
}

// Edits are writes that are made together or not at all.
type Edits struct {
	Edits []records.Edit `json:"edits" maxItems:"5000"`
	What  string         `json:"what" enum:"change,paste,fill,clear,delete" doc:"What was done, for the list of changes"`
}

// BulkOut tells what several writes did, or what is wrong with them.
type BulkOut struct {
	Done  int               `json:"done"`
	Wrong []records.Mistake `json:"wrong"`
}

func (h *Handlers) bulk(ctx context.Context, r request, in struct {
	OfTable
	Body Edits
}) (*output[BulkOut], error) {
	seat, t, err := h.seated(ctx, r, in.OfTable)
	if err != nil {
		return nil, err
	}
	o := BulkOut{Wrong: []records.Mistake{}}
	err = h.Acts.EditMany(ctx, r.app, seat, func(u *act.Unit) ([]*records.Write, string, error) {
		writes, err := u.Road.Bulk(ctx, seat, t, in.Body.Edits)
		o.Done = len(writes)
		return writes, words.Say("did-"+in.Body.verb(), words.Args{"n": len(writes), "table": t.Name}), err
	})
	var wrong records.BulkErrors
	if errors.As(err, &wrong) {
		o.Done, o.Wrong = 0, wrong
		return out(o), nil
	}
	return out(o), err
}

func (e Edits) verb() string {
	if e.What == "" {
		return "change"
	}
	return e.What
}

// Bin lists deleted records.
type Bin struct {
	Rows []page.Row `json:"rows"`
	More bool       `json:"more"`
}

func (h *Handlers) bin(ctx context.Context, r request, in OfTable) (*output[Bin], error) {
	seat, t, err := h.seated(ctx, r, in)
	if err != nil {
		return nil, err
	}
	if !seat.Viewer.Founder {
		return nil, records.ErrForbidden
	}
	raw, next, err := h.Apps.Road(ctx).List(ctx, seat, query.Selection{Table: t, Bin: true, Limit: gridPage, Columns: nil})
	if err != nil {
		return nil, err
	}
	rows, err := page.Rows(raw)
	return out(Bin{rows, next != ""}), err
}

func (h *Handlers) restore(ctx context.Context, r request, in recordInput) (*output[Written], error) {
	return h.write(ctx, r, in.OfTable, "did-restore-one", func(road records.Road, seat *records.Seat, t *blueprint.Table) (*records.Write,
		error) {
		if !blueprint.IsRecordID(in.Record) {
			return nil, store.ErrNotFound
		}
		return road.Restore(ctx, seat, t, in.Record)
	})
}

func (h *Handlers) emptyBin(ctx context.Context, r request, in OfTable) (*output[BulkOut], error) {
	seat, t, err := h.seated(ctx, r, in)
	if err != nil {
		return nil, err
	}
	n, err := h.Acts.EmptyBin(ctx, r.app, seat, t)
	return out(BulkOut{Done: n, Wrong: []records.Mistake{}}), err
}

// Past is what was written to a record.
type Past struct {
	Versions []records.Version `json:"versions"`
}

func (h *Handlers) past(ctx context.Context, r request, in recordInput) (*output[Past], error) {
	seat, t, err := h.seated(ctx, r, in.OfTable)
	if err != nil {
		return nil, err
	}
	if !blueprint.IsRecordID(in.Record) {
		return nil, store.ErrNotFound
	}
	versions, err := h.Apps.Road(ctx).History(ctx, seat, t, in.Record)
	if err != nil {
		return nil, err
	}
	deeds := make([]deed, len(versions))
	for i := range versions {
		deeds[i] = deed{&versions[i].MadeBy, versions[i].ByID}
	}
	return out(Past{versions}), h.today(ctx, deeds)
}

func (h *Handlers) bringBack(ctx context.Context, r request, in struct {
	RecordInput
	Body struct {
		Version  int64 `json:"version"`
		Revision int   `json:"revision"`
	}
}) (*output[Written], error) {
	return h.write(ctx, r, in.OfTable, "did-bring-back", func(road records.Road, seat *records.Seat, t *blueprint.Table) (*records.Write,
		error) {
		if !blueprint.IsRecordID(in.Record) {
			return nil, store.ErrNotFound
		}
		return road.BringBack(ctx, seat, t, in.Record, in.Body.Revision, in.Body.Version)
	})
}

func (h *Handlers) record(ctx context.Context, r request, in recordInput) (*output[Written], error) {
	seat, t, err := h.seated(ctx, r, in.OfTable)
	if err != nil {
		return nil, err
	}
	if !blueprint.IsRecordID(in.Record) {
		return nil, store.ErrNotFound
	}
	row, err := h.Apps.Road(ctx).Get(ctx, seat, t, in.Record)
	if err != nil {
		return nil, err
	}
	rows, err := page.Rows([]records.Row{row})
	if err != nil {
		return nil, err
	}
	return out(Written{rows[0]}), nil
}

func (h *Handlers) named(ctx context.Context, r request, in struct {
	OfTable
	Body struct {
		Name string `json:"name" minLength:"1" maxLength:"200"`
	}
}) (*output[Written], error) {
	return h.write(ctx, r, in.OfTable, "did-add-one", func(road records.Road, seat *records.Seat, t *blueprint.Table) (*records.Write,
		error) {
		return road.AddNamed(ctx, seat, t, in.Body.Name)
	})
}
