package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"time"

	"github.com/riverqueue/river"
	"github.com/spf13/cobra"

	"pinegate/app/act"
	"pinegate/app/imports"
	"pinegate/core/intake"
	"pinegate/server/gate"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
)

// importCommand brings files into an app, or says what they seem to hold.
func importCommand() *cobra.Command {
	var o options
	var dry bool
	var slug string
	c := &cobra.Command{Use: "import FILE…", Short: "Bring files into an app, or with --dry-run say what they seem to hold",
		Args: cobra.MinimumNArgs(1),
		RunE: func(c *cobra.Command, names []string) (err error) {
			files, err := localFiles(names)
			if err != nil {
				return err
			}
			if dry && slug == "" {
				sheets, err := imports.Sheets(files)
				if err != nil {
					return err
				}
				p, err := intake.Propose(sheets, nil)
				return printed(c.OutOrStdout(), p, err)
			}
			if slug == "" {
				return errors.New("say into which app with --app, or --dry-run")
			}
			s, _, closeStore, err := o.open(c.Context())
			if err != nil {
				return err
			}
			defer func() { err = errors.Join(err, closeStore()) }()
			return bring(c.Context(), c.OutOrStdout(), s, slug, files, dry)
		}}
	c.Flags().BoolVar(&dry, "dry-run", false, "only print the proposal, as JSON")
	c.Flags().StringVar(&slug, "app", "", "the app, by the last part of its address")
	c.Flags().StringVar(&o.data, "data", "data", "folder that holds all data")
	c.Flags().StringVar(&o.database, "database", "", "address of a PostgreSQL database")
	return c
}

func printed(out io.Writer, p *intake.Proposal, err error) error {
	if err != nil {
		return err
	}
	w := json.NewEncoder(out)
	w.SetIndent("", "  ")
	w.SetEscapeHTML(false)
	return w.Encode(p)
}

func localFiles(names []string) ([]intake.File, error) {
	var out []intake.File
	for _, name := range names {
		info, err := os.Stat(name)
		if err != nil {
			return nil, fmt.Errorf("find file: %w", err)
		}
		out = append(out, intake.File{Name: filepath.Base(name), Size: info.Size(),
			Open: func() (io.ReadCloser, error) { return os.Open(name) }})
	}
	return out, nil
}

// bring runs an import as the server would, and waits for it.
func bring(ctx context.Context, out io.Writer, s *store.Store, slug string, files []intake.File, dry bool) (err error) {
	a := apps.New(s)
	app, err := a.BySlug(ctx, slug)
	if err != nil {
		return fmt.Errorf("find app %s: %w", slug, err)
	}
	acts, err := act.New(a)
	if err != nil {
		return err
	}
	in := imports.New(s, a, acts)
	var uploads []string
	for _, f := range files {
		r, err := f.Open()
		if err != nil {
			return fmt.Errorf("open file: %w", err)
		}
		id, err := in.Upload(ctx, app, f.Name, r)
		if err = errors.Join(err, r.Close()); err != nil {
			return err
		}
		uploads = append(uploads, id)
	}
	p, err := in.Propose(ctx, app, uploads)
	if err != nil || dry {
		return printed(out, p, err)
	}
	g, err := gate.New(context.WithoutCancel(ctx), s, a, acts, accounts.New(s), gate.Mailer{},
		gate.Jobs{Workers: []func(*river.Workers){in.Worker}})
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, g.Stop(context.WithoutCancel(ctx))) }()
	id, err := in.Start(ctx, g.Jobs(), app, "the command line", uploads, p)
	if err != nil {
		return err
	}
	for {
		status, err := in.Status(ctx, app.ID, id)
		switch {
		case err != nil:
			return err
		case status.Status == "done":
			_, err = fmt.Fprintln(out, status.Message)
			return err
		case status.Status == "failed" || status.Status == "cancelled":
			return errors.New(status.Message)
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(100 * time.Millisecond):
		}
	}
}
