package runtime

import (
	"context"
	"errors"
	"io"
	"log/slog"
	"net/http"
	"strconv"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/core/blueprint"
	"pinegate/server/reply"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/files"
	"pinegate/store/records"
)

// Keep receives a file for a field of a table, for somebody who may set it.
func Keep(ctx context.Context, kept *files.Store, a *apps.Apps, app store.App, seat *records.Seat, t *blueprint.Table, f *blueprint.Field,
	name string, body io.Reader) (records.File, error) {
	may, err := seat.MayReceive(t, f)
	if err != nil {
		return records.File{}, err
	}
	if !may || !f.Type.Filed() {
		return records.File{}, records.ErrForbidden
	}
	if _, err := a.Room(ctx, app, 0); err != nil {
		return records.File{}, err
	}
	file, err := kept.Put(ctx, seat.FilesFolder(), files.Wanted{Name: name, Largest: f.LargestFile(), Picture: f.Type == blueprint.Picture},
		body)
	if err != nil {
		return records.File{}, err
	}
	if err := a.Road(ctx).Receive(ctx, seat, t, f, file); err != nil {
		return records.File{}, errors.Join(err, kept.Drop(ctx, seat.FilesFolder(), file.ID))
	}
	return file, a.Took(ctx, app.ID, file.Size)
}

// Send answers with the bytes of a file. Pictures are shown; all else is saved
// by the browser, and nothing in it is run.
func Send(ctx context.Context, kept *files.Store, folder string, file records.File, small bool) (*huma.StreamResponse, error) {
	small = small && file.Picture
	r, err := kept.Get(ctx, folder, file.ID, small)
	if err != nil {
		return nil, err
	}
	return &huma.StreamResponse{Body: func(hc huma.Context) {
		kind := file.Type
		if small {
			kind = r.ContentType()
		}
		hc.SetHeader("Content-Type", kind)
		hc.SetHeader("Content-Length", strconv.FormatInt(r.Size(), 10))
		hc.SetHeader("Content-Disposition", files.Disposition(file))
		hc.SetHeader("Content-Security-Policy", "default-src 'none'; sandbox")
		hc.SetHeader("Cache-Control", "private, max-age=300")
		_, err := io.Copy(hc.BodyWriter(), r)
		if err = errors.Join(err, r.Close()); err != nil {
			if ctx.Err() == nil {
				slog.ErrorContext(ctx, "send a file", "error", err)
			}
			panic(http.ErrAbortHandler) // cutting the answer off is how the browser hears of it
		}
	}}, nil
}

// SendPicture answers with a picture of an app.
func SendPicture(ctx context.Context, a *apps.Apps, kept *files.Store, app store.App, id string, small bool) (*huma.StreamResponse, error) {
	file, err := a.Picture(ctx, app, id)
	if err != nil {
		return nil, err
	}
	return Send(ctx, kept, apps.PicturesFolder(app), file, small)
}

type fileInput struct {
	Table  string `path:"table"`
	Record string `path:"record"`
	Field  string `path:"field"`
	File   string `path:"file"`
	Small  bool   `query:"small" doc:"The small picture of it"`
}

func (h *Handlers) registerFiles(api huma.API) {
	huma.Register(api, huma.Operation{OperationID: "get-file", Method: http.MethodGet, Path: "/files/{table}/{record}/{field}/{file}",
		Summary: "A file of a record"},
		func(ctx context.Context, in *fileInput) (*huma.StreamResponse, error) {
			p := h.Place(ctx)
			file, err := h.file(ctx, p, in)
			if err != nil {
				return nil, reply.Error(ctx, err)
			}
			answer, err := Send(ctx, h.Files, p.Seat.FilesFolder(), file, in.Small)
			return answer, reply.Error(ctx, err)
		})
	huma.Register(api, huma.Operation{OperationID: "get-picture", Method: http.MethodGet, Path: "/pictures/{picture}",
		Summary: "A picture of the app"},
		func(ctx context.Context, in *struct {
			Picture string `path:"picture"`
			Whole   bool   `query:"whole" doc:"As it was sent, not made small"`
		}) (*huma.StreamResponse, error) {
			answer, err := SendPicture(ctx, h.Apps, h.Files, h.Place(ctx).App, in.Picture, !in.Whole)
			return answer, reply.Error(ctx, err)
		})
}

func (h *Handlers) file(ctx context.Context, p *Place, in *fileInput) (records.File, error) {
	t := p.Seat.Blueprint.Table(in.Table)
	if t == nil {
		return records.File{}, store.ErrNotFound
	}
	return h.Apps.Road(ctx).File(ctx, p.Seat, t, in.Record, in.Field, in.File)
}

// Upload receives a file for a question of a form that the person is asked.
func (h *Handlers) Upload(ctx context.Context, block, field string, at PageInput, name string, body io.Reader) (records.File, error) {
	p := h.Place(ctx)
	if err := p.writable(); err != nil {
		return records.File{}, err
	}
	v, err := p.open(ctx, h.Apps, at.Path, at.Record)
	if err != nil {
		return records.File{}, err
	}
	u, err := v.Use(block)
	if err != nil {
		return records.File{}, err
	}
	asked, err := u.Asked(field)
	if err != nil {
		return records.File{}, err
	}
	if asked == nil || !asked.Type.Filed() {
		return records.File{}, store.ErrNotFound
	}
	if h.Gate != nil {
		if err := h.Gate.AllowUpload(ctx, p.App, p.From, p.person()); err != nil {
			return records.File{}, err
		}
	}
	return Keep(ctx, h.Files, h.Apps, p.App, p.Seat, u.Table, asked, name, body)
}
