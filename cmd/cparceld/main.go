// Command cparceld is the service of Compact Parcel.
package main

import (
	"fmt"
	"log/slog"
	"os"

	"compactparcel/internal/memory"
	"compactparcel/internal/service"

	"github.com/spf13/cobra"
)

func main() {
	memory.Aim()
	root := &cobra.Command{
		Use:           "cparceld",
		Short:         "The service of Compact Parcel",
		SilenceUsage:  true,
		SilenceErrors: true,
	}
	root.AddCommand(serve(), backupCommand(), restoreCommand(), verifyCommand(), resetPassword())
	if err := root.Execute(); err != nil {
		fmt.Fprintln(os.Stderr, "cparceld:", err)
		os.Exit(1)
	}
}

// logger writes to standard error, one JSON object a line.
func logger(cfg service.Config) *slog.Logger {
	var level slog.Level
	if err := level.UnmarshalText([]byte(cfg.Log)); err != nil {
		level = slog.LevelInfo // Load has looked at it
	}
	return slog.New(slog.NewJSONHandler(os.Stderr, &slog.HandlerOptions{Level: level}))
}
