package builder

import (
	"context"
	"errors"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/app/page"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/sentence"
	"pinegate/server/runtime"
	"pinegate/server/seats"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/records"
)

// Expression is an expression that is being written.
type Expression struct {
	Source string         `json:"source" maxLength:"20000"`
	Scope  sentence.Scope `json:"scope"`
	As     string         `json:"as,omitempty"` // as whom its results are seen
}

func (h *Handlers) expression(ctx context.Context, r request, in struct {
	Own
	Body Expression
}) (*output[Verdict], error) {
	seat, err := seats.Draft(ctx, h.Apps, r.app, r.builder.Name, in.Body.As)
	if err != nil {
		return nil, err
	}
	b := seat.Blueprint
	scope := expr.Scope{Catalog: seat.Catalog, Row: in.Body.Scope.Row, Inner: in.Body.Scope.Inner, Me: in.Body.Scope.Me,
		Page: in.Body.Scope.Page, Kept: in.Body.Scope.Kept, Vars: b.VarsOf(in.Body.Scope.Part),
		Answers: b.AnswersAt(in.Body.Scope.Answers, in.Body.Scope.Own, seat.Catalog)}
	if in.Body.Scope.Flow != "" {
		var there bool
		if scope, there = b.FlowScope(in.Body.Scope.Flow, in.Body.Scope.In, in.Body.Scope.Inner); !there {
			return nil, store.ErrNotFound
		}
	}
	v := Verdict{Names: names(seat.Catalog, scope), Calls: expr.Functions(), Results: []page.Row{}}
	checked, err := checkAs(in.Body.Source, in.Body.Scope.Want, scope)
	var e *expr.Error
	if errors.As(err, &e) {
		v.Error, v.Start, v.End = e.Error(), e.At.Start, e.At.End
		return out(v), nil
	}
	if err != nil || checked == nil {
		return out(v), err
	}
	v.Type = expr.Describe(scope, checked.Type())
	if plain, ok := expr.Plain(checked, seat.Catalog); ok && in.Body.Scope.Want == prop.WantCondition && scope.Inner == "" {
		v.Plain = plain
	}
	t := b.Table(scope.Row)
	given := scope.Vars != nil || scope.Answers != nil || scope.Made != nil || scope.Was != nil || len(checked.Kept()) > 0
	if t == nil || scope.Inner != "" || checked.UsesMe || scope.Page != "" || given {
		return out(v), nil
	}
	v.Results, err = h.results(ctx, seat, t, checked)
	return out(v), err
}

// resultsShown is for how many records the result of an expression is shown
// while it is written, and resultsTime how long that may take.
const (
	resultsShown = 3
	resultsTime  = 2 * time.Second
)

func (h *Handlers) results(ctx context.Context, seat *records.Seat, t *blueprint.Table, checked *expr.Checked) ([]page.Row, error) {
	ctx, cancel := context.WithTimeout(ctx, resultsTime)
	defer cancel()
	raw, err := h.Apps.Road(ctx).Preview(ctx, seat, t, checked, resultsShown)
	if errors.Is(ctx.Err(), context.DeadlineExceeded) {
		return []page.Row{}, nil // too slow to be shown while somebody types
	}
	if err != nil {
		return nil, err
	}
	return page.Rows(raw)
}

func checkAs(source string, want string, scope expr.Scope) (*expr.Checked, error) {
	switch {
	case want == prop.WantTemplate:
		_, err := expr.CheckTemplate(source, scope)
		return nil, err
	case source == "":
		return nil, nil
	case want == prop.WantCondition:
		return expr.CheckCondition(source, scope)
	}
	return expr.Check(source, scope)
}

// names lists what can be named in the scope: fields, and those of the
// signed-in person and the page's record.
func names(c *expr.Catalog, scope expr.Scope) []NameHelp {
	all := []NameHelp{}
	add := func(prefix, table string) {
		t := c.Tables[table]
		if t == nil {
			return
		}
		for _, f := range t.Fields {
			all = append(all, nameOf(c, scope, prefix, f))
			if target := c.Tables[f.Type.Table]; target != nil && prefix == "" {
				for _, g := range target.Fields {
					all = append(all, nameOf(c, scope, f.Key+".", g))
				}
			}
			if l := c.Lists[f.Type.List]; l != nil && prefix == "" && !f.Type.Many {
				for _, col := range l.Columns {
					all = append(all, NameHelp{Name: f.Key + "." + col.Key, Help: col.Name + " of the choice"})
				}
				for _, ch := range l.Choices {
					all = append(all, NameHelp{Name: `"` + ch.Label + `"`, Help: "a choice of " + f.Name})
				}
			}
		}
	}
	if scope.Inner != "" {
		add("", scope.Inner)
		add("this.", scope.Row)
	} else {
		add("", scope.Row)
	}
	if scope.Me != "" {
		all = append(all, NameHelp{Name: "me", Help: "the signed-in person"})
		add("me.", scope.Me)
	}
	if scope.Me == expr.PersonTable {
		all = append(all, NameHelp{Name: "me.name", Help: "the signed-in person’s name"},
			NameHelp{Name: "me.email", Help: "the signed-in person’s email"})
	}
	for _, given := range []*expr.Table{c.Kept, scope.Vars, scope.Answers, scope.Was, scope.Made} {
		if given == nil || given == c.Kept && !scope.Kept {
			continue
		}
		for _, f := range given.Fields {
			all = append(all, nameOf(c, scope, given.Key+".", f))
			if target := c.Tables[f.Type.Table]; target != nil && given == scope.Made && !f.Type.Many {
				for _, g := range target.Fields {
					all = append(all, nameOf(c, scope, given.Key+"."+f.Key+".", g))
				}
			}
		}
	}
	if scope.Page != "" {
		all = append(all, NameHelp{Name: "page.record", Help: "the record that the page is about"})
		add("page.record.", scope.Page)
	}
	return all
}

// nameOf tells of a field that can be named, with its choices.
func nameOf(c *expr.Catalog, scope expr.Scope, prefix string, f *expr.Field) NameHelp {
	n := NameHelp{Name: prefix + f.Key, Help: f.Name + ", " + expr.Describe(scope, f.Type), Label: f.Name, Kind: string(f.Type.Kind)}
	if f.Type.Many {
		n.Kind = "list"
	}
	if l := c.Lists[f.Type.List]; l != nil {
		for _, ch := range l.Choices {
			n.Choices = append(n.Choices, ch.Label)
		}
	}
	return n
}

type watchInput struct {
	Own
	runtime.Watching
}

// events tells, as server-sent events, which tables of the draft are written.
// They say nothing of what was written, so that whoever hears one reads anew
// by their own rules.
func (h *Handlers) events(ctx context.Context, r request, in watchInput) (*huma.StreamResponse, error) {
	return &huma.StreamResponse{Body: func(hc huma.Context) {
		runtime.Stream(hc, h.Live, apps.SchemaName(r.app, apps.Draft), in.Watching, func(table string) bool { return true })
	}}, nil
}

func (h *Handlers) registerEvents(api huma.API) {
	appRoute(h, api, store.Viewer, http.MethodGet, "/events", "What is written while one looks", h.events)
}
