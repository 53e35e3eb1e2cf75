package store

import (
	"context"
	"strings"
)

// Kind is a kind of work on the database. Each has connections and limits of its
// own, so that none can hold up another.
type Kind int

// The kinds of work.
const (
	Back  Kind = iota // jobs, and what is run by hand
	Front             // the people of live apps, and signing in
	Build             // builders
	Heavy             // reads that took too long for the kinds above
	Bulk              // imports and chores: as long as they last, behind everything else
	kinds
)

// String names the kind, for logs and figures.
func (k Kind) String() string { return [kinds]string{"back", "front", "build", "heavy", "bulk"}[k] }

// Work says for whom something is done.
type Work struct {
	Kind      Kind
	Workspace string // id, or "" where it is nobody's in particular
	App       string // id, or ""
	Page      string // path of the page that is read, or ""
	Request   string // id of the request, or ""
	By        string // id of whoever does it, as [ByBuilder] gives it, or "" where it is said elsewhere or is nobody
}

type workKey struct{}

// With tells what is done with the context for whom it is.
func With(ctx context.Context, w Work) context.Context { return context.WithValue(ctx, workKey{}, w) }

// WorkOf gives for whom something is done; [Back] for nobody where nothing is
// known.
func WorkOf(ctx context.Context) Work {
	w, _ := ctx.Value(workKey{}).(Work)
	return w
}

// As gives the context of the same work as another kind.
func As(ctx context.Context, k Kind) context.Context {
	w := WorkOf(ctx)
	w.Kind = k
	return With(ctx, w)
}

// ForApp tells of which app the work is.
func ForApp(ctx context.Context, app App) context.Context {
	w := WorkOf(ctx)
	w.Workspace, w.App = app.WorkspaceID, app.ID
	return With(ctx, w)
}

// DoneBy tells who does it.
func DoneBy(ctx context.Context, id string) context.Context {
	w := WorkOf(ctx)
	w.By = id
	return With(ctx, w)
}

// Doer gives the id of who does it, or nil.
func (w Work) Doer() *string {
	if w.By == "" {
		return nil
	}
	return &w.By
}

const byBuilder = "builder:"

// ByBuilder is the id under which histories keep what a builder did. Names change, and
// may be those of somebody else tomorrow; this stays.
func ByBuilder(id string) string { return byBuilder + id }

// ByPerson is the id under which histories keep what a person did whom a record of an
// app says.
func ByPerson(table, record string) string { return "person:" + table + ":" + record }

// BuilderWho gives the builder whose id in histories that is.
func BuilderWho(id string) (string, bool) { return strings.CutPrefix(id, byBuilder) }

// OnPage tells which page of an app the work is for.
func OnPage(ctx context.Context, path string) context.Context {
	w := WorkOf(ctx)
	w.Page = path
	return With(ctx, w)
}
