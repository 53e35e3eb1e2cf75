package builder

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"

	"pinegate/app/outside"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/form"
	"pinegate/core/service"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/records"
)

// ServiceOut is a service elsewhere that an app calls.
type ServiceOut struct {
	ID      string     `json:"id"`
	Name    string     `json:"name"`
	Address string     `json:"address"`
	Proof   string     `json:"proof" enum:",header,query,password" doc:"How it is shown who calls"`
	Secret  *SecretOut `json:"secret,omitempty" doc:"Of its secret, where one is kept; the secret itself is shown to nobody"`
	Calls   []CallOut  `json:"calls"`
}

// SecretOut tells who gave a secret.
type SecretOut struct {
	By string    `json:"by"`
	At time.Time `json:"at"`
}

// CallOut is something that a service is asked.
type CallOut struct {
	ID     string    `json:"id"`
	Name   string    `json:"name"`
	Method string    `json:"method"`
	Path   string    `json:"path"`
	Rows   string    `json:"rows,omitempty"`
	Sends  []SentOut `json:"sends"`
	Takes  []SentOut `json:"takes"`
	Sample string    `json:"sample,omitempty"`
}

// SentOut is a value that goes out, or is taken from an answer.
type SentOut struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	Type string `json:"type"`
	At   string `json:"at" doc:"What the service calls it, or where it is in the answer"`
}

// ServiceList are services.
type ServiceList struct {
	Services []ServiceOut `json:"services"`
}

func serviceOut(x *blueprint.Connection) ServiceOut {
	out := ServiceOut{ID: x.ID, Name: x.Name, Address: x.Address, Proof: string(x.Proof), Calls: []CallOut{}}
	for _, call := range x.Calls {
		one := CallOut{ID: call.ID, Name: call.Name, Method: string(call.Method), Path: call.Path, Rows: call.Rows, Sample: call.Sample,
			Sends: []SentOut{}, Takes: takesOut(call.Takes)}
		for _, s := range call.Sends {
			one.Sends = append(one.Sends, SentOut{s.ID, s.Name, string(s.Type), s.As})
		}
		out.Calls = append(out.Calls, one)
	}
	return out
}

func takesOut(list []blueprint.Taken) []SentOut {
	out := []SentOut{}
	for _, t := range list {
		out = append(out, SentOut{t.ID, t.Name, string(t.Type), t.From})
	}
	return out
}

func (h *Handlers) registerServices(api huma.API) {
	appRoute(h, api, store.Viewer, http.MethodGet, "/services", "Services elsewhere that the app calls", h.listServices)
	appRoute(h, api, store.Owner, http.MethodPut, "/services/{service}/secret", "Keep what a service is shown", h.setSecret)
	appRoute(h, api, store.Owner, http.MethodDelete, "/services/{service}/secret", "Forget what a service is shown", h.forgetSecret)
	appRoute(h, api, store.Owner, http.MethodGet, "/workflows/{flow}/address", "Where calls come in that start it", h.addressOf)
	appRoute(h, api, store.Owner, http.MethodPost, "/workflows/{flow}/address", "Give it a new address for calls", h.newAddress)
	appRoute(h, api, store.Owner, http.MethodPut, "/workflows/{flow}/signature", "Keep the secret that signs calls", h.setSignature)
	appRoute(h, api, store.Editor, http.MethodPost, "/calls/{call}/trials", "Try a call: by its sample, or for real", h.tryCall)
}

func (h *Handlers) listServices(ctx context.Context, r request, _ Own) (*output[ServiceList], error) {
	b, err := h.Apps.Blueprint(ctx, r.app, apps.Draft)
	if err != nil {
		return nil, err
	}
	secrets, err := h.Runs.Services.Seals.Of(ctx, r.app.ID)
	if err != nil {
		return nil, err
	}
	body := ServiceList{Services: []ServiceOut{}}
	for i := range b.Connections {
		one := serviceOut(&b.Connections[i])
		if kept, is := secrets[outside.SecretOf(&b.Connections[i])]; is {
			one.Secret = &SecretOut{kept.MadeBy, kept.MadeAt}
		}
		body.Services = append(body.Services, one)
	}
	return out(body), nil
}

// OfService names a service of an app.
type OfService struct {
	Own
	Service string `path:"service" maxLength:"24"`
}

// service finds a service of the draft.
func (h *Handlers) service(ctx context.Context, r request, id string) (*blueprint.Connection, error) {
	b, err := h.Apps.Blueprint(ctx, r.app, apps.Draft)
	if err != nil {
		return nil, err
	}
	x := b.Connection(id)
	if x == nil {
		return nil, store.ErrNotFound
	}
	return x, nil
}

func (h *Handlers) setSecret(ctx context.Context, r request, in struct {
	OfService
	Body struct {
		Secret string `json:"secret" minLength:"1" maxLength:"4000"`
	}
}) (*output[ServiceList], error) {
	x, err := h.service(ctx, r, in.Service)
	if err != nil {
		return nil, err
	}
	if !printable(in.Body.Secret) {
		return nil, words.New("secret-lines")
	}
	if err := h.Runs.Services.Seals.Set(ctx, r.app.ID, outside.SecretOf(x), in.Body.Secret, r.builder.Name); err != nil {
		return nil, err
	}
	return h.listServices(ctx, r, in.Own)
}

