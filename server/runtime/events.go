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

// Watching is what a browser says that begins to watch.
type Watching struct {
	Age int `query:"age" minimum:"0" doc:"How many milliseconds ago it began to read what it shows"`
}

// longest is how many milliseconds ago counts at most: more is not remembered, and a tab can be open for days.
const longest = 60_000

// onTheWay is how long a request to watch takes at most to come.
const onTheWay = 2 * time.Second

// Stream tells, as server-sent events, which tables of an environment are
// written, as far as they are of interest. Of what was written since the browser began to
// read, and before it watched, it is told that there may be something.
func Stream(hc huma.Context, live *store.Live, schema string, from Watching, interesting func(table string) bool) {
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
	hello := ": hello\n\n"
	between := live.Lately(schema, time.Duration(min(from.Age, longest))*time.Millisecond+onTheWay)
	if slices.ContainsFunc(between, func(t string) bool { return t == "" || interesting(t) }) {
		hello = "data: \n\n"
	}
	if !say(hello) {
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
		func(ctx context.Context, in *Watching) (*huma.StreamResponse, error) {
			p := h.Place(ctx)
			return &huma.StreamResponse{Body: func(hc huma.Context) {
				Stream(hc, h.Live, p.Seat.Schema, *in, func(table string) bool {
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
