package runtime

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"regexp"
	"strconv"

	"github.com/danielgtaylor/huma/v2"
	"gocloud.dev/blob"

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

// Wanted is what somebody wants of a file: a small picture of it, or a part that stands in
// the header Range, RFC 9110.
type Wanted struct {
	Small bool
	Range string
}

var oneRange = regexp.MustCompile(`^bytes=(\d{1,18})-(\d{0,18})$`)

// part gives the bytes of a file that are wanted, the first and the last of them; false where
// that is all of it. What is no plain range, or none of the file, is answered with all.
func (w Wanted) part(size int64) (from, to int64, ok bool) {
	m := oneRange.FindStringSubmatch(w.Range)
	if m == nil || w.Small {
		return 0, 0, false
	}
	from, errFrom := strconv.ParseInt(m[1], 10, 64)
	to, errTo := strconv.ParseInt(m[2], 10, 64)
	if m[2] == "" || to >= size {
		to, errTo = size-1, nil
	}
	return from, to, errFrom == nil && errTo == nil && from <= to
}

// Send answers with the bytes of a file. Pictures are shown; all else is saved
// by the browser, and nothing in it is run.
func Send(ctx context.Context, kept *files.Store, folder string, file records.File, want Wanted) (*huma.StreamResponse, error) {
	want.Small = want.Small && file.Picture
	from, to, part := want.part(file.Size)
	var r *blob.Reader
	var err error
	if part {
		r, err = kept.Part(ctx, folder, file.ID, from, to-from+1)
	} else {
		r, err = kept.Get(ctx, folder, file.ID, want.Small)
	}
	if err != nil {
		return nil, err
	}
	return &huma.StreamResponse{Body: func(hc huma.Context) {
		kind, size := file.Type, r.Size()
		if want.Small {
			kind = r.ContentType()
		}
		if part {
			size = to - from + 1
			hc.SetHeader("Content-Range", fmt.Sprintf("bytes %d-%d/%d", from, to, file.Size))
			hc.SetStatus(http.StatusPartialContent)
		}
		hc.SetHeader("Accept-Ranges", "bytes")
		hc.SetHeader("Content-Type", kind)
		hc.SetHeader("Content-Length", strconv.FormatInt(size, 10))
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
	return Send(ctx, kept, apps.PicturesFolder(app), file, Wanted{Small: small})
}

type fileInput struct {
	Table  string `path:"table"`
	Record string `path:"record"`
	Field  string `path:"field"`
	File   string `path:"file"`
	Small  bool   `query:"small" doc:"The small picture of it"`
	Range  string `header:"Range" doc:"A part of it, as players ask for"`
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
			answer, err := Send(ctx, h.Files, p.Seat.FilesFolder(), file, Wanted{in.Small, in.Range})
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
	if asked == nil || !asked.Field.Type.Filed() {
		return records.File{}, store.ErrNotFound
	}
	if h.Gate != nil {
		if err := h.Gate.AllowUpload(ctx, p.App, p.From, p.person()); err != nil {
			return records.File{}, err
		}
	}
	return Keep(ctx, h.Files, h.Apps, p.App, p.Seat, asked.Table, asked.Field, name, body)
}
