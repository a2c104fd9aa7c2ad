package client

import (
	"compactparcel/internal/version"

	"github.com/spf13/cobra"
)

func (a *app) versionCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "version",
		Short: "Say which version this client is, and of which commit",
		Args:  cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			built := version.Read()
			return a.print(built, func() { a.say("cparcel %s", built) })
		},
	}
}
