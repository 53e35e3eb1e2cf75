package run

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"syscall"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/flow"
	"pinegate/core/paper"
	"pinegate/core/words"
	"pinegate/store/files"
	"pinegate/store/records"
)

// wordEnding is that of the names of Word files.
const (
	wordEnding   = ".docx"
	mostTemplate = 20 << 20 // bytes
)

// document fills in a Word file and keeps it in a field of a record. In a rehearsal it is filled in, and not kept.
func (d *doing) document(ctx context.Context, e *flow.Document) error {
	table := d.table(e.Table)
	f := table.Field(e.Field)
	template, err := d.template(ctx, e.Template)
	if err != nil {
		return err
	}
	env := d.env(ctx)
	made, err := paper.Fill(template, &onPaper{catalog: d.seat.Catalog, env: env, table: table.ID, record: expr.RecordOf(e.Record)})
	if err = errors.Join(err, env.Err()); err != nil {
		return err
	}
	d.log.did(words.Say("flow-document", words.Args{"name": e.Title}))
	if d.start.Pass {
		return nil
	}
	kept, err := d.keepDocument(ctx, table, f, e.Title+wordEnding, made)
	if err != nil {
		return err
	}
	ids := []expr.Value{expr.FileOf(kept.ID)}
	if f.Several { // a version is kept, and never written over
		had := env.Field(expr.RecordOf(e.Record), d.fieldOf(e.Table, f.ID))
		ids = append(append([]expr.Value{}, had.Items...), ids...)
	}
	entered, err := records.Entered(map[string]expr.Value{f.ID: expr.ListValue(ids)})
	if err = errors.Join(err, env.Err()); err != nil {
		return err
	}
	w, err := d.road.Change(ctx, d.seat, table, e.Record, records.AnyRevision, entered, nil)
	if err != nil {
		return d.about(err, e.Table)
	}
	d.log.now().Writes = append(d.log.now().Writes, w)
	return nil
}

// keepDocument keeps a file that a field of a record is to hold. Where the run does not come to its end, it belongs to
// no record, and is swept with others of those.
func (d *doing) keepDocument(ctx context.Context, table *blueprint.Table, f *blueprint.Field, name string, made []byte) (records.File, error) {
	owned := d.runs.Apps.In(d.unit.Tx)
	if _, err := owned.Room(ctx, d.start.App, 0); err != nil {
		return records.File{}, err
	}
	kept, err := d.runs.Files.Put(ctx, d.seat.FilesFolder(), files.Wanted{Name: name, Largest: f.LargestFile()}, bytes.NewReader(made))
	if errors.Is(err, syscall.ENOSPC) {
		err = errors.Join(words.New("flow-no-room"), err)
	}
	if err != nil {
		return kept, err
	}
	if err := d.road.Receive(ctx, d.seat, table, f, kept); err != nil {
		return kept, d.about(err, table.ID)
	}
	return kept, owned.Took(ctx, d.start.App.ID, kept.Size)
}

func (d *doing) fieldOf(table, id string) *expr.Field {
	for _, f := range d.seat.Catalog.Tables[table].Fields {
		if f.ID == id {
			return f
		}
	}
	return nil
}

// template reads the Word file that is filled in.
func (d *doing) template(ctx context.Context, id string) ([]byte, error) {
	list, err := d.road.FilesOf(ctx, d.seat, []string{id})
	if err != nil {
		return nil, err
	}
	if len(list) == 0 {
		return nil, words.New("flow-no-template")
	}
	if list[0].Size > mostTemplate {
		return nil, words.New("paper-large", "mb", mostTemplate>>20)
	}
	r, err := d.runs.Files.Get(ctx, d.seat.FilesFolder(), id, false)
	if err != nil {
		return nil, fmt.Errorf("read a template: %w", err)
	}
	raw, err := io.ReadAll(r)
	if err = errors.Join(err, r.Close()); err != nil {
		return nil, fmt.Errorf("read a template: %w", err)
	}
	return raw, nil
}

// onPaper gives the placeholders of a document the values of a record, as whoever runs the step sees them.
type onPaper struct {
	catalog *expr.Catalog
	env     *known
	table   string // id
	record  expr.Value
}

func (o *onPaper) scope() expr.Scope { return expr.Scope{Catalog: o.catalog, Row: o.table} }

// about is the environment with the record in hand.
func (o *onPaper) about() expr.Env { return expr.Holding{Env: o.env, Record: o.record} }

// Text gives what a placeholder shows.
func (o *onPaper) Text(source string) (string, error) {
	t, err := expr.CheckTemplate("{{"+source+"}}", o.scope())
	if err != nil {
		return "", err
	}
	return t.Text(t.Shown(o.catalog, o.about())), nil
}

// Holds tells whether a condition holds.
func (o *onPaper) Holds(source string) (bool, error) {
	c, err := expr.CheckCondition(source, o.scope())
	if err != nil {
		return false, words.New("paper-placeholder", "piece", "{{ if "+source+" }}", "problem", err.Error())
	}
	return expr.Eval(c, o.catalog, o.about()).True(), nil
}

// Each gives the records of a list.
func (o *onPaper) Each(source string) ([]paper.Values, error) {
	piece := "{{ each " + source + " }}"
	c, err := expr.Check(source, o.scope())
	if err != nil {
		return nil, words.New("paper-placeholder", "piece", piece, "problem", err.Error())
	}
	if is := c.Type(); is.Kind != expr.Record || !is.Many {
		return nil, words.New("paper-placeholder", "piece", piece, "problem", words.Say("flow-list", nil))
	}
	var out []paper.Values
	for _, x := range expr.Eval(c, o.catalog, o.about()).Items {
		out = append(out, &onPaper{o.catalog, o.env, c.Type().Table, x})
	}
	return out, nil
}
