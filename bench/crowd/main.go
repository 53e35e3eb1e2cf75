// Command crowd measures many apps and many people: with many apps in one database
// against one, and what people of some apps get while others do what is heavy.
// It starts PostgreSQL and servers of its own, and stops them.
package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"log/slog"
	"os"
	"os/signal"
	"path/filepath"
	"strings"
	"time"

	"pinegate/internal/fleet"
	"pinegate/store"
	"pinegate/store/files"
	"pinegate/store/localpg"
)

// plan says what is measured.
type plan struct {
	apps, servers, people int
	length                time.Duration
	what                  string
	rows                  int
	imports, filter       bool
}

func main() {
	var p plan
	flag.IntVar(&p.apps, "apps", 1000, "published apps")
	flag.IntVar(&p.servers, "servers", 1, "servers")
	flag.IntVar(&p.people, "people", 500, "people at once")
	flag.DurationVar(&p.length, "length", 30*time.Second, "how long each part lasts")
	flag.IntVar(&p.rows, "rows", 1_000_000, "rows that are imported meanwhile")
	flag.BoolVar(&p.imports, "import", true, "one founder imports meanwhile")
	flag.BoolVar(&p.filter, "filter", true, "another one filters as heavily as can be meanwhile")
	flag.StringVar(&p.what, "what", "load",
		"load: many people; forms: people of one app who fill in a form that follows; apps: start, workshop, page, publishing and upgrade "+
			"with one app and many")
	flag.Parse()
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt)
	defer stop()
	slog.SetDefault(slog.New(slog.DiscardHandler))
	if err := run(ctx, p); err != nil {
		fmt.Fprintln(os.Stderr, "crowd:", err)
		os.Exit(1)
	}
}

// place is where PostgreSQL and the servers run.
type place struct {
	dir, binary string
	pg          *localpg.Server
}

func run(ctx context.Context, p plan) (err error) {
	dir, err := os.MkdirTemp("", "pinegate-crowd-")
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, os.RemoveAll(dir)) }()
	if err := os.Chmod(dir, 0o755); err != nil { // PostgreSQL runs as somebody else
		return err
	}
	at := place{dir: dir}
	if at.binary, err = fleet.Build(ctx, dir); err != nil {
		return err
	}
	if at.pg, err = localpg.Start(ctx, localpg.Options{Dir: filepath.Join(dir, "postgres")}); err != nil {
		return err
	}
	defer func() { err = errors.Join(err, at.pg.Stop(ctx)) }()
	switch p.what {
	case "apps":
		return compareApps(ctx, at, p.apps)
	case "forms":
		return fillIn(ctx, at, p)
	}
	return load(ctx, at, p)
}

// database makes an empty database and gives its address.
func (at place) database(ctx context.Context, name string) (string, error) {
	s, err := store.Open(ctx, at.pg.DSN("postgres"))
	if err != nil {
		return "", err
	}
	defer s.Close()
	if _, err := s.Pool.Exec(ctx, "CREATE DATABASE "+name); err != nil {
		return "", err
	}
	return at.pg.DSN(name), nil
}

// servers starts servers on a database.
func (at place) servers(ctx context.Context, dsn string, n int) (*fleet.Fleet, error) {
	return fleet.Start(ctx, fleet.Options{Binary: at.binary, Database: dsn, Files: files.Folder(filepath.Join(at.dir, "files")),
		Dir:     at.dir,
		Servers: n, Flags: []string{"--database-here"}})
}

// told gives what the servers wrote into their logs, shortened.
func (at place) told() string {
	var out []string
	logs, err := filepath.Glob(filepath.Join(at.dir, "server-*.log"))
	if err != nil {
		return err.Error()
	}
	for _, log := range logs {
		raw, err := os.ReadFile(log)
		if err != nil {
			return err.Error()
		}
		lines := strings.Split(strings.TrimSpace(string(raw)), "\n")
		out = append(out, lines[max(0, len(lines)-5):]...)
	}
	return strings.Join(out, "\n")
}
