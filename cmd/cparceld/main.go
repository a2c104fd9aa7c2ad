// Command cparceld is the service of Compact Parcel.
package main

import (
	"fmt"
	"log/slog"
	"os"

	"compactparcel/internal/memory"
	"compactparcel/internal/service"
	"compactparcel/internal/version"

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
	root.AddCommand(serve(), backupCommand(), restoreCommand(), verifyCommand(), resetPassword(), versionCommand())
	if err := root.Execute(); err != nil {
		fmt.Fprintln(os.Stderr, "cparceld:", err)
		os.Exit(1)
	}
}

func versionCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "version",
		Short: "Say which version this service is, and of which commit",
		Args:  cobra.NoArgs,
		Run: func(cmd *cobra.Command, _ []string) {
			fmt.Fprintln(cmd.OutOrStdout(), "cparceld", version.Read())
		},
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
