package client

import (
	"context"
	"fmt"
	"strings"

	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) deliver() *cobra.Command {
	var says answers
	var live bool
	cmd := &cobra.Command{
		Use:   "deliver NAME@VERSION SITE",
		Short: "Deliver a kit to a site: plan it, and stage it when nothing is open",
		Long: `Deliver a sealed kit to a site. The plan is printed, questions first; on a terminal they
are asked one by one. When no question is open the delivery is staged into a draft of its
own, and with --live it goes live at once. With open questions the command ends with exit
code 3. Answers can be given in a file, so that a delivery is repeated on other sites.`,
		Example: `  cparcel deliver hut-basics@0.1.0 larch-saddle --decide menu/main=both --fill hut-name="Larch Saddle"
  cparcel deliver hut-basics@0.1.0 larch-saddle --answers-template answers.yaml
  cparcel deliver hut-basics@0.1.0 larch-saddle --answers answers.yaml`,
		Args: cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			name, version, err := splitKit(args[0])
			if err != nil {
				return err
			}
			in, err := says.read(cmd, name)
			if err != nil {
				return err
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			d, err := created(c.OpenDeliveryWithResponse(cmd.Context(), api.OpenDelivery{Kit: name, Version: version, Site: args[1], Decisions: in.Decisions, Fills: in.Fills, Policy: in.Policy, PartsMayGiveWay: in.PartsMayGiveWay}))
			if err != nil {
				return err
			}
			if done, err := a.wrote(&says, d); done {
				return err
			}
			return a.goOn(cmd.Context(), c, d, live)
		},
	}
	says.flags(cmd)
	cmd.Flags().BoolVar(&live, "live", false, "go live at once when nothing is open")
	return cmd
}

func pairs(flag string, list []string) (map[string]string, error) {
	out := map[string]string{}
	for _, s := range list {
		k, v, ok := strings.Cut(s, "=")
		if !ok || k == "" {
			return nil, usage("%s %q: write NAME=VALUE", flag, s)
		}
		out[k] = v
	}
	return out, nil
}

// goOn prints the plan and goes as far as the open questions let it.
func (a *app) goOn(ctx context.Context, c *api.ClientWithResponses, d *api.Delivery, live bool) error {
	if a.output == "table" {
		a.plan(d)
	}
	d, err := a.ask(ctx, c, d)
	if err != nil {
		return err
	}
	if n := len(d.Plan.Questions); n > 0 {
		if a.output == "json" {
			a.print(d, nil)
		}
		return &exitError{Waits, fmt.Errorf("delivery %d waits for %s\n  Way out: cparcel delivery decide %d --decide ADDRESS=DECISION --fill NAME=VALUE", d.Id, count(n, "decision"), d.Id)}
	}
	if d.State == api.DeliveryStatePlanned {
		digest := string(*d.PlanDigest)
		if d, err = result(c.StageDeliveryWithResponse(ctx, d.Id, &api.StageDeliveryParams{Plan: &digest})); err != nil {
			return err
		}
	}
	if live && d.State == api.DeliveryStateStaged {
		if d, err = result(c.LiveDeliveryWithResponse(ctx, d.Id)); err != nil {
			return err
		}
	}
	return a.print(d, func() { a.state(d) })
}
