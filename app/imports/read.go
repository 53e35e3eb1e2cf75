package imports

import (
	"context"
	"encoding/csv"
	"runtime"
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/form"
	"pinegate/core/intake"
)

// read is a row that was read: what it has in the columns of the table of its own, and the records to which it points, by the
// cells of the sheet; or what is wrong with it.
type read struct {
	n     int
	cells []string
	out   []string
	links [][]string
	empty []int // values of each cell that point to nothing
	wrong string
	// stored is what it has in the columns of the table of its own, where some must differ
	stored map[*cell]string
}

// read reads a row. It changes nothing, so that several are read at once.
func (b *bringer) read(n int, cells []string) *read {
	row := &read{n: n, cells: cells, out: make([]string, 1, len(b.cells)+1), links: make([][]string, len(b.cells)), empty: make([]int, len(b.cells))}
	row.out[0] = b.recordID(b.sheet, n)
	for i, c := range b.cells {
		text := strings.TrimSpace(cells[c.at])
		if c.field.Type == blueprint.Link || c.field.Type == blueprint.Links {
			ids, missing, wrong := c.point(text)
			if wrong != "" {
				row.wrong = c.column.Header + ": " + wrong
				return row
			}
			if c.field.Required && len(ids) == 0 {
				row.wrong = c.column.Header + ": " + c.needs(text)
				return row
			}
			if row.links[i], row.empty[i] = ids, missing; c.field.Type == blueprint.Link {
				row.out = append(row.out, strings.Join(ids, ""))
			}
			continue
		}
		v, wrong := c.reader.Read(text)
		if wrong == nil && c.field.Required && v.IsEmpty() {
			wrong = form.Missing(c.field)
		}
		if wrong != nil {
			row.wrong = c.column.Header + ": " + wrong.Error()
			return row
		}
		row.out = append(row.out, copied(v))
	}
	return row
}

// take writes a row that was read, or keeps it aside.
func (b *bringer) take(ctx context.Context, w *csv.Writer, row *read) error {
	if err := b.progress(ctx, 1); err != nil {
		return err
	}
	record := row.out[0]
	if row.wrong == "" && len(b.alone) > 0 {
		row.wrong = b.first(row.stored, record)
	}
	if row.wrong != "" {
		b.gone[record] = true
		b.sampleAside(row)
		return b.setAside(b.sheet, row.n, row.wrong, row.cells)
	}
	b.sample(row)
	for i, c := range b.cells {
		if c.field.Type != blueprint.Link && c.field.Type != blueprint.Links {
			continue
		}
		ids := row.links[i]
		c.made += len(ids)
		b.noteMissing(c, row.cells[c.at])
		c.empty += row.empty[i]
		if c.field.Type == blueprint.Links {
			for _, to := range ids {
				b.links[c.field.ID] = append(b.links[c.field.ID], [2]string{record, to})
			}
		}
	}
	if b.proposal.Sheets[b.sheet].Mode == intake.Append {
		b.added = append(b.added, record)
	}
	b.imported++
	b.rows++
	return w.Write(row.out)
}

// Bounds of how far rows are read ahead: how many in a batch, of how many bytes, and how many batches.
const (
	batchRows  = 256
	batchBytes = 1 << 20
	batches    = 4
)

// batch are rows that are read together, elsewhere than those before and behind.
type batch struct {
	numbers []int
	cells   [][]string
	bytes   int
	rows    []*read
	wrong   error
	done    chan struct{}
}

// each reads the rows of a sheet, several batches at once, and has them taken in their order.
func (b *bringer) each(ctx context.Context, sheet *intake.Sheet, take func(*read) error) error {
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	ordered := make(chan *batch, batches)
	result := make(chan error, 1)
	go func() {
		defer close(ordered)
		result <- b.batches(ctx, sheet, ordered)
	}()
	for next := range ordered {
		<-next.done
		if next.wrong != nil {
			return next.wrong
		}
		for _, row := range next.rows {
			if err := take(row); err != nil {
				return err
			}
		}
		runtime.Gosched() // others get their turn on the processor
	}
	return <-result
}

// batches gathers the rows of a sheet into batches, each of which is read on its own.
func (b *bringer) batches(ctx context.Context, sheet *intake.Sheet, ordered chan<- *batch) error {
	now := &batch{}
	send := func() error {
		x := now
		x.done, now = make(chan struct{}), &batch{}
		select {
		case ordered <- x:
		case <-ctx.Done():
			return ctx.Err()
		}
		go func() {
			defer close(x.done)
			x.rows = make([]*read, len(x.cells))
			for i := range x.cells {
				x.rows[i] = b.read(x.numbers[i], x.cells[i])
			}
			x.wrong = b.differ(ctx, x.rows)
		}()
		return nil
	}
	err := sheet.Each(func(n int, cells []string) error {
		now.numbers, now.cells = append(now.numbers, n), append(now.cells, cells)
		for _, c := range cells {
			now.bytes += len(c)
		}
		if len(now.cells) < batchRows && now.bytes < batchBytes {
			return nil
		}
		return send()
	})
	if err != nil {
		return err
	}
	return send()
}
