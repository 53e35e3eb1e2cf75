package imports

import (
	"bufio"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"runtime"
	"strconv"
	"strings"

	"github.com/google/uuid"
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
	kept    []keeper
	missing []missing
	later   []later
	links   map[string][][2]string // of fields that hold many
	added   []string
	rows    int // that stand in the table of its own
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
	b.kept = b.keepers()
	if err := b.findMissing(sheet); err != nil {
		return nil, err
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
		err := sheet.Each(func(n int, cells []string) error { return b.row(ctx, w, n, cells) })
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

// insert writes what was read into the table where it belongs.
func (b *bringer) insert(ctx context.Context) error {
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
	to, from := []string{"id", "created_by", "changed_by"}, []string{"id", "$1::text", "$1::text"}
	for i, c := range b.held() {
		to, from = append(to, query.Quote(c.field.Key)), append(from, fmt.Sprintf("c%d", i))
	}
	name := b.name()
	sql := fmt.Sprintf("INSERT INTO %s.%s (%s) SELECT %s FROM %s", query.Quote(b.seat.Schema), query.Quote(b.table.Key),
		strings.Join(to, ", "), strings.Join(from, ", "), name)
	tag, err := b.conn.Exec(ctx, sql, b.by)
	if err != nil {
		return b.seat.Taken(b.table, fmt.Errorf("write %s: %w", b.table.Name, err))
	}
	if tag.RowsAffected() != int64(b.rows) { // the database went down since it was read
		return fmt.Errorf("write %s: %d of %d rows that were read are there: %w", b.table.Name, tag.RowsAffected(), b.rows, errLost)
	}
	if _, err := b.conn.Exec(ctx, "DROP TABLE "+name); err != nil {
		return fmt.Errorf("clear what was read: %w", err)
	}
	return nil
}

// errLost tells that what was read is not there any more; it is read anew.
var errLost = errors.New("what was read is lost")

// aBreath is after how many rows others get their turn on the processor.
const aBreath = 32

// row writes one row, or keeps it aside.
func (b *bringer) row(ctx context.Context, w *csv.Writer, n int, cells []string) error {
	if err := b.progress(ctx, 1); err != nil {
		return err
	}
	id, err := uuid.NewV7()
	if err != nil {
		return fmt.Errorf("make record id: %w", err)
	}
	record := id.String()
	out := []string{record}
	var forward []later
	links := map[string][]string{}
	for _, c := range b.cells {
		text := strings.TrimSpace(cells[c.at])
		if c.field.Type == blueprint.Link || c.field.Type == blueprint.Links {
			value, wait, wrong := c.point(text)
			if wrong != "" {
				return b.setAside(b.sheet, n, c.column.Header+": "+wrong, cells)
			}
			if wait {
				forward = append(forward, later{record, c, text})
			}
			if c.field.Type == blueprint.Links {
				links[c.field.ID] = value
				continue
			}
			out = append(out, strings.Join(value, ""))
			continue
		}
		v, wrong := c.reader.Read(text)
		if wrong != nil {
			return b.setAside(b.sheet, n, c.column.Header+": "+wrong.Error(), cells)
		}
		if c.field.Required && v.IsEmpty() {
			return b.setAside(b.sheet, n, c.column.Header+": "+form.Missing(c.field).Error(), cells)
		}
		out = append(out, copied(v))
	}
	for _, k := range b.kept {
		k.keep(record, cells)
	}
	b.later = append(b.later, forward...)
	for field, list := range links {
		for _, to := range list {
			b.links[field] = append(b.links[field], [2]string{record, to})
		}
	}
	if b.proposal.Sheets[b.sheet].Mode == intake.Append {
		b.added = append(b.added, record)
	}
	b.imported++
	b.rows++
	if b.rows%aBreath == 0 {
		runtime.Gosched()
	}
	return w.Write(out)
}

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

// point gives the records to which a cell points; wait tells that they may
// come later.
func (c *cell) point(text string) (ids []string, wait bool, wrong string) {
	if text == "" {
		return nil, false, ""
	}
	for _, part := range c.parts(text) {
		id, ok := c.links[intake.Fold(part)]
		switch {
		case id == ambiguous:
			return nil, false, words.Say("import-several-named", words.Args{"value": strings.TrimSpace(part), "table": c.target.Name})
		case ok:
			ids = append(ids, id)
		case c.column.Link != nil && c.column.Link.Sheet >= 0:
			wait = true
		}
	}
	return ids, wait, ""
}

// keeper remembers records by a column to which others point.
type keeper struct {
	at    int // the column
	known map[string]string
}

func (k keeper) keep(record string, cells []string) {
	if strings.TrimSpace(cells[k.at]) == "" {
		return
	}
	key := intake.Fold(cells[k.at])
	if _, twice := k.known[key]; twice {
		k.known[key] = ambiguous
	} else {
		k.known[key] = record
	}
}

// keepers gives one for each column of the sheet to which others point.
func (b *bringer) keepers() []keeper {
	var out []keeper
	for j, c := range b.proposal.Sheets[b.sheet].Columns {
		key := fmt.Sprintf("%d %s", b.sheet, c.Header)
		if b.keys[key] == nil && b.pointedTo(c.Header) {
			b.keys[key] = map[string]string{}
		}
		if known := b.keys[key]; known != nil {
			out = append(out, keeper{j, known})
		}
	}
	return out
}

// pointedTo tells whether a column of another sheet points to the column.
func (b *bringer) pointedTo(header string) bool {
	for _, s := range b.proposal.Sheets {
		for _, c := range s.Columns {
			if c.Link != nil && !c.Skip && c.Link.Sheet == b.sheet && c.Link.By == header {
				return true
			}
		}
	}
	return false
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
