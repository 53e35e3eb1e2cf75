// Command bench compares the product with a twin that is written by hand for
// the same tables: Gin, GORM and plain SQL. Both run in turns in one process on
// one database, so that what is printed are ratios.
package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"log/slog"
	"os"
	"os/signal"
	"slices"
	"time"

	"github.com/jackc/pgx/v5"

	"pinegate/store"
	"pinegate/store/localpg"
)

func main() {
	dsn := flag.String("database", os.Getenv(localpg.TestVariable),
		"address of a PostgreSQL server on which a database is made and dropped again")
	orders := flag.Int("orders", 1_000_000, "work orders; there is an owner for every 20")
	only := flag.String("only", "", "measure this alone: lists, rules, totals, pages, figures, forms, flows or imports")
	flag.Parse()
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt)
	defer stop()
	slog.SetDefault(slog.New(slog.DiscardHandler))
	if err := run(ctx, *dsn, *orders, *only); err != nil {
		fmt.Fprintln(os.Stderr, "bench:", err)
		os.Exit(1)
	}
}

const database = "pinegate_bench"

func run(ctx context.Context, dsn string, orders int, only string) (err error) {
	conn, err := pgx.Connect(ctx, dsn)
	if err != nil {
		return fmt.Errorf("connect: %w", err)
	}
	defer func() {
		_, dropped := conn.Exec(context.WithoutCancel(ctx), "DROP DATABASE IF EXISTS "+database+" WITH (FORCE)")
		err = errors.Join(err, dropped, conn.Close(context.WithoutCancel(ctx)))
	}()
	for _, sql := range []string{"DROP DATABASE IF EXISTS " + database + " WITH (FORCE)", "CREATE DATABASE " + database} {
		if _, err := conn.Exec(ctx, sql); err != nil {
			return fmt.Errorf("make database: %w", err)
		}
	}
	s, err := store.Open(ctx, dsn+" dbname="+database)
	if err != nil {
		return err
	}
	defer s.Close()
	w, err := newWorld(ctx, s, orders)
	if err != nil {
		return err
	}
	fmt.Printf("%d work orders, %d boats, %d owners, %d time entries, %d parts.\n\n", w.orders, w.boats, w.owners, w.entries, w.parts)
	fmt.Println("| what | by hand | Pine Gate | ratio | aim |\n|---|---|---|---|---|")
	for _, part := range []struct {
		name    string
		measure func(context.Context) error
	}{{"lists", w.lists}, {"rules", w.rules}, {"totals", w.totals}, {"pages", w.pages}, {"figures", w.figures}, {"forms", w.forms},
		{"flows", w.flows}, {"imports", w.imports}} {
		if only != "" && only != part.name {
			continue
		}
		if err := part.measure(ctx); err != nil {
			return err
		}
	}
	return nil
}

// turns does both in turns and gives the median time of each.
func turns(n int, twin, ours func() error) (a, b time.Duration, err error) {
	var x, y []time.Duration
	for i := range n + 2 {
		for _, side := range []struct {
			do  func() error
			put *[]time.Duration
		}{{twin, &x}, {ours, &y}} {
			start := time.Now()
			if err := side.do(); err != nil {
				return 0, 0, err
			}
			if i >= 2 { // the first two warm up
				*side.put = append(*side.put, time.Since(start))
			}
		}
	}
	slices.Sort(x)
	slices.Sort(y)
	return x[len(x)/2], y[len(y)/2], nil
}

func row(what string, a, b time.Duration, aim float64) {
	fmt.Printf("| %s | %s | %s | %.2f | %.2f |\n", what, a.Round(10*time.Microsecond), b.Round(10*time.Microsecond), float64(b)/float64(a),
		aim)
}
