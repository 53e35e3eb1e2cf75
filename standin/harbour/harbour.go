// Package harbour is a service elsewhere that ships with the server: a harbour office that knows tides
// and weather, sells parts, and takes orders. It stands for real services in the demo and in tests,
// and can be told to be slow, to fail, or to answer nonsense.
package harbour

import (
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"math"
	"net"
	"net/http"
	"strings"
	"sync"
	"time"
)

// Name is the host and port under which apps know the service.
const Name = "harbour.example:80"

// Address is that as an address.
const Address = "http://harbour.example"

// KeyHeader is the header in which it wants to be shown [Key].
const (
	KeyHeader = "X-Harbour-Key"
	Key       = "low-water-springs"
)

// Behaviour is how it behaves besides doing its work.
type Behaviour struct {
	Slow     time.Duration // before each answer
	Fails    int           // how many of the next requests fail
	Nonsense int           // how many of the next are answered with nonsense
}

// Order is an order that it took.
type Order struct {
	Number string `json:"number"`
	Part   string `json:"part"`
	Count  int    `json:"count"`
	Total  string `json:"total"`
}

// Part is something that it sells.
type Part struct {
	Number string  `json:"number"`
	Name   string  `json:"name"`
	Price  float64 `json:"price"`
	Stock  int     `json:"stock"`
}

// Harbour is the service.
type Harbour struct {
	mu       sync.Mutex
	behaves  Behaviour
	orders   map[string]Order // by the keys of requests
	requests []string         // what it was asked, by method and address
}

// New gives a harbour office without orders.
func New() *Harbour { return &Harbour{orders: map[string]Order{}} }

// Behave has it behave from now on.
func (h *Harbour) Behave(b Behaviour) {
	h.mu.Lock()
	defer h.mu.Unlock()
	h.behaves = b
}

// Orders gives the orders that it took, by the keys of requests.
func (h *Harbour) Orders() map[string]Order {
	h.mu.Lock()
	defer h.mu.Unlock()
	out := map[string]Order{}
	for k, o := range h.orders {
		out[k] = o
	}
	return out
}

// Requests gives what it was asked, also where it failed.
func (h *Harbour) Requests() []string {
	h.mu.Lock()
	defer h.mu.Unlock()
	return append([]string{}, h.requests...)
}

// Serve serves on a free port of loopback until the context ends, and gives its address.
func (h *Harbour) Serve(ctx context.Context) (string, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return "", fmt.Errorf("listen as a harbour office: %w", err)
	}
	s := &http.Server{Handler: h, ReadHeaderTimeout: 10 * time.Second}
	go func() {
		if err := s.Serve(l); err != nil && ctx.Err() == nil {
			slog.ErrorContext(ctx, "the harbour office stopped", "error", err)
		}
	}()
	context.AfterFunc(ctx, func() {
		if err := s.Close(); err != nil {
			slog.Warn("close the harbour office", "error", err)
		}
	})
	return l.Addr().String(), nil
}

// now tells how it behaves to a request.
func (h *Harbour) now(r *http.Request) (slow time.Duration, fails, nonsense bool) {
	h.mu.Lock()
	defer h.mu.Unlock()
	h.requests = append(h.requests, r.Method+" "+r.URL.RequestURI())
	if h.behaves.Fails > 0 {
		h.behaves.Fails--
		return h.behaves.Slow, true, false
	}
	if h.behaves.Nonsense > 0 {
		h.behaves.Nonsense--
		return h.behaves.Slow, false, true
	}
	return h.behaves.Slow, false, false
}