// printable tells whether a text can stand in a header: it has one line, of characters of ASCII.
func printable(s string) bool {
	for _, c := range s {
		if c < ' ' || c > '~' {
			return false
		}
	}
	return true
}

func (h *Handlers) forgetSecret(ctx context.Context, r request, in OfService) (*output[ServiceList], error) {
	x, err := h.service(ctx, r, in.Service)
	if err != nil {
		return nil, err
	}
	if err := h.Runs.Services.Seals.Forget(ctx, r.app.ID, outside.SecretOf(x)); err != nil {
		return nil, err
	}
	return h.listServices(ctx, r, in.Own)
}

// Trial is what came of trying a call.
type Trial struct {
	Asked  string     `json:"asked" doc:"The method, the path and the query"`
	Body   string     `json:"body,omitempty"`
	Answer string     `json:"answer,omitempty" doc:"As it came, cut after 20,000 characters"`
	Names  []string   `json:"names" doc:"What was taken"`
	Rows   [][]string `json:"rows" doc:"What was taken of the first rows, as people read it"`
	Count  int        `json:"count" doc:"Of all rows"`
	Millis int64      `json:"millis"`
	// Problem tells why there is no answer, or none that can be used.
	Problem string `json:"problem,omitempty"`
}

// rowsShown is how many rows of an answer are shown.
const rowsShown = 20

func (h *Handlers) tryCall(ctx context.Context, r request, in struct {
	Own
	Call string `path:"call" maxLength:"24"`
	Body struct {
		Values records.Values `json:"values,omitempty" doc:"What is sent, by ids"`
		Real   bool           `json:"real,omitempty" doc:"The service is really called"`
	}
}) (*output[Trial], error) {
	b, err := h.Apps.Blueprint(ctx, r.app, apps.Draft)
	if err != nil {
		return nil, err
	}
	x, call := b.CallOf(in.Call)
	if call == nil {
		return nil, store.ErrNotFound
	}
	given, err := sentValues(b, call, in.Body.Values)
	if err != nil {
		return nil, err
	}
	asked, err := service.Compose(call, func(id string) expr.Value { return given[id] })
	if err != nil {
		return nil, err
	}
	body := Trial{Asked: asked.Line(call.Method), Body: string(asked.Body), Names: []string{}, Rows: [][]string{}}
	began := time.Now()
	answer, err := outside.Answer{Raw: []byte(call.Sample)}, error(nil)
	switch {
	case in.Body.Real:
		answer, err = h.Runs.Services.Ask(ctx, r.app.ID, x, call, asked, uuid.NewString())
	case call.Sample == "":
		err = words.New("service-no-sample", "call", call.Name)
	default:
		answer.Rows, err = service.Read(call, answer.Raw)
	}
	body.Millis = time.Since(began).Milliseconds()
	var told *words.Problem
	if errors.As(err, &told) {
		body.Problem = told.Error()
	} else if err != nil {
		return nil, err
	}
	if body.Answer = string(answer.Raw); len(body.Answer) > blueprint.MostSample {
		body.Answer = body.Answer[:blueprint.MostSample]
	}
	body.tell(b, call, answer.Rows)
	return out(body), nil
}

// tell tells what was taken.
func (t *Trial) tell(b *blueprint.Blueprint, call *blueprint.Call, rows []service.Row) {
	t.Count = len(rows)
	for _, x := range call.Takes {
		t.Names = append(t.Names, x.Name)
	}
	for _, row := range rows[:min(len(rows), rowsShown)] {
		one := []string{}
		for _, x := range call.Takes {
			one = append(one, shown(b, x, row[x.ID]))
		}
		t.Rows = append(t.Rows, one)
	}
}

func shown(b *blueprint.Blueprint, x blueprint.Taken, v expr.Value) string {
	if x.Type == blueprint.TimeStamp && !v.IsEmpty() {
		if at, err := time.Parse(time.RFC3339, v.Text); err == nil {
			return at.In(b.Location()).Format("2006-01-02 15:04")
		}
	}
	return v.String()
}

// sentValues reads the values that are sent.
func sentValues(b *blueprint.Blueprint, call *blueprint.Call, sent records.Values) (map[string]expr.Value, error) {
	out, wrong := map[string]expr.Value{}, records.FieldErrors{}
	for _, s := range call.Sends {
		raw, is := sent[s.ID]
		if !is || string(raw) == "null" {
			continue
		}
		v, problem := form.Accept(b, &blueprint.Field{ID: s.ID, Name: s.Name, Type: s.Type}, json.RawMessage(raw))
		if problem != nil {
			wrong[s.ID] = problem
		}
		out[s.ID] = v
	}
	if len(wrong) > 0 {
		return nil, wrong
	}
	return out, nil
}
