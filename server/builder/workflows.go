package builder

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/app/run"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/words"
	"pinegate/server/seats"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/records"
	"pinegate/store/runs"
)

// WorkflowOut is a workflow of an app.
type WorkflowOut struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	Off    bool   `json:"off"`
	Starts string `json:"starts" doc:"The kind of what starts it"`
	Record string `json:"record,omitempty" doc:"Id of the table of the record that sets it off"`
	// Asks are the questions that it asks before it runs.
	Asks  []AskOut `json:"asks"`
	Calls bool     `json:"calls,omitempty" doc:"A step of it calls a service"`
	// Incoming is what comes in from elsewhere to start it.
	Incoming *IncomingOut `json:"incoming,omitempty"`
	Circle   string       `json:"circle,omitempty" doc:"That it can set itself off, by itself or by others"`
}

// IncomingOut is what comes in from elsewhere.
type IncomingOut struct {
	Sample string    `json:"sample,omitempty"`
	Takes  []SentOut `json:"takes"`
	Signed bool      `json:"signed,omitempty"`
}

func incomingOut(w *blueprint.Workflow) *IncomingOut {
	x := w.Incoming()
	if x == nil {
		return nil
	}
	return &IncomingOut{Sample: x.Sample, Takes: takesOut(x.Takes), Signed: x.Signed != ""}
}

func workflowsOut(b *blueprint.Blueprint) []WorkflowOut {
	out, catalog := []WorkflowOut{}, b.Catalog()
	for i := range b.Workflows {
		w := &b.Workflows[i]
		x := WorkflowOut{w.ID, w.Name, w.Off, w.Starts.Row().Name, b.FlowTable(w), asksOf(b, catalog, w), calls(w), incomingOut(w), ""}
		if circle := b.FlowCircle(w, catalog); circle != nil {
			x.Circle = circleText(circle)
		}
		out = append(out, x)
	}
	return out
}

func calls(w *blueprint.Workflow) bool {
	for x := range w.Steps.All {
		if _, is := x.(*blueprint.CallStep); is {
			return true
		}
	}
	return false
}

// RunOut is a run as it is listed.
type RunOut struct {
	ID       string      `json:"id"`
	Workflow string      `json:"workflow"`
	Name     string      `json:"name"`
	Status   runs.Status `json:"status" enum:"done,stopped,failed,waiting"`
	At       time.Time   `json:"at"`
	Millis   int64       `json:"millis"` // how long it took
	By       string      `json:"by"`
	Error    string      `json:"error,omitempty"`
}

func runOut(r runs.Run) RunOut {
	out := RunOut{ID: r.ID, Workflow: r.Workflow, Name: r.Name, Status: r.Status, At: r.BeganAt, By: r.MadeBy}
	if r.EndedAt != nil {
		out.Millis = r.EndedAt.Sub(r.BeganAt).Milliseconds()
	}
	if r.Error != nil {
		out.Error = *r.Error
	}
	return out
}

// RunList are runs, the newest first; More tells that there are older ones.
type RunList struct {
	Runs []RunOut `json:"runs"`
	More bool     `json:"more"`
}

// RunWhole is a run with what its steps did.
type RunWhole struct {
	RunOut
	Steps []run.Told `json:"steps"`
}

// RunsAsked says which runs are listed.
type RunsAsked struct {
	Own
	Place    string `query:"place" enum:"live,draft" default:"draft"`
	Workflow string `query:"workflow" maxLength:"24"`
	Before   string `query:"before" format:"uuid" doc:"Id of the run before which they came"`
}

// runsShown is how many runs are listed at once.
const runsShown = 30

func (h *Handlers) registerWorkflows(api huma.API) {
	appRoute(h, api, store.Viewer, http.MethodGet, "/runs", "Runs of workflows", h.listRuns)
	appRoute(h, api, store.Viewer, http.MethodGet, "/runs/{run}", "A run with what its steps did", h.oneRun)
	appRoute(h, api, store.Editor, http.MethodPost, "/runs/{run}/again", "Try a run again that did not come to its end", h.again)
	appRoute(h, api, store.Editor, http.MethodPost, "/runs/{run}/ending", "End a run that waits", h.endRun)
	appRoute(h, api, store.Editor, http.MethodPost, "/runs/{run}/rehearsals", "Rehearse what set a run off", h.rehearseRun)
	appRoute(h, api, store.Owner, http.MethodGet, "/letters", "Emails that workflows sent, and what became of them", h.listLetters)
	appRoute(h, api, store.Owner, http.MethodGet, "/letters/{letter}", "An email that a workflow sent", h.oneLetter)
	appRoute(h, api, store.Viewer, http.MethodGet, "/could-run", "Which workflows a record could have set off, and why they did or did not", h.couldRun)
	appRoute(h, api, store.Viewer, http.MethodGet, "/workflows/{flow}/marks", "What one marked in a workflow", h.marks)
	appRoute(h, api, store.Viewer, http.MethodPut, "/workflows/{flow}/marks", "Keep what one marks in a workflow", h.mark)
	appRoute(h, api, store.Editor, http.MethodPost, "/workflows/{flow}/rehearsals", "Rehearse a workflow", h.rehearse)
}

