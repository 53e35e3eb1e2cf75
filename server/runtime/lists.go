package runtime

import (
	"context"
	"fmt"
	"net/http"
	"net/url"
	"slices"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/app/act"
	"pinegate/app/imports"
	"pinegate/app/page"
	"pinegate/core/blueprint"
	"pinegate/core/query"
	"pinegate/core/words"
	"pinegate/server/reply"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/records"
)

type listInput struct {
	PageInput
	Block  string `path:"block"`
	After  string `query:"after" doc:"What stands behind the last row that was read"`
	Column string `query:"column" maxLength:"100" doc:"The choice whose cards are meant, on a board"`
}

type behindInput struct {
	PageInput
	Block  string   `path:"block"`
	Groups []string `query:"group,explode" maxItems:"1" doc:"The key of a group of a chart, empty for those without a value"`
	Parts  []string `query:"part,explode" maxItems:"1" doc:"The key of a part of that"`
	Others bool     `query:"others" doc:"Of no group that is shown"`
}

type optionsInput struct {
	PageInput
	Block  string `path:"block"`
	Field  string `path:"field"`
	Search string `query:"search" maxLength:"200"`
}

type exportInput struct {
	PageInput
	Block  string `path:"block"`
	Format string `query:"format" enum:"csv,xlsx" default:"csv"`
}

type rowInput struct {
	Block  string `path:"block"`
	Record string `path:"record"`
	Body   RowSent
}

// RowSent is what a browser sends to change a record where it stands in a list.
type RowSent struct {
	Path     string         `json:"path"`
	Record   string         `json:"record,omitempty" doc:"That the page is about"`
	Revision int            `json:"revision"`
	Values   records.Values `json:"values"`
}

// RowChanged is the answer to a change of a record.
type RowChanged struct {
	Revision int `json:"revision" doc:"Of the record, as it is now"`
}

// OptionList is the answer to a search for records to link to.
type OptionList struct {
	Options []page.RecordOption `json:"options"`
	More    bool                `json:"more"`
}

func (h *Handlers) registerLists(api huma.API) {
	handle(h, api, http.MethodGet, "/lists/{block}", "Rows of a list", h.list)
	handle(h, api, http.MethodGet, "/figures/{block}", "Records of which a figure, or a group of a chart, is made", h.behind)
	handle(h, api, http.MethodGet, "/services/{block}", "What a service answers that a block shows", h.answer)
	handle(h, api, http.MethodGet, "/options/{block}/{field}", "Records to link to, or to filter by", h.options)
	handle(h, api, http.MethodPost, "/badges/{block}", "Give somebody the badge of a figure, where its targets are reached", h.award)
	handle(h, api, http.MethodPost, "/timers/{block}", "Start, pause or stop a timer", h.time)
	handle(h, api, http.MethodPost, "/checklists/{block}/ticks", "Tick something off on a checklist", h.tick)
	handle(h, api, http.MethodPost, "/checklists/{block}", "Begin a checklist", h.begin)
	handle(h, api, http.MethodPost, "/lists/{block}/rows/{record}", "Change a record where it stands", h.changeRow)
	huma.Register(api, huma.Operation{OperationID: "export-list", Method: http.MethodGet, Path: "/lists/{block}/file",
		Summary: "What a list shows, as a file"}, h.export)
}

// view finds the page for the path, with what is asked of its blocks. Of an address that
// is broken, that which can be read is taken.
func (p *Place) view(ctx context.Context, a *apps.Apps, in PageInput) (*page.View, error) {
	v, err := p.open(ctx, a, in.Path, in.Record)
	if err != nil {
		return nil, err
	}
	asks, err := url.ParseQuery(in.View)
	v.Asks, v.Unread = page.Asks(asks), err != nil
	return v, nil
}

// shownList finds a list on a page.
func (h *Handlers) shownList(ctx context.Context, p *Place, in PageInput, block string) (*page.View, *blueprint.RecordsBlock, error) {
	v, err := p.view(ctx, h.Apps, in)
	if err != nil {
		return nil, nil, err
	}
	return page.At[*blueprint.RecordsBlock](v, block)
}

func (h *Handlers) list(ctx context.Context, p *Place, in *listInput) (*output[page.Records], error) {
	v, x, err := h.shownList(ctx, p, in.PageInput, in.Block)
	if err != nil {
		return nil, err
	}
	out, err := v.More(ctx, x, in.After, in.Column)
	if err != nil {
		return nil, err
	}
	return &output[page.Records]{*out}, nil
}

