package records

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/form"
	"pinegate/core/query"
	"pinegate/store"
)

// File is what is known of a file of a record. Its bytes are in the blob store.
type File struct {
	ID      string `json:"id"`
	Name    string `json:"name"`
	Type    string `json:"type"`    // media type, found from its bytes
	Size    int64  `json:"size"`    // bytes
	Picture bool   `json:"picture"` // browsers show it
}

// Names lists the names of files.
func Names(list []File) []string {
	var out []string
	for _, f := range list {
		out = append(out, f.Name)
	}
	return out
}

func (s *Seat) filesTable() string {
	return query.Quote(s.Schema) + "." + query.Quote(query.FilesTable)
}

// FilesFolder is the folder of the blob store that holds the files of the app.
// Its environments share it, as live records begin as copies of the draft's.
func (s *Seat) FilesFolder() string {
	return FilesFolder(s.Schema)
}

// FilesFolder is the folder of the blob store for an environment's files.
func FilesFolder(schema string) string {
	return strings.TrimSuffix(strings.TrimSuffix(schema, "_draft"), "_live")
}

// MayReceive tells whether the person may set the field in some record, new or
// old, so that a file for it is worth receiving.
func (s *Seat) MayReceive(t *blueprint.Table, f *blueprint.Field) (bool, error) {
	for _, action := range []blueprint.Action{blueprint.Add, blueprint.Modify} {
		may, err := access.MaySet(s.Blueprint, s.Catalog, s.Viewer, t.ID, f.ID, action)
		if may || err != nil {
			return may, err
		}
	}
	return false, nil
}

// Receive notes a file that was received for a field. It belongs to no record
// until one is written with its id, by the same person.
func (r Road) Receive(ctx context.Context, s *Seat, t *blueprint.Table, f *blueprint.Field, file File) error {
	may, err := s.MayReceive(t, f)
	if err != nil {
		return err
	}
	if !may || !f.Type.Filed() {
		return ErrForbidden
	}
	sql := fmt.Sprintf("INSERT INTO %s (id, name, type, size, picture, field_id, added_by) VALUES ($1, $2, $3, $4, $5, $6, $7)",
		s.filesTable())
	if err := r.exec(ctx, sql, file.ID, file.Name, file.Type, file.Size, file.Picture, f.ID, s.By); err != nil {
		return fmt.Errorf("note a file: %w", err)
	}
	return nil
}

// File gives what is known of a file that a field of a record holds, for
// somebody who sees both; [store.ErrNotFound] for all others.
func (r Road) File(ctx context.Context, s *Seat, t *blueprint.Table, record, field, id string) (File, error) {
	f := t.Field(field)
	if f == nil || !f.Type.Filed() || !blueprint.IsRecordID(record) {
		return File{}, store.ErrNotFound
	}
	if sees, err := s.Sees(t.ID, field); err != nil || !sees {
		return File{}, errors.Join(err, missingIf(err == nil))
	}
	rows, _, err := r.List(ctx, s, query.Selection{Table: t, Columns: []string{field}, ID: record, Limit: 1})
	if err != nil || len(rows) == 0 {
		return File{}, errors.Join(err, missingIf(err == nil))
	}
	var row map[string]json.RawMessage
	var held []File
	if err := json.Unmarshal(rows[0], &row); err != nil {
		return File{}, fmt.Errorf("read files: %w", err)
	}
	if err := json.Unmarshal(row[field+"~"], &held); err != nil {
		return File{}, fmt.Errorf("read files: %w", err)
	}
	i := slices.IndexFunc(held, func(x File) bool { return x.ID == id })
	if i < 0 {
		return File{}, store.ErrNotFound
	}
	return held[i], nil
}

// FilesOf gives what is known of files that records hold, in the order of their ids. The caller got the ids
// from records that may be seen; one that is not there any more is left out.
func (r Road) FilesOf(ctx context.Context, s *Seat, ids []string) ([]File, error) {
	rows, err := r.rows(ctx, query.Statement{SQL: fmt.Sprintf("SELECT row_to_json(q)::text FROM (SELECT id, name, type, size, picture FROM %s"+
		" WHERE id = ANY ($1::text[]) AND record_id IS NOT NULL AND NOT gone ORDER BY array_position($1::text[], id)) q", s.filesTable()),
		Args: []any{ids}})
	if err != nil {
		return nil, fmt.Errorf("look for files: %w", err)
	}
	var out []File
	for _, raw := range rows {
		var f File
		if err := json.Unmarshal(raw, &f); err != nil {
			return nil, fmt.Errorf("read files: %w", err)
		}
		out = append(out, f)
	}
	return out, nil
}

// keepFiles makes files that are written into a record its own. They must have
// been received for the field by the same person, or be the record's already.
func (r Road) keepFiles(ctx context.Context, s *Seat, t *blueprint.Table, record string, values map[string]expr.Value) error {
	wrong := FieldErrors{}
	for _, fid := range keys(values) {
		f := t.Field(fid)
		if !f.Type.Filed() || values[fid].IsEmpty() {
			continue
		}
		wanted := ids(values[fid])
		sql := fmt.Sprintf(`WITH kept AS (UPDATE %s SET record_id = $1::uuid WHERE id = ANY ($2::text[]) AND field_id = $3 AND NOT gone
			AND (record_id = $1::uuid OR record_id IS NULL AND added_by = $4) RETURNING 1) SELECT count(*) FROM kept`, s.filesTable())
		n, err := r.number(ctx, query.Statement{SQL: sql, Args: []any{record, wanted, f.ID, s.By}})
		if err != nil {
			return fmt.Errorf("keep files: %w", err)
		}
		if n != len(wanted) {
			wrong[fid] = form.LostFile()
		}
	}
	if len(wrong) > 0 {
		return wrong
	}
	return nil
}
