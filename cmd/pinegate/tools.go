package main

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/spf13/cobra"

	"pinegate/server"
	"pinegate/server/gate"
	"pinegate/store/accounts"
	"pinegate/store/localpg"
)

// founderCommand makes the account of somebody who builds apps.
func founderCommand() *cobra.Command {
	var o options
	var email, name string
	c := &cobra.Command{Use: "founder", Short: "Make the account of somebody who builds apps; the password is read from standard input",
		Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) (err error) {
			password, err := bufio.NewReader(os.Stdin).ReadString('\n')
			if err != nil {
				return fmt.Errorf("read password: %w", err)
			}
			s, _, closeStore, err := o.open(c.Context())
			if err != nil {
				return err
			}
			defer func() { err = errors.Join(err, closeStore()) }()
			_, err = accounts.New(s).AddBuilder(c.Context(), email, name, strings.TrimRight(password, "\r\n"))
			return err
		}}
	c.Flags().StringVar(&o.data, "data", "data", "folder that holds all data")
	c.Flags().StringVar(&o.database, "database", "", "address of a PostgreSQL database")
	c.Flags().StringVar(&email, "email", "", "e-mail address")
	c.Flags().StringVar(&name, "name", "", "name")
	for _, flag := range []string{"email", "name"} {
		if err := c.MarkFlagRequired(flag); err != nil {
			panic(err) // the flags are made above
		}
	}
	return c
}

// openapiCommand prints the description of an API, from which the front end's
// types are made.
func openapiCommand() *cobra.Command {
	return &cobra.Command{Use: "openapi builder|runtime", Short: "Print the description of an API", Args: cobra.ExactArgs(1),
		ValidArgs: []string{"builder", "runtime"},
		RunE: func(_ *cobra.Command, args []string) error {
			s := server.New(server.Config{Gate: &gate.Gate{}})
			api := map[string]huma.API{"builder": s.Builder, "runtime": s.Runtime}[args[0]]
			if api == nil {
				return fmt.Errorf("there is no API %q", args[0])
			}
			e := json.NewEncoder(os.Stdout)
			e.SetIndent("", "\t")
			return e.Encode(api.OpenAPI())
		}}
}

// withPostgresCommand runs a command, such as the tests, with a throwaway
// PostgreSQL server.
func withPostgresCommand() *cobra.Command {
	return &cobra.Command{Use: "with-postgres -- COMMAND ARG…", Short: "Run a command with a throwaway PostgreSQL server",
		Args: cobra.MinimumNArgs(1),
		RunE: func(c *cobra.Command, args []string) (err error) {
			dir, err := os.MkdirTemp("", "pinegate-test-")
			if err != nil {
				return fmt.Errorf("make folder: %w", err)
			}
			pg, err := localpg.Start(c.Context(), localpg.Options{Dir: dir, Throwaway: true})
			if err != nil {
				return err
			}
			defer func() { err = errors.Join(err, pg.Stop(context.Background()), os.Remove(dir+".lock")) }()
			cmd := exec.CommandContext(c.Context(), args[0], args[1:]...)
			cmd.Env = append(os.Environ(), localpg.TestVariable+"="+pg.DSN("postgres"))
			cmd.Stdout, cmd.Stderr = os.Stdout, os.Stderr
			return cmd.Run()
		}}
}
