package builder

import (
	"context"
	"encoding/json"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/app/page"
	"pinegate/app/publish"
	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/apps"
)

// AppOut is an app as the builder shows it all the time.
type AppOut struct {
	ID          string           `json:"id"`
	Slug        string           `json:"slug"`
	Name        string           `json:"name"`
	Revision    int              `json:"revision"`
	LiveVersion int              `json:"liveVersion"`
	Member      store.MemberRole `json:"member"`      // what the builder is here
	Unpublished int              `json:"unpublished"` // differences between draft and live
	Newest      int64            `json:"newest"`      // id of the newest activity that holds, 0 for none
	CanUndo     bool             `json:"canUndo"`
	CanRedo     bool             `json:"canRedo"`
	Tables      []TableOut       `json:"tables"`
	Roles       []RoleOut        `json:"roles"`
	Pages       []PageOut        `json:"pages"`
	Workflows   []WorkflowOut    `json:"workflows"`
}

// TableOut is a table with its fields.
type TableOut struct {
	ID     string     `json:"id"`
	Name   string     `json:"name"`
	Word   string     `json:"word" doc:"What one of its records is called, with its article"`
	Fields []FieldOut `json:"fields"`
}

// FieldOut is a field as the grid needs it.
type FieldOut struct {
	page.Column
	Key      string `json:"key"`
	Required bool   `json:"required"`
	Target   string `json:"target,omitempty"`
	// OtherSide tells that links only show the other side of a link.
	OtherSide bool `json:"otherSide,omitempty"`
	// SortColumns are the columns of a choice's list by which it can be sorted.
	SortColumns []page.RecordOption `json:"sortColumns,omitempty"`
}

// RoleOut is a role, with the color number that marks what is seen as it.
type RoleOut struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	Colour int    `json:"colour"`
	People bool   `json:"people"` // there is a table of its people
}

// PageOut is a page in short.
type PageOut struct {
	ID     string `json:"id"`
	Path   string `json:"path"`
	Name   string `json:"name"`
	Record string `json:"record,omitempty"` // id of the table of its record
}

// Changes are changes that belong together.
type Changes struct {
	Changes []json.RawMessage `json:"changes" maxItems:"200"`
}

// Revised tells what became of a request to change the draft.
type Revised struct {
	Revision  int      `json:"revision"`
	Sentences []string `json:"sentences"`
	Added     []string `json:"added"` // ids of the things that were added
}

// ActivityOut is a line in the list of changes.
type ActivityOut struct {
	ID        int64     `json:"id"`
	At        time.Time `json:"at"`
	By        string    `json:"by"`
	Sentences []string  `json:"sentences"`
	Undone    bool      `json:"undone"`
}

// Verdict says whether an expression can be used, what it gives, and what names
// it could use.
type Verdict struct {
	Error   string              `json:"error,omitempty"`
	Start   int                 `json:"start"`
	End     int                 `json:"end"`
	Type    string              `json:"type,omitempty"` // in words
	Names   []NameHelp          `json:"names"`
	Calls   []expr.FunctionHelp `json:"calls"`
	Results []page.Row          `json:"results"`         // label and value of some records
	Plain   *expr.Group         `json:"plain,omitempty"` // a condition as comparisons, where it is no more
}

// NameHelp is a name that an expression can use.
type NameHelp struct {
	Name    string   `json:"name"`
	Help    string   `json:"help"`
	Label   string   `json:"label,omitempty"` // of a field
	Kind    string   `json:"kind,omitempty"`  // of a field's values
	Choices []string `json:"choices,omitempty"`
}

const maxColours = 8

