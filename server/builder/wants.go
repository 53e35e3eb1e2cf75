package builder

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"

	"pinegate/app/publish"
	"pinegate/app/run"
	"pinegate/core/blueprint"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/records"
	"pinegate/store/runs"
)

// WantOut is a rehearsal that is kept as an expectation.
type WantOut struct {
	ID       string        `json:"id"`
	Workflow string        `json:"workflow"`
	Name     string        `json:"name"`
	Wants    []run.Outcome `json:"wants"`
	By       string        `json:"by"`
	At       time.Time     `json:"at"`
	// Met tells that all of it comes of the workflow as it is, and Problem why not.
	Met     bool   `json:"met"`
	Problem string `json:"problem,omitempty"`
}

// WantList are such expectations.
type WantList struct {
	Wants []WantOut `json:"wants"`
}

// mostWants is how many an app can have: all of them are rehearsed before it is published.
const mostWants = 50

func (h *Handlers) registerWants(api huma.API) {
	appRoute(h, api, store.Editor, http.MethodGet, "/workflow-expectations", "What is expected of workflows", h.listWants)
	appRoute(h, api, store.Editor, http.MethodPost, "/workflows/{flow}/expectations", "Keep a rehearsal as an expectation", h.keepWant)
	appRoute(h, api, store.Editor, http.MethodDelete, "/workflow-expectations/{want}", "Forget an expectation", h.forgetWant)
}

// tried rehearses what is expected of workflows in the draft.
func (h *Handlers) tried(ctx context.Context, r request) ([]WantOut, error) {
	list, err := h.Runs.Book.WantsOf(ctx, r.app.ID)
	if err != nil {
		return nil, err
	}
	out := []WantOut{}
	for _, w := range list {
		one := WantOut{ID: w.ID, Workflow: w.Workflow, Name: w.Name, By: w.MadeBy, At: w.MadeAt}
		var asked RehearsalAsked
		if err := errors.Join(json.Unmarshal(w.Asked, &asked), json.Unmarshal(w.Wants, &one.Wants)); err != nil {
			return nil, fmt.Errorf("read an expectation: %w", err)
		}
		got, err := h.rehearsed(ctx, r, w.Workflow, asked)
		switch reason := reasonOf(err); {
		case reason != "":
			one.Problem = reason
		case err != nil:
			return nil, err
		default:
			one.Problem = missing(got.Missing(one.Wants))
			one.Met = one.Problem == ""
		}
		out = append(out, one)
	}
	return out, nil
}

// missing says what should have come of a rehearsal.
func missing(list []run.Outcome) string {
	var texts []string
	for _, x := range list {
		texts = append(texts, x.Text)
	}
	return strings.Join(texts, " ")
}

// reasonOf says why a rehearsal could not be, as its workflow, its record or who set it off is not there
// any more, or its answers are none now; "" for what is no reason of that kind.
func reasonOf(err error) string {
	var told *words.Problem
	var wrong records.FieldErrors
	switch {
	case errors.Is(err, store.ErrNotFound):
		return words.Say("want-gone", nil)
	case errors.As(err, &told):
		return told.Error()
	case errors.As(err, &wrong):
		return wrong.Error()
	}
	return ""
}

func (h *Handlers) listWants(ctx context.Context, r request, _ Own) (*output[WantList], error) {
	list, err := h.tried(ctx, r)
	return out(WantList{list}), err
}

func (h *Handlers) keepWant(ctx context.Context, r request, in struct {
	Own
	Flow string `path:"flow" maxLength:"24"`
	Body struct {
		Name  string         `json:"name" minLength:"1" maxLength:"80"`
		Asked RehearsalAsked `json:"asked"`
		Keys  []string       `json:"keys" maxItems:"100" doc:"Of what has to come of it"`
	}
}) (*output[WantList], error) {
	list, err := h.Runs.Book.WantsOf(ctx, r.app.ID)
	if err != nil {
		return nil, err
	}
	if len(list) >= mostWants {
		return nil, words.New("want-most", "n", mostWants)
	}
	asked := in.Body.Asked
	asked.Watches, asked.Real = nil, false
	got, err := h.rehearsed(ctx, r, in.Flow, asked)
	if err != nil {
		return nil, err
	}
	wants := []run.Outcome{}
	for _, x := range got.All() {
		if slices.Contains(in.Body.Keys, x.Key) {
			wants = append(wants, x)
		}
	}
	if len(wants) == 0 {
		return nil, words.New("want-none")
	}
	want := &runs.Want{ID: uuid.NewString(), AppID: r.app.ID, Workflow: in.Flow, Name: in.Body.Name, MadeBy: r.builder.Name, MadeAt: time.Now()}
	if want.Asked, err = json.Marshal(asked); err != nil {
		return nil, fmt.Errorf("keep an expectation: %w", err)
	}
	if want.Wants, err = json.Marshal(wants); err != nil {
		return nil, fmt.Errorf("keep an expectation: %w", err)
	}
	if err := h.Runs.Book.SetWant(ctx, want); err != nil {
		return nil, err
	}
	return h.listWants(ctx, r, in.Own)
}

func (h *Handlers) forgetWant(ctx context.Context, r request, in struct {
	Own
	Want string `path:"want" format:"uuid"`
}) (*output[WantList], error) {
	if err := h.Runs.Book.ForgetWant(ctx, r.app.ID, in.Want); err != nil {
		return nil, err
	}
	return h.listWants(ctx, r, in.Own)
}

// planned adds to a plan what is expected of workflows and is not so, and which of them go in a circle.
func (h *Handlers) planned(ctx context.Context, r request, plan *publish.Plan) error {
	list, err := h.tried(ctx, r)
	for _, w := range list {
		if !w.Met {
			args := words.Args{"name": w.Name, "flow": h.flowName(ctx, r, w.Workflow), "reason": w.Problem}
			plan.Steps = append(plan.Steps, publish.PlanStep{Text: words.Say("plan-flow", args), Stop: true})
		}
	}
	if err != nil {
		return err
	}
	b, err := h.Apps.Blueprint(ctx, r.app, apps.Draft)
	if err != nil {
		return err
	}
	for _, circle := range b.FlowCircles(b.Catalog()) {
		plan.Steps = append(plan.Steps, publish.PlanStep{Text: circleText(circle), Care: true})
	}
	return nil
}

// circleText says that workflows set each other off.
func circleText(circle []*blueprint.Workflow) string {
	if len(circle) == 1 {
		return words.Say("flow-circles-self", words.Args{"flow": circle[0].Name})
	}
	return words.Say("flow-circles", words.Args{"path": blueprint.CirclePath(circle)})
}

// met refuses to publish what is not as it is expected.
func (h *Handlers) met(ctx context.Context, r request) error {
	list, err := h.tried(ctx, r)
	if err != nil {
		return err
	}
	for _, w := range list {
		if !w.Met {
			return words.New("publish-flow", "name", w.Name, "flow", h.flowName(ctx, r, w.Workflow), "reason", w.Problem)
		}
	}
	return nil
}
