package client

import (
	"errors"

	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

var errNothingFits = errors.New("no choice of kits meets all demands")

// kitResolve says which kits must be there with a kit on a site.
func (a *app) kitResolve() *cobra.Command {
	return &cobra.Command{
		Use:   "resolve NAME[@VERSION] SITE",
		Short: "Find which other kits a kit needs on a site, at which versions, or why none fit",
		Args:  cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, name, version, err := a.kitAt(cmd.Context(), args[0], api.KitStateSealed)
			if err != nil {
				return err
			}
			got, err := result(
				c.ResolveKitWithResponse(cmd.Context(), name, version, &api.ResolveKitParams{Site: args[1]}),
			)
			if err != nil {
				return err
			}
			if err := a.print(got, func() {
				if !got.Fits {
					a.say("%s: these demands cannot all be met on %s:", a.bad("Nothing fits"), args[1])
					for _, l := range got.Chain {
						a.say("  %s", l)
					}
					return
				}
				var rows [][]any
				for _, k := range got.Kits {
					how := "to be delivered first"
					if k.Here {
						how = "is there"
					}
					rows = append(rows, []any{k.Kit, k.Version, how})
				}
				a.table(a.good("It fits")+": "+args[0]+" needs no other kit on "+args[1]+".",
					[]string{"kit", "version", "on " + args[1]}, rows)
				for _, l := range got.Unmet {
					a.say("Optional and not met: %s", l)
				}
			}); err != nil {
				return err
			}
			if !got.Fits {
				return &exitError{Refused, errNothingFits}
			}
			return nil
		},
	}
}