func (h *Handlers) registerBlueprint(api huma.API) {
	appRoute(h, api, store.Viewer, http.MethodGet, "", "An app", h.app)
	h.registerScript(api)
	appRoute(h, api, store.Editor, http.MethodPost, "/changes", "Change the app", h.change)
	appRoute(h, api, store.Viewer, http.MethodPost, "/effects", "What a change would do besides what it says",
		func(ctx context.Context, r request, in struct {
			Own
			Body struct {
				Change json.RawMessage `json:"change"`
			}
		}) (*output[publish.Effects], error) {
			c, err := blueprint.DecodeChange(in.Body.Change, apps.NewID)
			if err != nil {
				return nil, err
			}
			effects, err := publish.EffectsOf(ctx, h.Apps, r.app, c)
			return out(effects), err
		})
	appRoute(h, api, store.Editor, http.MethodPost, "/undo", "Undo", func(ctx context.Context, r request, _ Own) (*output[Revised], error) {
		said, err := h.Acts.Undo(ctx, r.app.ID, r.builder.Name)
		return out(Revised{Sentences: said, Added: []string{}}), err
	})
	appRoute(h, api, store.Editor, http.MethodPost, "/discard", "Take back what one did since an activity",
		func(ctx context.Context, r request, in struct {
			Own
			Body struct {
				Since int64 `json:"since" minimum:"0" doc:"Id of the newest activity that is to hold"`
			}
		}) (*output[Revised], error) {
			said, err := h.Acts.Discard(ctx, r.app.ID, r.builder.Name, in.Body.Since)
			return out(Revised{Sentences: said, Added: []string{}}), err
		})
	appRoute(h, api, store.Editor, http.MethodPost, "/redo", "Redo", func(ctx context.Context, r request, _ Own) (*output[Revised], error) {
		said, err := h.Acts.Redo(ctx, r.app.ID, r.builder.Name)
		return out(Revised{Sentences: said, Added: []string{}}), err
	})
	appRoute(h, api, store.Viewer, http.MethodGet, "/history", "What was done to the draft", h.history)
	appRoute(h, api, store.Viewer, http.MethodPost, "/expression", "Check an expression", h.expression)
	appRoute(h, api, store.Viewer, http.MethodGet, "/access", "Who may do what", h.access)
	appRoute(h, api, store.Owner, http.MethodGet, "/mails", "Mail that the app sent",
		func(ctx context.Context, r request, _ Own) (*output[[]MailOut], error) {
			return h.mails(ctx, r.app.ID)
		})
}

func (h *Handlers) app(ctx context.Context, r request, _ Own) (*output[AppOut], error) {
	b, err := h.Apps.Blueprint(ctx, r.app, apps.Draft)
	if err != nil {
		return nil, err
	}
	catalog := b.Catalog()
	o := AppOut{ID: r.app.ID, Slug: r.app.Slug, Name: r.app.Name, Revision: r.app.Revision, LiveVersion: r.app.LiveVersion,
		Member: r.app.Member, Tables: []TableOut{}, Roles: []RoleOut{}, Pages: []PageOut{}}
	walk, err := h.Apps.CanWalk(ctx, r.app.ID)
	if err != nil {
		return nil, err
	}
	o.Newest, o.CanUndo, o.CanRedo = walk.Newest, walk.Newest > 0, walk.Redo
	summary, err := h.Apps.Summary(ctx, r.app)
	if err != nil {
		return nil, err
	}
	o.Unpublished = summary.Unpublished
	for i := range b.Tables {
		t := TableOut{ID: b.Tables[i].ID, Name: b.Tables[i].Name, Word: words.An(b.Tables[i].OneWord()), Fields: []FieldOut{}}
		for _, f := range b.Tables[i].Fields {
			field := FieldOut{Column: page.ColumnOf(b, catalog, &b.Tables[i], &f), Key: f.Key, Required: f.Required, Target: f.Target,
				OtherSide: f.Of != ""}
			for _, c := range b.SortColumns(&f) {
				field.SortColumns = append(field.SortColumns, page.RecordOption{ID: c.ID, Label: c.Name})
			}
			t.Fields = append(t.Fields, field)
		}
		o.Tables = append(o.Tables, t)
	}
	for i, role := range b.Roles {
		o.Roles = append(o.Roles, RoleOut{role.ID, role.Name, i % maxColours, role.People != ""})
	}
	o.Workflows = workflowsOut(b)
	for _, p := range b.Pages {
		o.Pages = append(o.Pages, PageOut{p.ID, p.Path, p.Name, p.Record})
	}
	return out(o), nil
}