func (h *Handlers) behind(ctx context.Context, p *Place, in *behindInput) (*output[page.Behind], error) {
	v, err := p.view(ctx, h.Apps, in.PageInput)
	if err != nil {
		return nil, err
	}
	first := func(list []string) *string {
		if len(list) == 0 {
			return nil
		}
		return &list[0]
	}
	out, err := v.Behind(ctx, in.Block, page.Piece{Group: first(in.Groups), Part: first(in.Parts), Others: in.Others})
	if err != nil {
		return nil, err
	}
	return &output[page.Behind]{*out}, nil
}

func (h *Handlers) options(ctx context.Context, p *Place, in *optionsInput) (*output[OptionList], error) {
	v, err := p.open(ctx, h.Apps, in.Path, in.Record)
	if err != nil {
		return nil, err
	}
	target, err := v.Offers(in.Block, in.Field)
	if err != nil {
		return nil, err
	}
	options, more, err := page.Options(ctx, v.Road, p.Seat, target, in.Search)
	if err != nil {
		return nil, err
	}
	return &output[OptionList]{OptionList{options, more}}, nil
}

// changeRow changes fields of a record where it stands, in a list or in details, as the rules
// let whoever looks.
func (h *Handlers) changeRow(ctx context.Context, p *Place, in *rowInput) (*output[RowChanged], error) {
	if err := p.writable(); err != nil {
		return nil, err
	}
	v, err := p.open(ctx, h.Apps, in.Body.Path, in.Body.Record)
	if err != nil {
		return nil, err
	}
	t, changed, err := v.Changes(in.Block, in.Record)
	if err != nil {
		return nil, err
	}
	for id := range in.Body.Values {
		if !slices.Contains(changed, id) {
			return nil, words.New("no-such-column")
		}
	}
	if !blueprint.IsRecordID(in.Record) {
		return nil, store.ErrNotFound
	}
	if h.Gate != nil {
		if err := h.Gate.AllowForm(ctx, p.App, p.From, p.person()); err != nil {
			return nil, err
		}
	}
	sentence := words.Say("row-changed", words.Args{"table": t.Name})
	_, err = h.Acts.Edit(ctx, p.App, p.Seat, sentence, func(u *act.Unit) (*records.Write, error) {
		return u.Road.Change(ctx, p.Seat, t, in.Record, in.Body.Revision, in.Body.Values, nil)
	})
	if err != nil {
		return nil, err
	}
	return &output[RowChanged]{RowChanged{in.Body.Revision + 1}}, nil // each change of a record counts one further
}

// export answers with all that a list shows, as a file.
func (h *Handlers) export(ctx context.Context, in *exportInput) (*huma.StreamResponse, error) {
	p := h.Place(ctx)
	v, x, err := h.shownList(ctx, p, in.PageInput, in.Block)
	if err != nil {
		return nil, reply.Error(ctx, h.Apps.Moved(ctx, p.App, err))
	}
	if !x.Export {
		return nil, reply.Error(ctx, store.ErrNotFound)
	}
	q, err := v.Selection(ctx, x)
	if err == nil && len(q.Columns) == 0 {
		err = store.ErrNotFound
	}
	if err != nil {
		return nil, reply.Error(ctx, err)
	}
	return Export(h.Apps.Road(ctx), p.Seat, imports.Kind(in.Format), v.Page.Path, []query.Selection{*q}), nil
}

// Export answers with records as a file of a kind, whose name is given without its
// ending.
func Export(road records.Road, seat *records.Seat, kind imports.Kind, name string, lists []query.Selection) *huma.StreamResponse {
	return &huma.StreamResponse{Body: func(hc huma.Context) {
		Attach(hc, name+"."+string(kind), kind.MIME())
		if err := imports.Export(hc.Context(), road, seat, kind, lists, hc.BodyWriter()); err != nil {
			// the answer has begun: cutting it off is how the browser hears of it
			_ = reply.Error(hc.Context(), err)
			panic(http.ErrAbortHandler)
		}
	}}
}

// Attach says of an answer that it is a file with a name.
func Attach(hc huma.Context, name, kind string) {
	hc.SetHeader("Content-Type", kind)
	hc.SetHeader("Content-Disposition", fmt.Sprintf("attachment; filename=%q", name))
}