// ServeHTTP answers.
func (h *Harbour) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	slow, fails, nonsense := h.now(r)
	select {
	case <-time.After(slow):
	case <-r.Context().Done():
		return
	}
	switch {
	case fails:
		http.Error(w, "the harbour master is at lunch", http.StatusServiceUnavailable)
		return
	case nonsense:
		say(w, http.StatusOK, "text/html", []byte("<html>Ahoy!"))
		return
	case r.Header.Get(KeyHeader) != Key:
		answer(w, http.StatusUnauthorized, map[string]string{"problem": "this key opens nothing here"})
		return
	}
	switch {
	case r.Method == http.MethodGet && strings.HasPrefix(r.URL.Path, "/tides/"):
		h.tides(w, r)
	case r.Method == http.MethodGet && r.URL.Path == "/parts":
		answer(w, http.StatusOK, map[string]any{"parts": Parts(r.URL.Query().Get("search"))})
	case r.Method == http.MethodPost && r.URL.Path == "/orders":
		h.order(w, r)
	default:
		answer(w, http.StatusNotFound, map[string]string{"problem": "there is nothing"})
	}
}

// Parts gives what it sells that has a text in its name.
func Parts(search string) []Part {
	out := []Part{}
	for _, p := range []Part{{"AN-12", "Anode, zinc, 2 kg", 18.5, 40}, {"IM-03", "Impeller", 32, 6},
		{"SH-25", "Shaft seal, 25 mm", 74.9, 2}, {"FI-07", "Fuel filter", 12.4, 25}, {"BE-11", "Belt", 21, 0}} {
		if strings.Contains(strings.ToLower(p.Name), strings.ToLower(search)) {
			out = append(out, p)
		}
	}
	return out
}

// tides gives the tides of a day, which is as good as any other.
func (h *Harbour) tides(w http.ResponseWriter, r *http.Request) {
	day, err := time.Parse(time.DateOnly, r.URL.Query().Get("day"))
	if err != nil {
		answer(w, http.StatusBadRequest, map[string]string{"problem": "say a day, such as 2026-05-02"})
		return
	}
	type tide struct {
		At     time.Time `json:"at"`
		Height float64   `json:"height"` // in metres
		High   bool      `json:"high"`
	}
	var out []tide
	lag := time.Duration(day.YearDay()*50%745) * time.Minute // the moon is some fifty minutes later each day
	for i := range 4 {
		high := i%2 == 0
		height := 0.6
		if high {
			height = math.Round(10*(3.4+0.6*math.Sin(float64(day.YearDay())/7.4))) / 10
		}
		out = append(out, tide{day.Add(lag/2 + time.Duration(i)*372*time.Minute), height, high})
	}
	answer(w, http.StatusOK, map[string]any{"harbour": strings.TrimPrefix(r.URL.Path, "/tides/"), "tides": out})
}

// order takes an order; the same one again, by its key, is the same order.
func (h *Harbour) order(w http.ResponseWriter, r *http.Request) {
	var in struct {
		Line struct {
			Part  string `json:"part"`
			Count int    `json:"count"`
		} `json:"line"`
	}
	if err := json.NewDecoder(http.MaxBytesReader(w, r.Body, 1<<20)).Decode(&in); err != nil || in.Line.Count < 1 {
		answer(w, http.StatusUnprocessableEntity, map[string]string{"problem": "say a part, and how many"})
		return
	}
	price := -1.0
	for _, p := range Parts("") {
		if p.Number == in.Line.Part {
			price = p.Price
		}
	}
	if price < 0 {
		answer(w, http.StatusUnprocessableEntity, map[string]string{"problem": "there is no such part"})
		return
	}
	key := r.Header.Get("Idempotency-Key")
	h.mu.Lock()
	o, before := h.orders[key]
	if !before {
		o = Order{fmt.Sprintf("H-%04d", len(h.orders)+1), in.Line.Part, in.Line.Count, fmt.Sprintf("%.2f", price*float64(in.Line.Count))}
		h.orders[key] = o
	}
	h.mu.Unlock()
	answer(w, http.StatusCreated, map[string]any{"order": o})
}

func answer(w http.ResponseWriter, status int, v any) {
	raw, err := json.Marshal(v)
	if err != nil {
		http.Error(w, err.Error(), http.StatusInternalServerError)
		return
	}
	say(w, status, "application/json", raw)
}

func say(w http.ResponseWriter, status int, kind string, raw []byte) {
	w.Header().Set("Content-Type", kind)
	w.WriteHeader(status)
	if _, err := w.Write(raw); err != nil {
		slog.Warn("answer as a harbour office", "error", err)
	}
}
