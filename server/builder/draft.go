package builder

import (
	"context"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/core/draft"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/apps"
)

// PageProposal offers pages that come of tables, for roles.
type PageProposal struct {
	Pages []draft.Page `json:"pages"`
}

// PagesTaken says which of the pages that are offered are to be made.
type PagesTaken struct {
	Tables []string `json:"tables" maxItems:"500" doc:"Ids"`
	Roles  []string `json:"roles" maxItems:"200"`
	Take   []string `json:"take" maxItems:"5000" doc:"Ids of the pages that are offered for these"`
}

func (h *Handlers) registerDraft(api huma.API) {
	appRoute(h, api, store.Viewer, http.MethodGet, "/pages/proposal", "Pages that are offered for tables and roles",
		func(ctx context.Context, r request, in struct {
			Own
			Tables string `query:"tables" maxLength:"20000" doc:"Ids, with commas between"`
			Roles  string `query:"roles" maxLength:"10000"`
		}) (*output[PageProposal], error) {
			b, err := h.Apps.Blueprint(ctx, r.app, apps.Draft)
			if err != nil {
				return nil, err
			}
			found, err := draft.Pages(b, strings.Split(in.Tables, ","), strings.Split(in.Roles, ","))
			return out(PageProposal{Pages: append([]draft.Page{}, found...)}), err
		})
	appRoute(h, api, store.Editor, http.MethodPost, "/pages/proposal", "Make pages that are offered",
		func(ctx context.Context, r request, in struct {
			Own
			Body PagesTaken
		}) (*output[Revised], error) {
			b, err := h.Apps.Blueprint(ctx, r.app, apps.Draft)
			if err != nil {
				return nil, err
			}
			changes, gone, err := draft.Changes(b, in.Body.Tables, in.Body.Roles, in.Body.Take, apps.NewID)
			if err != nil {
				return nil, err
			}
			if len(gone) > 0 || len(changes) == 0 {
				return nil, words.New("pages-gone")
			}
			app, err := h.Acts.Apply(ctx, r.app.ID, r.builder.Name, changes...)
			if err != nil {
				return nil, err
			}
			return out(Revised{Revision: app.Revision, Sentences: []string{}, Added: []string{}}), nil
		})
}
