// Command attack has a stranger, a customer and a builder do to a server of its own what
// they can: requests at random, bodies that come slowly or unfold, guesses, floods. It
// counts what became of it, and what another customer got meanwhile.
package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"log/slog"
	"maps"
	"os"
	"os/signal"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"pinegate/internal/fleet"
	"pinegate/server"
	"pinegate/server/gate"
	"pinegate/store/files"
	"pinegate/store/localpg"
)

func main() {
	length := flag.Duration("length", 10*time.Minute, "how long it lasts")
	without := flag.String("without", "", "who does not attack, such as \"dig,bomb\": to see whose doing it is")
	flag.Parse()
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt)
	defer stop()
	slog.SetDefault(slog.New(slog.DiscardHandler))
	if err := run(ctx, *length, strings.FieldsFunc(*without, func(r rune) bool { return r == ',' })); err != nil {
		fmt.Fprintln(os.Stderr, "attack:", err)
		os.Exit(1)
	}
}

// routes lists what the server answers.
func routes() []string { return server.New(server.Config{Gate: &gate.Gate{}}).Routes() }

func run(ctx context.Context, length time.Duration, without []string) (err error) {
	dir, err := os.MkdirTemp("", "pinegate-attack-")
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, os.RemoveAll(dir)) }()
	binary, err := fleet.Build(ctx, dir)
	if err != nil {
		return err
	}
	pg, err := localpg.Start(ctx, localpg.Options{Dir: filepath.Join(dir, "postgres")})
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, pg.Stop(context.WithoutCancel(ctx))) }()
	f, err := fleet.Start(ctx, fleet.Options{Binary: binary, Database: pg.DSN("postgres"), Files: files.Folder(filepath.Join(dir, "files")),
		Dir: dir, Servers: 1, Flags: []string{"--demo", "--database-here"}})
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, f.Stop()) }()
	r, err := attack(ctx, &site{f.Servers[0].URL, f.Servers[0].PID(), routes()}, length, without...)
	if r != nil {
		r.print()
	}
	return err
}

// print tells what became of it.
func (r *report) print() {
	fmt.Printf("%d requests\n", r.Tried)
	for _, who := range slices.Sorted(maps.Keys(r.By)) {
		fmt.Printf("  %-9s", who)
		for _, kind := range []string{"served", "refused", "put off", "cut off", "broken"} {
			fmt.Printf(" %8d %s", r.By[who][kind], kind)
		}
		fmt.Println()
	}
	for _, b := range r.Broken {
		fmt.Println("  broken:", b)
	}
	fmt.Printf("a customer's page, p95: %s before, %s during (%.1f times)\n", r.Quiet.Round(100*time.Microsecond),
		r.During.Round(100*time.Microsecond), float64(r.During)/float64(r.Quiet))
	fmt.Printf("the server's memory: %d MB at most\n", r.Peak)
}
