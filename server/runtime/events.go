package runtime

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/store"
)

// heartbeat keeps connections open that somebody in between would close.
const heartbeat = 25 * time.Second

// streamTime is how long a stream lasts; the browser then asks again, with
// whatever session it has by then.
const streamTime = 10 * time.Minute

// Stream tells, as server-sent events, which tables of an environment are
// written, as far as they are of interest.
func Stream(hc huma.Context, live *store.Live, schema string, interesting func(table string) bool) {
	hc.SetHeader("Content-Type", "text/event-stream")
	hc.SetHeader("Cache-Control", "no-store")
	events, stop := live.Watch(schema)
	defer stop()
	w := hc.BodyWriter()
	flusher, ok := w.(http.Flusher)
	if !ok {
		return
	}
	say := func(text string) bool {
		_, err := fmt.Fprint(w, text)
		flusher.Flush()
		return err == nil
	}
	if !say(": hello\n\n") {
		return
	}
	beat, end := time.NewTicker(heartbeat), time.NewTimer(streamTime)
	defer beat.Stop()
	defer end.Stop()
	for {
		select {
		case <-hc.Context().Done():
			return
		case <-live.Done():
			return
		case <-end.C:
			return
		case <-beat.C:
			if !say(": still here\n\n") {
				return
			}
		case e := <-events:
			if of := slices.DeleteFunc(slices.Clone(e.Tables), func(t string) bool { return !interesting(t) }); len(of) > 0 ||
				len(e.Tables) == 0 {
				if !say("data: " + strings.Join(of, " ") + "\n\n") {
					return
				}
			}
		}
	}
}

// registerEvents lets pages hear of what is written to the tables of which
// their viewer may see something.
func (h *Handlers) registerEvents(api huma.API) {
	huma.Register(api, huma.Operation{OperationID: "events", Method: http.MethodGet, Path: "/events",
		Summary: "What is written while one looks"},
		func(ctx context.Context, _ *struct{}) (*huma.StreamResponse, error) {
			p := h.Place(ctx)
			return &huma.StreamResponse{Body: func(hc huma.Context) {
				Stream(hc, h.Live, p.Seat.Schema, func(table string) bool {
					t := p.Seat.Blueprint.Table(table)
					if t == nil {
						return table == ""
					}
					for _, f := range t.Fields {
						if sees, err := p.Seat.Sees(t.ID, f.ID); err == nil && sees {
							return true
						}
					}
					return false
				})
			}}, nil
		})
}
