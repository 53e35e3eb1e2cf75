package main

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"runtime/debug"
	"strconv"
	"strings"
	"sync/atomic"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"

	"pinegate/app/act"
	"pinegate/app/imports"
)

// imports brings a file of ten columns and as many rows as there are orders,
// and copies the same rows into a table of the same columns and indexes.
func (w *world) imports(ctx context.Context) error {
	file, plain := w.files()
	acts, err := act.New(w.a)
	if err != nil {
		return err
	}
	in := imports.New(w.s, w.a, acts)
	workers := river.NewWorkers()
	in.Worker(workers)
	jobs, err := river.NewClient(riverpgxv5.New(w.s.Pool),
		&river.Config{Queues: map[string]river.QueueConfig{imports.Queue: {MaxWorkers: 1}}, Workers: workers, JobTimeout: -1,
			FetchPollInterval: 20 * time.Millisecond, FetchCooldown: 10 * time.Millisecond})
	if err != nil {
		return err
	}
	if err := jobs.Start(context.WithoutCancel(ctx)); err != nil {
		return err
	}
	defer func() { _ = jobs.Stop(context.WithoutCancel(ctx)) }() // the process ends
	copied, err := w.copyTwin(ctx, plain)
	if err != nil {
		return err
	}
	plain = nil
	upload, err := in.Upload(ctx, w.app, "moorings.csv", bytes.NewReader(file))
	if err != nil {
		return err
	}
	file = nil
	debug.FreeOSMemory() // what making the files took does not count
	most := watchMemory(ctx)
	start := time.Now()
	p, err := in.Propose(ctx, w.app, []string{upload})
	if err != nil {
		return err
	}
	proposing := time.Since(start)
	start = time.Now()
	if p.Tally, err = in.Tally(ctx, w.app, []string{upload}, p); err != nil {
		return err
	}
	counting := time.Since(start)
	start = time.Now()
	id, err := in.Start(ctx, jobs, w.app, "bench", []string{upload}, p)
	if err != nil {
		return err
	}
	for {
		status, err := in.Status(ctx, w.app.ID, id)
		if err != nil {
			return err
		}
		if status.Status == "done" && status.Imported == w.orders {
			break
		}
		if status.Status != "waiting" && status.Status != "running" {
			return errors.New("import: " + status.Status + ": " + status.Message)
		}
		time.Sleep(20 * time.Millisecond)
	}
	row(fmt.Sprintf("Import of %d rows of ten columns, against COPY", w.orders), copied, time.Since(start), 2)
	fmt.Printf("\nReading the file to propose the import took %s before that, and counting what will be imported %s. The process held at most %d MB while it proposed and imported.\n", proposing.Round(10*time.Millisecond),
		counting.Round(10*time.Millisecond), most()/1_000_000)
	return nil
}

// files makes the file that is brought, and the same rows with ids for COPY.
func (w *world) files() (brought, copied []byte) {
	var a, b strings.Builder
	a.WriteString("Mooring,Owner,Laid on,Depth,Fee,Free,Dock,Contact,Remark,Weight\n")
	docks := []string{"North", "South", "Inner"}
	for i := range w.orders {
		owner := 1 + i*17%w.owners
		day := time.Date(2020, 1, 1+i%2000, 0, 0, 0, 0, time.UTC).Format(time.DateOnly)
		rest := fmt.Sprintf("%s,%d.%d,%d.50,%s,%s,m%d@sail.example,Remark number %d,%d", day, i%30, i%10, 100+i%900,
			map[bool]string{true: "yes", false: "no"}[i%3 == 0], docks[i%3], i, i, i%500)
		fmt.Fprintf(&a, "M%d,Owner %d,%s\n", i, owner, rest)
		fmt.Fprintf(&b, "%s,bench,bench,M%d,018f0000-0000-7001-8000-%012x,%s\n", newID(), i, owner, rest)
	}
	return []byte(a.String()), []byte(b.String())
}

// copyTwin copies the rows into a table as the product makes it.
func (w *world) copyTwin(ctx context.Context, rows []byte) (time.Duration, error) {
	for _, sql := range []string{`CREATE TABLE twin.moorings (id uuid PRIMARY KEY, created_at timestamptz(0) NOT NULL DEFAULT now(), created_by text NOT NULL, changed_at timestamptz(0) NOT NULL DEFAULT now(), changed_by text NOT NULL,
		revision integer NOT NULL DEFAULT 1, deleted_at timestamptz, mooring text, owner uuid REFERENCES twin.owners, laid_on date, depth numeric, fee numeric, free boolean, dock text, contact text, remark text, weight numeric)`,
		"CREATE INDEX ON twin.moorings (owner)"} {
		if _, err := w.s.Pool.Exec(ctx, sql); err != nil {
			return 0, err
		}
	}
	start := time.Now()
	err := pgx.BeginFunc(ctx, w.s.Pool, func(tx pgx.Tx) error {
		_, err := tx.Conn().PgConn().CopyFrom(ctx, bytes.NewReader(rows),
			"COPY twin.moorings (id, created_by, changed_by, mooring, owner, laid_on, depth, fee, free, dock, contact, remark, weight) FROM STDIN WITH (FORMAT csv)")
		return err
	})
	return time.Since(start), err
}

// watchMemory looks at the memory of the process until it is asked for the
// most that it was.
func watchMemory(ctx context.Context) func() int64 {
	ctx, stop := context.WithCancel(ctx)
	var most atomic.Int64
	go func() {
		for ctx.Err() == nil {
			if now := resident(); now > most.Load() {
				most.Store(now)
			}
			time.Sleep(50 * time.Millisecond)
		}
	}()
	return func() int64 { stop(); return most.Load() }
}

// resident gives the bytes of memory that the process holds.
func resident() int64 {
	raw, err := os.ReadFile("/proc/self/statm")
	if err != nil {
		return 0
	}
	parts := strings.Fields(string(raw))
	if len(parts) < 2 {
		return 0
	}
	pages, err := strconv.ParseInt(parts[1], 10, 64)
	if err != nil {
		return 0
	}
	return pages * int64(os.Getpagesize())
}
