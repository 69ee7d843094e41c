// Command vividporch is the house and its tools: serve, demo, street, rehearse, import, export, backup,
// restore.
// It only wires the packages together.
package main

import (
	"context"
	"fmt"
	"os"
	"os/signal"
	"syscall"
	"time"

	"github.com/spf13/cobra"
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	if err := rootCommand().ExecuteContext(ctx); err != nil {
		fmt.Fprintln(os.Stderr, "vividporch:", err)
		os.Exit(1)
	}
}

func rootCommand() *cobra.Command {
	root := &cobra.Command{Use: "vividporch", Short: "The house that greets, remembers and carries the news of a live channel",
		SilenceUsage: true, SilenceErrors: true}
	root.AddCommand(serveCommand(), demoCommand(), streetCommand(), rehearseCommand(), schemaCommand(), secretCommand(), allowCommand(), importCommand(), exportCommand(), backupCommand(), restoreCommand())
	return root
}

// envDuration is a setting that is a length of time.
func envDuration(name string) time.Duration {
	d, _ := time.ParseDuration(os.Getenv(name)) // none where it cannot be read
	return d
}

// env is a setting from the environment, or its default.
func env(name, def string) string {
	if v := os.Getenv(name); v != "" {
		return v
	}
	return def
}
