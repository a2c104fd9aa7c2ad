package client

import (
	"context"
	"fmt"
	"slices"
	"time"

	"compactparcel/core/plan"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) deliveryStands() *cobra.Command {
	var wait time.Duration
	cmd := a.onDelivery("stands ID",
		"Hold the pieces of a delivery against their kit: whether they look as there, and which rules do it",
		func(ctx context.Context, c *api.ClientWithResponses, id int64) error {
			end, pause := time.Now().Add(wait), 200*time.Millisecond
			for {
				got, err := result(c.DeliveryStandsWithResponse(ctx, id))
				if err != nil {
					return err
				}
				if got.Waiting > 0 && got.Browser && time.Now().Before(end) {
					if err := rest(ctx, &pause); err != nil {
						return err
					}
					continue
				}
				return a.print(got, func() { a.stands(got) })
			}
		})
	cmd.Flags().DurationVar(&wait, "wait", picturesWait, "how long pictures are waited for at most")
	return cmd
}

// stands prints each piece with what differs from its kit, and by which rules of the site's.
func (a *app) stands(got *api.StandList) {
	var rows [][]any
	for _, p := range got.Pieces {
		says := "as in its kit"
		if p.Pair.Differs == nil || *p.Pair.Differs {
			says = differs(p.Pair)
		}
		for i, rule := range ruleWords(p.Rules) {
			if i > 0 {
				rows = append(rows, []any{"", "", rule})
				continue
			}
			rows = append(rows, []any{p.Becomes, says, rule})
		}
		if len(p.Rules) == 0 {
			rows = append(rows, []any{p.Becomes, says, ""})
		}
	}
	a.table("Nothing of the delivery can be seen by itself.", []string{"Piece", "Differs", "By the site's rule"}, rows)
	if !got.Browser {
		a.say("This service has no browser that makes pictures: install Debian's package chromium.")
	}
}

// ruleWords tells of the rules of a site, each once.
func ruleWords(list []plan.StyleOverride) (out []string) {
	for _, o := range list {
		if s := fmt.Sprintf("%s: %s, by %s", o.Property, o.Value, o.By); !slices.Contains(out, s) {
			out = append(out, s)
		}
	}
	return out
}