func (h *Handlers) listRuns(ctx context.Context, r request, in RunsAsked) (*output[RunList], error) {
	if in.Place == string(apps.Live) && !r.app.Member.May(store.Editor) {
		return nil, errLevel(store.Editor)
	}
	list, err := h.Runs.Book.Of(ctx, runs.Page{App: r.app.ID, Place: in.Place, Workflow: in.Workflow, Before: in.Before, Limit: runsShown + 1})
	if err != nil {
		return nil, err
	}
	body := RunList{Runs: []RunOut{}, More: len(list) > runsShown}
	for _, x := range list[:min(len(list), runsShown)] {
		body.Runs = append(body.Runs, runOut(x))
	}
	return out(body), nil
}

// OfRun names a run of an app.
type OfRun struct {
	Own
	Run string `path:"run" format:"uuid"`
}

// run finds a run of an app. Those of the live app tell of people's records, and their mails.
func (h *Handlers) run(ctx context.Context, r request, in OfRun) (runs.Run, error) {
	found, err := h.Runs.Book.Run(ctx, r.app.ID, in.Run)
	if err == nil && found.Place == string(apps.Live) && !r.app.Member.May(store.Owner) {
		err = errLevel(store.Owner)
	}
	return found, err
}

func (h *Handlers) oneRun(ctx context.Context, r request, in OfRun) (*output[RunWhole], error) {
	found, err := h.run(ctx, r, in)
	if err != nil {
		return nil, err
	}
	var entries []run.Entry
	if err := json.Unmarshal(found.Trace, &entries); err != nil {
		return nil, fmt.Errorf("read what a run did: %w", err)
	}
	env := apps.Environment(found.Place)
	b, err := h.Apps.Blueprint(ctx, r.app, env)
	if err != nil {
		return nil, err
	}
	told, err := run.Tell(ctx, h.Apps.Road(ctx), apps.FounderSeat(r.app, env, b, r.builder.Name), entries)
	return out(RunWhole{runOut(found), told}), err
}

// RehearsalAsked says what is rehearsed.
type RehearsalAsked struct {
	As     string `json:"as" maxLength:"200" doc:"As whom it is set off"`
	Record string `json:"record,omitempty" maxLength:"64" doc:"Id of the record that sets it off"`
	// Answers are those to what it asks first, by the ids of questions.
	Answers records.Values `json:"answers,omitempty"`
	// Watches are expressions that are computed after each step.
	Watches []string `json:"watches,omitempty" maxItems:"20"`
	// Incoming is what comes in from elsewhere, as JSON, where that starts the workflow.
	Incoming string `json:"incoming,omitempty" maxLength:"1000000"`
	// Real has services called for real; otherwise samples of their answers stand for them.
	Real bool `json:"real,omitempty"`
}

func (h *Handlers) rehearse(ctx context.Context, r request, in struct {
	Own
	Flow string `path:"flow" maxLength:"24"`
	Body RehearsalAsked
}) (*output[run.Rehearsal], error) {
	done, err := h.rehearsed(ctx, r, in.Flow, in.Body)
	return out(done), err
}

// rehearsed rehearses a workflow of the draft.
func (h *Handlers) rehearsed(ctx context.Context, r request, id string, asked RehearsalAsked) (done run.Rehearsal, err error) {
	seat, err := seats.Draft(ctx, h.Apps, r.app, r.builder.Name, asked.As)
	if err != nil {
		return done, err
	}
	w := seat.Blueprint.Workflow(id)
	if w == nil {
		return done, store.ErrNotFound
	}
	s := run.Start{App: r.app, Env: apps.Draft, Person: seat, Workflow: w, Real: asked.Real}
	if table := seat.Blueprint.Table(seat.Blueprint.FlowTable(w)); table != nil {
		if !blueprint.IsRecordID(asked.Record) {
			return done, words.New("rehearse-record", "word", table.OneWord())
		}
		if s.Input, err = run.Pretend(ctx, h.Apps.Road(ctx), seat, w, asked.Record); err != nil {
			return done, err
		}
	}
	if w.Incoming() != nil {
		if s.Input, err = run.Comes(w, asked.Incoming); err != nil {
			return done, err
		}
	}
	if s.Input.Answers, err = answered(seat.Blueprint, w, asked.Answers, s.Input.Answers); err != nil {
		return done, err
	}
	if err := before(seat, w, asked.Answers, s.Input.Was); err != nil {
		return done, err
	}
	for _, source := range asked.Watches {
		c, err := expr.Check(source, seat.Blueprint.FlowWatch(w, seat.Catalog))
		if err != nil {
			return done, words.New("watch", "source", source, "error", err.Error())
		}
		s.Watches = append(s.Watches, c)
	}
	return h.Runs.Rehearse(ctx, s)
}

// flowName gives the name of a workflow of the draft, or its id where it is not there any more.
func (h *Handlers) flowName(ctx context.Context, r request, id string) string {
	b, err := h.Apps.Blueprint(ctx, r.app, apps.Draft)
	if err == nil {
		if w := b.Workflow(id); w != nil {
			return w.Name
		}
	}
	return id
}

