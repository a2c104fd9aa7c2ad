// Command cparceld is the service of Compact Parcel.
package main

import (
	"fmt"
	"log/slog"
	"os"
	"runtime/debug"

	"compactparcel/internal/service"

	"github.com/spf13/cobra"
)

// The collector runs less often than Go's default, since much is made and thrown away
// while sites are read and shown, and earlier when memory comes near what the service
// is meant to need. GOGC and GOMEMLIMIT set otherwise.
const (
	collectAt   = 300
	memoryAimed = 128 << 20
)

func main() {
	if os.Getenv("GOGC") == "" {
		debug.SetGCPercent(collectAt)
	}
	if os.Getenv("GOMEMLIMIT") == "" {
		debug.SetMemoryLimit(memoryAimed)
	}
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
