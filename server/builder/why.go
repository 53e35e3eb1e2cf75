package builder

import (
	"context"
	"encoding/json"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/app/why"
	"pinegate/core/blueprint"
	"pinegate/core/sentence"
	"pinegate/core/words"
	"pinegate/server/seats"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/records"
)

// RuleProposal offers rules for a role.
type RuleProposal struct {
	Rules []ProposedRule `json:"rules"`
}

// ProposedRule is a rule that is offered, with the changes that make it.
type ProposedRule struct {
	Text    string            `json:"text"`
	Changes []json.RawMessage `json:"changes"`
	Adds    bool              `json:"adds" doc:"It lets people add records, so it is not chosen beforehand"`
}

func (h *Handlers) registerWhy(api huma.API) {
	appRoute(h, api, store.Viewer, http.MethodGet, "/why", "Why somebody may do something, or not",
		func(ctx context.Context, r request, in struct {
			Own
			As     string `query:"as"`
			Table  string `query:"table"`
			Record string `query:"record"`
			Field  string `query:"field"`
			Action string `query:"action" enum:"see,add,change,delete"`
		}) (*output[why.Why], error) {
			seat, err := h.looking(ctx, r, in.As)
			if err != nil {
				return nil, err
			}
			if in.Record != "" && !blueprint.IsRecordID(in.Record) {
				return nil, store.ErrNotFound
			}
			asked := why.Asked{Table: in.Table, Record: in.Record, Field: in.Field, Action: blueprint.Action(in.Action)}
			found, err := why.Of(ctx, h.Apps.Road(ctx), seat, seats.Name(seat.Blueprint, seat.Viewer), asked)
			return out(found), err
		})
	appRoute(h, api, store.Viewer, http.MethodGet, "/why/page", "Why somebody gets what they get of a page",
		func(ctx context.Context, r request, in struct {
			Own
			As   string `query:"as"`
			Page string `query:"page"`
		}) (*output[why.PageWhy], error) {
			seat, err := h.looking(ctx, r, in.As)
			if err != nil {
				return nil, err
			}
			found, err := why.OfPage(ctx, h.Apps.Road(ctx), seat, seats.Name(seat.Blueprint, seat.Viewer), in.Page)
			return out(found), err
		})
	appRoute(h, api, store.Viewer, http.MethodGet, "/proposal", "Rules that are offered for a role",
		func(ctx context.Context, r request, in struct {
			Own
			Role string `query:"role"`
		}) (*output[RuleProposal], error) {
			b, err := h.Apps.Blueprint(ctx, r.app, apps.Draft)
			if err != nil {
				return nil, err
			}
			role := b.Role(in.Role)
			if role == nil {
				return nil, store.ErrNotFound
			}
			o := RuleProposal{Rules: []ProposedRule{}}
			for _, p := range sentence.ProposeRules(b, role) {
				rule := ProposedRule{Text: p.Text, Adds: p.Adds}
				for _, c := range p.Changes {
					raw, err := blueprint.Encode(c)
					if err != nil {
						return nil, err
					}
					rule.Changes = append(rule.Changes, raw)
				}
				o.Rules = append(o.Rules, rule)
			}
			return out(o), nil
		})
}

// looking gives the seat of the one as whom the app is seen; only editors look at
// the live app, which is written down.
func (h *Handlers) looking(ctx context.Context, r request, as string) (*records.Seat, error) {
	env, _ := seats.Split(as)
	if env == apps.Live && !r.app.Member.May(store.Editor) {
		return nil, errLevel(store.Editor)
	}
	seat, err := seats.As(ctx, h.Apps, r.app, r.builder.Name, as)
	if err != nil || env != apps.Live {
		return seat, err
	}
	return seat, h.noteLook(ctx, r, as, words.Say("team-looked", words.Args{"person": seats.Name(seat.Blueprint, seat.Viewer)}))
}

// noteLook writes down that the builder looks at something of the live app.
func (h *Handlers) noteLook(ctx context.Context, r request, at, what string) error {
	return h.Accounts.NoteLook(ctx, h.Session(ctx), r.app, r.builder.Name, at, what)
}