// CouldOut is a workflow that a record could have set off.
type CouldOut struct {
	run.Could
	Ran []RunOut `json:"ran" doc:"Its last runs for the record"`
}

// CouldList are such workflows.
type CouldList struct {
	Workflows []CouldOut `json:"workflows"`
}

func (h *Handlers) couldRun(ctx context.Context, r request, in struct {
	Own
	Place  string `query:"place" enum:"live,draft" default:"draft"`
	Table  string `query:"table" maxLength:"24"`
	Record string `query:"record" maxLength:"64"`
}) (*output[CouldList], error) {
	env := apps.Environment(in.Place)
	if env == apps.Live && !r.app.Member.May(store.Owner) { // it tells of people's records
		return nil, errLevel(store.Owner)
	}
	b, err := h.Apps.Blueprint(ctx, r.app, env)
	if err != nil {
		return nil, err
	}
	if b.Table(in.Table) == nil || !blueprint.IsRecordID(in.Record) {
		return nil, store.ErrNotFound
	}
	list, err := h.Runs.Why(ctx, r.app, apps.FounderSeat(r.app, env, b, r.builder.Name), in.Table, in.Record)
	if err != nil {
		return nil, err
	}
	body := CouldList{Workflows: []CouldOut{}}
	for _, x := range list {
		one := CouldOut{Could: x, Ran: []RunOut{}}
		for _, ran := range x.Ran {
			one.Ran = append(one.Ran, runOut(ran))
		}
		body.Workflows = append(body.Workflows, one)
	}
	return out(body), nil
}

// Again is the run that came of trying one again.
type Again struct {
	Run string `json:"run"`
}

func (h *Handlers) again(ctx context.Context, r request, in OfRun) (*output[Again], error) {
	was, err := h.run(ctx, r, in)
	if err != nil {
		return nil, err
	}
	id, err := h.Runs.Again(ctx, r.app, was)
	return out(Again{id}), err
}

func (h *Handlers) endRun(ctx context.Context, r request, in OfRun) (*output[RunOut], error) {
	was, err := h.run(ctx, r, in)
	if err != nil {
		return nil, err
	}
	if err := h.Runs.End(ctx, was, r.builder.Name); err != nil {
		return nil, err
	}
	now, err := h.run(ctx, r, in)
	return out(runOut(now)), err
}

func (h *Handlers) rehearseRun(ctx context.Context, r request, in OfRun) (*output[run.Rehearsal], error) {
	was, err := h.run(ctx, r, in)
	if err != nil {
		return nil, err
	}
	s, err := h.Runs.Of(ctx, r.app, was)
	if err != nil {
		return nil, err
	}
	done, err := h.Runs.Rehearse(ctx, s)
	return out(done), err
}

// LetterOut is a mail of a workflow, and what became of it.
type LetterOut struct {
	ID      string     `json:"id"`
	To      string     `json:"to"`
	Subject string     `json:"subject"`
	Status  runs.Fate  `json:"status" enum:"waiting,sent,refused,caught,unwanted"`
	Error   string     `json:"error,omitempty"`
	At      time.Time  `json:"at"`
	SentAt  *time.Time `json:"sentAt,omitempty"`
	Body    string     `json:"body,omitempty"`  // of one that is read by itself
	Files   []string   `json:"files,omitempty"` // names of what is attached
	Shown   []string   `json:"shown,omitempty"` // names of pictures below the text
}

func letterOut(l runs.Letter) LetterOut {
	out := LetterOut{ID: l.ID, To: l.Recipient, Subject: l.Subject, Status: l.Status, At: l.MadeAt, SentAt: l.SentAt, Body: l.Plain,
		Files: records.Names(l.Files), Shown: records.Names(l.Pictures)}
	if l.Error != nil {
		out.Error = *l.Error
	}
	return out
}

// LetterList are mails, the newest first; More tells that there are older ones.
type LetterList struct {
	Letters []LetterOut `json:"letters"`
	More    bool        `json:"more"`
}

func (h *Handlers) listLetters(ctx context.Context, r request, in struct {
	Own
	Place  string `query:"place" enum:"live,draft" default:"live"`
	Before string `query:"before" format:"uuid" doc:"Id of the email before which they were written"`
}) (*output[LetterList], error) {
	list, err := h.Runs.Book.Letters(ctx, runs.Page{App: r.app.ID, Place: in.Place, Before: in.Before, Limit: runsShown + 1})
	if err != nil {
		return nil, err
	}
	body := LetterList{Letters: []LetterOut{}, More: len(list) > runsShown}
	for _, l := range list[:min(len(list), runsShown)] {
		body.Letters = append(body.Letters, letterOut(l))
	}
	return out(body), nil
}

func (h *Handlers) oneLetter(ctx context.Context, r request, in struct {
	Own
	Letter string `path:"letter" format:"uuid"`
}) (*output[LetterOut], error) {
	l, err := h.Runs.Book.LetterOf(ctx, r.app.ID, in.Letter)
	return out(letterOut(l)), err
}
