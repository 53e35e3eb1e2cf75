// Command pinegate serves the builder and the apps that are built with it.
package main

import (
	"context"
	"fmt"
	"os"
	"os/signal"
	"syscall"

	"github.com/spf13/cobra"
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	root := &cobra.Command{Use: "pinegate", Short: "Build and run web applications", SilenceUsage: true, SilenceErrors: true}
	root.AddCommand(serveCommand(), founderCommand(), openapiCommand(), withPostgresCommand(), evalCommand(), importCommand(),
		backupCommand(), restoreCommand(), apartProcess())
	err := root.ExecuteContext(ctx)
	stop()
	if err != nil {
		fmt.Fprintln(os.Stderr, "pinegate:", err)
		os.Exit(1)
	}
}
