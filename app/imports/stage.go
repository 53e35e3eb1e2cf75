package imports

import (
	"bufio"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"strconv"
	"strings"

	"github.com/jackc/pgx/v5"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/form"
	"pinegate/core/intake"
	"pinegate/core/query"
	"pinegate/core/words"
)

// bringer reads the rows of a sheet into a table of its own, and writes them from
// there into the table where they belong.
type bringer struct {
	*run
	sheet   int
	table   *blueprint.Table
	cells   []*cell
	missing []missing
	samples []intake.SampleRow // where it only counts
	wrong   []intake.SampleRow
	links   map[string][][2]string // of fields that hold many
	added   []string
	rows    int // that stand in the table of its own
	alone   []*alone
	lacking *blueprint.Field // which new records must have, and nothing fills
}

// stagingPrefix is how the names of all tables begin into which imports read.
const stagingPrefix = "_import_"

// stagingOf is how they begin of one import, whichever run of it made them.
func stagingOf(id string) string { return stagingPrefix + strings.ReplaceAll(id, "-", "") + "_" }

// staging is how they begin of this run: another one of the same import, which was
// taken for dead, may still be about.
func (r *run) staging() string { return stagingOf(r.id) + r.claim[:8] + "_" }

// name names the table into which the sheet is read.
func (b *bringer) name() string {
	return pgx.Identifier{b.seat.Schema, b.staging() + strconv.Itoa(b.sheet)}.Sanitize()
}

// held lists the columns of the sheet that a column of the table holds.
func (b *bringer) held() []*cell {
	var out []*cell
	for _, c := range b.cells {
		if c.field.Type != blueprint.Links {
			out = append(out, c)
		}
	}
	return out
}

// stage reads a sheet.
func (r *run) stage(ctx context.Context, i int, sheet *intake.Sheet) (*bringer, error) {
	t := r.seat.Blueprint.Table(r.carried.Tables[i])
	cells, err := r.cells(ctx, i, &r.proposal.Sheets[i], t)
	if err != nil {
		return nil, err
	}
	b := &bringer{run: r, sheet: i, table: t, cells: cells, links: map[string][][2]string{}}
	if plan := r.proposal.Sheets[i]; plan.Mode == intake.Append {
		lacking, err := b.lacks(ctx)
		if err != nil {
			return nil, err
		}
		if lacking != nil {
			return nil, words.New("import-lacks", "field", lacking.Name, "table", t.Name, "sheet", plan.Sheet)
		}
		b.alone = b.aloneIn()
	}
	if err := b.findMissing(sheet); err != nil {
		return nil, err
	}
	if r.dry {
		w := csv.NewWriter(io.Discard)
		return b, b.each(ctx, sheet, func(row *read) error { return b.take(ctx, w, row) })
	}
	return b, b.copy(ctx, sheet)
}

// copy streams the rows that can be read into the table of its own.
func (b *bringer) copy(ctx context.Context, sheet *intake.Sheet) error {
	held, err := b.service.store.Hold(ctx)
	if err != nil {
		return err
	}
	defer held.Release()
	name := b.name()
	columns := []string{"id uuid"}
	for i, c := range b.held() {
		columns = append(columns, fmt.Sprintf("c%d %s", i, c.field.Type.Column()))
	}
	// what it holds is read anew if the server or the database goes down
	if _, err := held.Exec(ctx, fmt.Sprintf("DROP TABLE IF EXISTS %s; CREATE UNLOGGED TABLE %s (%s)", name, name,
		strings.Join(columns, ", "))); err != nil {
		return fmt.Errorf("make room to read %s: %w", sheet.Name, err)
	}
	reader, writer := io.Pipe()
	result := make(chan error, 1)
	go func() {
		buffer := bufio.NewWriterSize(writer, 1<<16)
		w := csv.NewWriter(buffer)
		err := b.each(ctx, sheet, func(row *read) error { return b.take(ctx, w, row) })
		w.Flush()
		err = errors.Join(err, w.Error(), buffer.Flush())
		writer.CloseWithError(err) // no error ends the file
		result <- err
	}()
	_, err = held.Conn().PgConn().CopyFrom(ctx, reader, fmt.Sprintf("COPY %s FROM STDIN WITH (FORMAT csv)", name))
	reader.CloseWithError(errCancelled)
	if read := <-result; read != nil {
		return read
	}
	if err != nil {
		return fmt.Errorf("copy %s: %w", sheet.Name, err)
	}
	return nil
}

