package main

import (
	"context"
	"log/slog"
	"testing"

	"compactparcel/internal/service"

	"github.com/spf13/cobra"
	"github.com/stretchr/testify/assert"
)

func TestTheLogKeepsToItsLevel(t *testing.T) {
	for level, want := range map[string]bool{"debug": true, "warn": false, "nonsense": false} {
		log := logger(service.Config{Log: level})
		assert.Equal(t, want, log.Enabled(context.Background(), slog.LevelDebug), level)
	}
}

func TestCommandsWithoutDataSayWhatTheyNeed(t *testing.T) {
	for name, c := range map[string]struct {
		cmd  *cobra.Command
		args []string
		says string
	}{
		"a backup without a file":  {backupCommand(), nil, "accepts 1 arg"},
		"a restore without a file": {restoreCommand(), nil, "accepts 1 arg"},
		"an unknown flag":          {verifyCommand(), []string{"--mnd"}, "unknown flag"},
		"no data":                  {verifyCommand(), []string{"--data", t.TempDir() + "/none"}, "none"},
		"a serve with words":       {serve(), []string{"now"}, "unknown command"},
	} {
		c.cmd.SetArgs(c.args)
		c.cmd.SilenceErrors, c.cmd.SilenceUsage = true, true
		assert.ErrorContains(t, c.cmd.Execute(), c.says, name)
	}
}
