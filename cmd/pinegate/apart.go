package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"os/exec"
	"runtime"
	"runtime/debug"
	"syscall"
	"time"

	"github.com/spf13/cobra"
	"golang.org/x/sys/unix"

	"pinegate/app/act"
	"pinegate/app/imports"
	"pinegate/store"
	"pinegate/store/apart"
	"pinegate/store/apps"
	"pinegate/store/files"
	"pinegate/store/localpg"
)

// place is where the database is, which is all that a process needs to know to work
// beside the server.
type place struct {
	Database string `json:"database"`
	Here     bool   `json:"here"`   // the database runs on this machine
	Behind   string `json:"behind"` // folder of the group of what gives way, or ""
}

// How many processes say at once for one server what files hold, how long a further one
// waits for its turn, and how much memory each takes before it tidies up as hard as it
// can. Those that import, and those that make pictures small, have places of their own.
const (
	mostLooks    = 2
	looksShare   = 1 // of a workspace
	apartWait    = 20 * time.Second
	apartMemory  = 400 << 20
	apartMost    = 1 << 30 // beyond which it is ended: better it than the server
	apartCommand = "apart"
)

// What is done apart.
const (
	apartImports  = "imports"
	apartPictures = "pictures"
)

// pictures gives what makes pictures small that are in the blob store at an address, on
// half of the processors at most.
func (p place) pictures(address string) *apart.Runner {
	return p.runner(apartPictures, address, max(1, runtime.NumCPU()/2), 1)
}

// runner gives what does work of a server in processes of their own, which get the
// setting with each task: this program, as it was when it began, though there be a newer
// one in its place by now.
func (p place) runner(what string, setting any, most, share int) *apart.Runner {
	return apart.New(func() *exec.Cmd {
		c := exec.Command("/proc/self/exe", apartCommand, what, p.Behind)
		c.SysProcAttr = &syscall.SysProcAttr{Setsid: true} // which then gives way to others
		return c
	}, setting, apart.Limits{All: most, Share: share, Wait: apartWait})
}

func apartProcess() *cobra.Command {
	return &cobra.Command{Use: apartCommand, Hidden: true, Args: cobra.ExactArgs(2), RunE: func(c *cobra.Command, args []string) error {
		slog.SetDefault(slog.New(store.LogHandler(slog.NewJSONHandler(os.Stderr, &slog.HandlerOptions{Level: slog.LevelWarn}))))
		debug.SetMemoryLimit(apartMemory)
		if err := unix.Setrlimit(unix.RLIMIT_DATA, &unix.Rlimit{Cur: apartMost, Max: apartMost}); err != nil {
			return fmt.Errorf("limit memory: %w", err)
		}
		runtime.GOMAXPROCS(max(1, runtime.NumCPU()/2))
		if err := localpg.BehindAt(args[1]).GiveWay(os.Getpid(), false); err != nil {
			return err
		}
		switch args[0] {
		case apartImports:
			return apart.Serve(c.Context(), os.Stdin, os.Stdout, doImport)
		case apartPictures:
			return apart.Serve(c.Context(), os.Stdin, os.Stdout, doPicture)
		}
		return fmt.Errorf("nothing is done apart that is called %q", args[0])
	}}
}

// options say how the database is used.
func (p place) options() store.Options {
	if !p.Here {
		return store.Options{}
	}
	return store.Options{GiveWay: localpg.BehindAt(p.Behind).GiveWay}
}

// beside are the options of a process beside the server, which brought the tables up to date before it began one.
func (p place) beside() store.Options {
	o := p.options()
	o.Current = true
	return o
}

// doPicture does a task of pictures.
func doPicture(ctx context.Context, address string, task files.Task) (any, error) {
	s, err := files.Open(ctx, address)
	if err != nil {
		return nil, err
	}
	return nil, errors.Join(s.Do(ctx, task), s.Close())
}

// doImport does a task of imports.
func doImport(ctx context.Context, at place, task imports.Task) (any, error) {
	s, err := store.OpenWith(ctx, at.Database, at.beside())
	if err != nil {
		return nil, err
	}
	defer s.Close()
	a := apps.New(s)
	acts, err := act.New(a)
	if err != nil {
		return nil, err
	}
	return imports.New(s, a, acts).Do(ctx, task)
}