// insert writes what was read into the table where it belongs, after those that are there by then: links that lead to others
// are written later.
func (b *bringer) insert(ctx context.Context, there []int) error {
	b.table = b.seat.Blueprint.Table(b.table.ID) // its key may be another by now
	for _, c := range b.cells {
		c.field = b.table.Field(c.field.ID)
		if c.target != nil {
			c.target = b.seat.Blueprint.Table(c.target.ID)
		}
	}
	for _, m := range b.missing {
		if err := b.addMissing(ctx, m); err != nil {
			return err
		}
	}
	name := b.name()
	to, from := []string{"id", "created_by", "changed_by"}, []string{"id", "$1::text", "$1::text"}
	for i, c := range b.held() {
		if err := b.drop(ctx, name, i, c); err != nil {
			return err
		}
		if l := c.column.Link; l != nil && l.Sheet >= 0 && !slices.Contains(there, l.Sheet) {
			c.forward = true
			continue
		}
		to, from = append(to, query.Quote(c.field.Key)), append(from, fmt.Sprintf("c%d", i))
	}
	args := []any{b.by}
	given, err := b.road.Defaults(ctx, b.seat, b.table)
	if err != nil {
		return err
	}
	for i := range b.table.Fields {
		f := &b.table.Fields[i]
		if v := given[f.ID]; !v.IsEmpty() && f.Type != blueprint.Links && !b.fills(f.ID) {
			args = append(args, copied(v))
			to, from = append(to, query.Quote(f.Key)), append(from, fmt.Sprintf("$%d::text::%s", len(args), f.Type.Column()))
		}
	}
	sql := fmt.Sprintf("INSERT INTO %s.%s (%s) SELECT %s FROM %s", query.Quote(b.seat.Schema), query.Quote(b.table.Key),
		strings.Join(to, ", "), strings.Join(from, ", "), name)
	tag, err := b.conn.Exec(ctx, sql, args...)
	if err != nil {
		return b.seat.Taken(b.table, fmt.Errorf("write %s: %w", b.table.Name, err))
	}
	if tag.RowsAffected() != int64(b.rows) { // the database went down since it was read
		return fmt.Errorf("write %s: %d of %d rows that were read are there: %w", b.table.Name, tag.RowsAffected(), b.rows, errLost)
	}
	return nil
}

// drop takes out the links of a column that lead to rows which were put aside.
func (b *bringer) drop(ctx context.Context, name string, at int, c *cell) error {
	if c.column.Link == nil || c.column.Link.Sheet < 0 || len(b.gone) == 0 {
		return nil
	}
	tag, err := b.conn.Exec(ctx, fmt.Sprintf("UPDATE %s SET c%d = NULL WHERE c%d = ANY ($1::uuid[])", name, at, at),
		slices.Collect(maps.Keys(b.gone)))
	if err != nil {
		return fmt.Errorf("take out links to rows that were put aside: %w", err)
	}
	c.made -= int(tag.RowsAffected())
	c.empty += int(tag.RowsAffected())
	return nil
}

// errLost tells that what was read is not there any more; it is read anew.
var errLost = errors.New("what was read is lost")

// copied gives a value as it stands in what is copied; nothing for empty.
func copied(v expr.Value) string {
	if len(v.Items) == 0 {
		return v.String()
	}
	items := make([]string, len(v.Items))
	for i, x := range v.Items {
		items[i] = x.Text
	}
	return "{" + strings.Join(items, ",") + "}"
}

// point gives the records to which a cell points; values that point to nothing are left out.
func (c *cell) point(text string) (ids []string, missing int, wrong string) {
	for _, part := range c.parts(text) {
		id, ok := c.links[intake.Fold(part)]
		switch {
		case id == ambiguous:
			return nil, 0, words.Say("import-several-named", words.Args{"value": strings.TrimSpace(part), "table": c.target.Name})
		case !ok:
			missing++
		case !slices.Contains(ids, id):
			ids = append(ids, id)
		}
	}
	return ids, missing, ""
}

// needs says what is wrong with a cell that must point to a record and does not.
func (c *cell) needs(text string) string {
	if text == "" {
		return form.Missing(c.field).Error()
	}
	return words.Say("no-record-named", words.Args{"value": text, "table": c.target.Name})
}

func (r *run) setAside(sheet, n int, reason string, cells []string) error {
	kept := make([]string, len(cells))
	copy(kept, cells)
	r.aside = append(r.aside, asideRow{sheet: sheet, row: n, reason: reason, cells: kept})
	const most = 100_000
	if len(r.aside) > most {
		return words.New("import-unreadable", "most", most)
	}
	return nil
}