func (h *Handlers) change(ctx context.Context, r request, in struct {
	Own
	Body Changes
}) (*output[Revised], error) {
	var changes []blueprint.Change
	added := []string{}
	for _, raw := range in.Body.Changes {
		c, err := blueprint.DecodeChange(raw, apps.NewID)
		if err != nil {
			return nil, err
		}
		changes = append(changes, c)
		if add, ok := c.(*blueprint.AddThing); ok {
			added = append(added, add.Adds())
		}
	}
	app, err := h.Acts.Apply(ctx, r.app.ID, r.builder.Name, changes...)
	if err != nil {
		return nil, err
	}
	return out(Revised{Revision: app.Revision, Sentences: []string{}, Added: added}), nil
}

const activitiesShown = 200

func (h *Handlers) history(ctx context.Context, r request, _ Own) (*output[[]ActivityOut], error) {
	list, err := h.Apps.History(ctx, r.app.ID, activitiesShown)
	if err != nil {
		return nil, err
	}
	all := []ActivityOut{}
	for _, a := range list {
		undone := a.Status == store.Undone || a.Status == store.Dropped && (a.BeforeRevision != nil || a.AfterRevision == nil)
		all = append(all, ActivityOut{a.ID, a.MadeAt, a.MadeBy, a.Sentences, undone})
	}
	deeds := make([]deed, len(list))
	for i, a := range list {
		deeds[i] = deed{&all[i].By, a.MadeByID}
	}
	return out(all), h.today(ctx, deeds)
}

// AccessTable says for each role and table how far each action reaches.
type AccessTable struct {
	Roles  []RoleOut    `json:"roles"`
	Tables []AccessRow  `json:"tables"`
	Pages  []AccessPage `json:"pages"`
}

// AccessRow is a table with a cell for each role.
type AccessRow struct {
	ID    string       `json:"id"`
	Name  string       `json:"name"`
	Cells []AccessCell `json:"cells"`
}

// AccessCell says how far a role's actions reach: none, own, where or all.
type AccessCell struct {
	See    string `json:"see"`
	Add    string `json:"add"`
	Change string `json:"change"`
	Delete string `json:"delete"`
	Line   string `json:"line"` // id of the sentence
}

// AccessPage says which roles may open a page.
type AccessPage struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	Open []bool `json:"open"`
}

// reachOf says how far an action of a rule reaches; own where it depends on who
// is signed in.
func reachOf(b *blueprint.Blueprint, r *blueprint.Role, rule blueprint.Rule, a blueprint.Action) string {
	switch e := rule.Permission(a).Extent; e {
	case "":
		return string(blueprint.NoRecords)
	case blueprint.Where:
		if c, err := b.Condition(r, rule.Table, a, b.Catalog()); err == nil && c.UsesMe {
			return "own"
		}
		return string(e)
	default:
		return string(e)
	}
}

func (h *Handlers) access(ctx context.Context, r request, _ Own) (*output[AccessTable], error) {
	b, err := h.Apps.Blueprint(ctx, r.app, apps.Draft)
	if err != nil {
		return nil, err
	}
	o := AccessTable{Roles: []RoleOut{}, Tables: []AccessRow{}, Pages: []AccessPage{}}
	for i, role := range b.Roles {
		o.Roles = append(o.Roles, RoleOut{role.ID, role.Name, i % maxColours, role.People != ""})
	}
	for _, t := range b.Tables {
		row := AccessRow{ID: t.ID, Name: t.Name, Cells: []AccessCell{}}
		for _, role := range b.Roles {
			rule := role.Rule(t.ID)
			reach := func(a blueprint.Action) string { return reachOf(b, &role, rule, a) }
			row.Cells = append(row.Cells, AccessCell{reach(blueprint.See), reach(blueprint.Add), reach(blueprint.Modify),
				reach(blueprint.Delete), blueprint.RuleID(role.ID, t.ID)})
		}
		o.Tables = append(o.Tables, row)
	}
	for i := range b.Pages {
		p := AccessPage{ID: b.Pages[i].ID, Name: b.Pages[i].Name, Open: []bool{}}
		for _, role := range b.Roles {
			p.Open = append(p.Open, access.Viewer{Memberships: []access.Membership{{Role: role.ID}}}.MayOpen(&b.Pages[i]))
		}
		o.Pages = append(o.Pages, p)
	}
	return out(o), nil
}
