package client

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/plan"
	"compactparcel/core/says"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) deliver() *cobra.Command {
	var given answerFlags
	var live, next bool
	var menu string
	cmd := &cobra.Command{
		Use:   "deliver NAME[@VERSION]|FILE SITE",
		Short: "Deliver a kit to a site: plan it, and stage it when no question is open",
		Long: `Deliver a sealed kit, or a kit file, to a site. The plan is printed, questions first; on a terminal they
are asked one by one. When no question is open the delivery is staged into a draft of its
own, and with --live it goes live at once. With open questions the command ends with exit
code 3. Answers can be given in a file, so that a delivery is repeated on other sites. A decision of
the file that does not fit a site is left out and told; where the site decides otherwise then,
--live stops at the draft.`,
		Example: `  cparcel deliver hut-basics@2.0.0 larch-saddle --decide menu/main=both --fill hut-name="Larch ` +
			`Saddle"
  cparcel deliver hut-basics@2.0.0 larch-saddle --answers-template answers.yaml
  cparcel deliver hut-basics@2.0.0 larch-saddle --answers answers.yaml
  cparcel deliver hut-month@1.0.0 kestrel-refuge --next
  cparcel deliver hut-basics@2.0.0 larch-saddle --only page/contact --page "page/contact=Find us@/find-us/"`,
		Args: cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			name, version, err := a.kitOrFile(cmd, c, args[0])
			if err != nil {
				return err
			}
			in, err := given.read(name)
			if err != nil {
				return err
			}
			var enter *item.Address
			if menu != "" {
				at, err := item.ParseAddress(menu)
				if err != nil {
					return usage("--menu: %v", err)
				}
				enter = &at
			}
			d, err := created(
				c.OpenDeliveryWithResponse(
					cmd.Context(),
					api.OpenDelivery{
						Kit:       name,
						Version:   version,
						Site:      args[1],
						Decisions: in.Decisions,
						IfFits:    in.IfFits,
						Fills:     in.Fills,
						Policy:    in.Policy,
						Seats:     in.Seats,
						Only:      in.Only,
						Pages:     in.Pages,
						Next:      some(next),
						Menu:      enter,
					},
				),
			)
			if err != nil {
				return err
			}
			if done, err := a.wrote(&given, d); done {
				return err
			}
			return a.goOn(cmd.Context(), c, d, live)
		},
	}
	given.flags(cmd)
	cmd.Flags().StringVar(&menu, "menu", "", "a `menu` of the site that gets an entry for each new page, as menu/main")
	cmd.Flags().BoolVar(&next, "next", false,
		"the next one of a series: what holds blanks comes as another copy, with its blanks empty")
	cmd.Flags().BoolVar(&live, "live", false, "go live at once when no question is open")
	return cmd
}

// kitOrFile reads NAME@VERSION, or takes a kit file in and gives what it is called.
func (a *app) kitOrFile(cmd *cobra.Command, c *api.ClientWithResponses, arg string) (name, version string, err error) {
	info, err := os.Stat(arg)
	if err != nil && filepath.Ext(arg) == ".cpkit" {
		return "", "", usage("%v: name a kit file that is there, or a kit as hut-basics@2.0.0", err)
	}
	if err != nil || info.IsDir() {
		return a.kitVersion(cmd.Context(), c, arg, api.KitStateSealed)
	}
	f, err := os.Open(arg)
	if err != nil {
		return "", "", err
	}
	defer f.Close()
	base := filepath.Base(arg)
	body, with, err := a.send(cmd.Context(), c, "importKit", f, info.Size())
	if err != nil {
		return "", "", err
	}
	got, err := created(
		c.ImportKitWithBodyWithResponse(cmd.Context(), &api.ImportKitParams{Name: &base}, "application/octet-stream",
			body, with),
	)
	if err != nil {
		return "", "", err
	}
	if len(got.Kits) != 1 || got.Kits[0].State != api.KitStateSealed {
		a.intake(arg, got)
		return "", "", &exitError{
			Refused,
			fmt.Errorf("%s does not hold exactly one sealed kit; seal the kit that was made of it, and deliver that",
				arg),
		}
	}
	return got.Kits[0].Name, got.Kits[0].Version, nil
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
			if err := a.print(d, nil); err != nil {
				return err
			}
		}
		decide := fmt.Sprintf("cparcel delivery decide %d", d.Id)
		for _, q := range d.Plan.Questions {
			decide += " " + answerTo(q)
		}
		return &exitError{Waits,
			fmt.Errorf("delivery %d waits for %s\n  To fix: %s", d.Id, says.Count(n, "decision"), decide)}
	}
	if d.State == api.DeliveryStatePlanned {
		digest := string(*d.PlanDigest)
		if d, err = result(
			c.StageDeliveryWithResponse(ctx, d.Id, &api.StageDeliveryParams{Plan: &digest}),
		); err != nil {
			return err
		}
	}
	held := slices.ContainsFunc(d.Plan.LeftOut, func(l plan.LeftOut) bool { return !l.Moot })
	if live && held && d.State == api.DeliveryStateStaged {
		fmt.Fprintln(a.err, "It is not live yet: an answer of the file does not fit this site, as told above.")
		live = false
	}
	if live && d.State == api.DeliveryStateStaged {
		if d, err = result(c.GoLiveDeliveryWithResponse(ctx, d.Id, api.GoLiveRequest{})); err != nil {
			return err
		}
	}
	return a.print(d, func() { a.state(d) })
}
