package store

import (
	"context"
	"log/slog"
)

// LogHandler adds to lines of the log for whom something was done: the request,
// whose id messages of what went wrong on our side show, the app and the page.
func LogHandler(h slog.Handler) slog.Handler { return logHandler{h} }

type logHandler struct{ slog.Handler }

// Handle writes a line.
func (h logHandler) Handle(ctx context.Context, r slog.Record) error {
	w := WorkOf(ctx)
	for _, x := range []struct{ name, value string }{{"request", w.Request}, {"workspace", w.Workspace}, {"app", w.App}, {"page", w.Page}} {
		if x.value != "" {
			r.AddAttrs(slog.String(x.name, x.value))
		}
	}
	return h.Handler.Handle(ctx, r)
}

// WithAttrs is part of the interface of handlers.
func (h logHandler) WithAttrs(attrs []slog.Attr) slog.Handler {
	return logHandler{h.Handler.WithAttrs(attrs)}
}

// WithGroup is part of the interface of handlers.
func (h logHandler) WithGroup(name string) slog.Handler { return logHandler{h.Handler.WithGroup(name)} }
