package builder

import (
	"context"
	"errors"
	"io"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/core/blueprint"
	"pinegate/server/runtime"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/files"
	"pinegate/store/records"
)

func (h *Handlers) registerFiles(api huma.API) {
	appRoute(h, api, store.Viewer, http.MethodGet, "/tables/{table}/records/{record}/files/{field}/{file}", "A file of a record",
		func(ctx context.Context, r request, in struct {
			RecordInput
			Field string `path:"field"`
			File  string `path:"file"`
			Small bool   `query:"small" doc:"The small picture of it"`
		}) (*huma.StreamResponse, error) {
			seat, t, err := h.seated(ctx, r, in.OfTable)
			if err != nil {
				return nil, err
			}
			file, err := h.Apps.Road(ctx).File(ctx, seat, t, in.Record, in.Field, in.File)
			if err != nil {
				return nil, err
			}
			return runtime.Send(ctx, h.Files, seat.FilesFolder(), file, runtime.Wanted{Small: in.Small})
		})
	appRoute(h, api, store.Viewer, http.MethodGet, "/pictures/{picture}", "The picture of a choice",
		func(ctx context.Context, r request, in struct {
			Own
			Picture string `path:"picture"`
		}) (*huma.StreamResponse, error) {
			return runtime.SendPicture(ctx, h.Apps, h.Files, r.app, in.Picture, true)
		})
}

// own finds an app that the signed-in builder may change, for requests that are
// no JSON.
func (h *Handlers) own(ctx context.Context, app string) (request, error) {
	who, err := h.builder(ctx)
	if err != nil {
		return request{}, err
	}
	found, err := h.Apps.ByID(ctx, who.ID, app)
	if err == nil && !found.Member.May(store.Editor) {
		err = errLevel(store.Editor)
	}
	return request{found, who}, err
}

// UploadFile receives a file for a field of a table, seen as somebody.
func (h *Handlers) UploadFile(ctx context.Context, at OfTable, field, name string, body io.Reader) (records.File, error) {
	r, err := h.own(ctx, at.App)
	if err != nil {
		return records.File{}, err
	}
	seat, t, err := h.seated(ctx, r, at)
	if err != nil {
		return records.File{}, err
	}
	f := t.Field(field)
	if f == nil {
		return records.File{}, store.ErrNotFound
	}
	return runtime.Keep(ctx, h.Files, h.Apps, r.app, seat, t, f, name, body)
}

// UploadPicture receives a picture for a choice.
func (h *Handlers) UploadPicture(ctx context.Context, app, name string, body io.Reader) (records.File, error) {
	r, err := h.own(ctx, app)
	if err != nil {
		return records.File{}, err
	}
	if _, err := h.Apps.Room(ctx, r.app, 0); err != nil {
		return records.File{}, err
	}
	f, err := h.Files.Put(ctx, apps.PicturesFolder(r.app), files.Wanted{Name: name, Largest: blueprint.DefaultLargest << 20, Picture: true},
		body)
	if err != nil {
		return records.File{}, err
	}
	if err := h.Apps.AddPicture(ctx, r.app, f); err != nil {
		return records.File{}, errors.Join(err, h.Files.Drop(ctx, apps.PicturesFolder(r.app), f.ID))
	}
	return f, h.Apps.Took(ctx, r.app.ID, f.Size)
}
