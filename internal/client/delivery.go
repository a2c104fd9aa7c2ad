package client

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"compactparcel/core/blend"
	"compactparcel/core/item"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

// state says where a delivery stands and what to do next.
func (a *app) state(d *api.Delivery) {
	switch d.State {
	case api.DeliveryStateStaged:
		a.say(
			"\n%s: delivery %d is staged; the live site is as it was.\n  Look at the draft: %s\n  Go live:       "+
				"    cparcel delivery go-live %d",
			a.good("Done"),
			d.Id,
			*d.Preview,
			d.Id,
		)
	case api.DeliveryStateLive:
		a.say(
			"\n%s: delivery %d is live as revision %d of %s.\n  Look at it: %s\n  Take it back: cparcel delivery "+
				"undo %d",
			a.good("Done"),
			d.Id,
			*d.LiveRevision,
			d.Site,
			d.LivePreview,
			d.Id,
		)
	case api.DeliveryStateUndone:
		a.say("%s: delivery %d is undone, as revision %d of %s.", a.good("Done"), d.Id, *d.UndoRevision, d.Site)
	default:
		a.say("Delivery %d is %s.", d.Id, d.State)
	}
	if r := d.Receipt; r != nil && d.State == api.DeliveryStateLive {
		for _, m := range r.Renames {
			a.say("  %s came in as %s", m.From, m.To)
		}
		for _, x := range r.Checklist {
			a.say("  %s %s", a.mark("to do"), x)
		}
	}
	if r := d.Receipt; r != nil && d.State == api.DeliveryStateLive {
		for _, x := range r.Removed {
			a.say("  %s was removed: the kit no longer holds it", x)
		}
		for _, x := range r.Meanwhile {
			a.say("  %s was edited after the delivery was staged; the edit was blended in", x)
		}
		for _, x := range r.Undone {
			a.say("  %s was taken back separately", x)
		}
	}
	if r := d.Receipt; r != nil && len(r.Kept) > 0 {
		for _, k := range r.Kept {
			a.say("  %s  %s was left as it is: it has been edited since then", a.mark("kept"), k)
		}
	}
}

func (a *app) deliveryCommands() *cobra.Command {
	cmd := &cobra.Command{Use: "delivery", Short: "Look at deliveries, decide, go live, undo"}
	cmd.AddCommand(a.deliveryList(), a.deliveryShow(), a.deliveryDecide(), a.deliveryCompare(), a.deliveryGoLive(),
		a.deliveryUndo(), a.deliveryPictures(), a.deliveryStands())
	return cmd
}

// onDelivery is a command on one delivery.
func (a *app) onDelivery(use, short string,
	run func(ctx context.Context, c *api.ClientWithResponses, id int64) error) *cobra.Command {
	return &cobra.Command{
		Use:   use,
		Short: short,
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			id, err := number(args[0])
			if err != nil {
				return err
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			return run(cmd.Context(), c, id)
		},
	}
}

func number(s string) (int64, error) {
	id, err := strconv.ParseInt(s, 10, 64)
	if err != nil || id < 1 {
		return 0, usage("%q is not the number of a delivery", s)
	}
	return id, nil
}

func (a *app) deliveryList() *cobra.Command {
	return &cobra.Command{
		Use:   "list",
		Short: "List the deliveries, newest first",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			list, err := result(c.ListDeliveriesWithResponse(cmd.Context()))
			if err != nil {
				return err
			}
			return a.print(list, func() {
				var rows [][]any
				for _, d := range list.Deliveries {
					rows = append(
						rows,
						[]any{
							d.Id,
							d.Kit + "@" + d.Version,
							d.Site,
							string(d.State),
							d.By,
							d.UpdatedAt.Local().Format("2006-01-02 15:04"),
						},
					)
				}
				a.table("There is no delivery yet. Begin one: cparcel deliver NAME@VERSION SITE",
					[]string{"no.", "kit", "site", "state", "by", "changed"}, rows)
			})
		},
	}
}

func (a *app) deliveryShow() *cobra.Command {
	var replan bool
	var given answerFlags
	cmd := &cobra.Command{
		Use:     "show ID",
		Aliases: []string{"plan"},
		Short:   "Show a delivery with its plan or receipt",
		Args:    cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			id, err := number(args[0])
			if err != nil {
				return err
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			d, err := result(c.GetDeliveryWithResponse(cmd.Context(), id))
			if err != nil {
				return err
			}
			// One that is staged or live has its plan; asked for by --again it is told so.
			settled := d.State != api.DeliveryStateOpened && d.State != api.DeliveryStatePlanned
			if replan || cmd.CalledAs() == "plan" && !settled {
				if d, err = result(c.PlanDeliveryWithResponse(cmd.Context(), id)); err != nil {
					return err
				}
			}
			if done, err := a.wrote(&given, d); done {
				return err
			}
			return a.print(d, func() {
				if d.Plan != nil {
					a.plan(d)
				}
				a.state(d)
			})
		},
	}
	cmd.Flags().
		StringVar(&given.template, "answers-template", "",
			"write a template of the answers to this `file` (- for standard output), and end")
	cmd.Flags().BoolVar(&replan, "again", false, "plan again against the site as it is now")
	return cmd
}

func (a *app) deliveryDecide() *cobra.Command {
	var given answerFlags
	var live bool
	cmd := &cobra.Command{
		Use:   "decide ID",
		Short: "Answer questions and fill in blanks; stages when none is open",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			id, err := number(args[0])
			if err != nil {
				return err
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			old, err := result(c.GetDeliveryWithResponse(cmd.Context(), id))
			if err != nil {
				return err
			}
			in, err := given.read(old.Kit)
			if err != nil {
				return err
			}
			d, err := result(c.DecideDeliveryWithResponse(cmd.Context(), id, &api.DecideDeliveryParams{}, in))
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
	cmd.Flags().BoolVar(&live, "live", false, "go live at once when no question is open")
	return cmd
}

func (a *app) deliveryCompare() *cobra.Command {
	var side string
	cmd := &cobra.Command{
		Use:   "compare ID ADDRESS",
		Short: "Show an item of a delivery as it was delivered, as the site and the kit have it, and what it becomes",
		Args:  cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			id, err := number(args[0])
			if err != nil {
				return err
			}
			addr, err := item.ParseAddress(args[1])
			if err != nil {
				return usage("%v", err)
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			x, err := result(c.CompareDeliveryWithResponse(cmd.Context(), id, string(addr.Kind), addr.Key))
			if err != nil {
				return err
			}
			sides := []struct {
				name, says string
				text       *string
			}{{"base", "as it was delivered", x.Base}, {"site", "as the site has it", x.Site},
				{"kit", "as the kit has it, with names adapted and blanks filled in", x.Kit},
				{"becomes", "as the delivery leaves it", x.Becomes}}
			if side != "" {
				for _, s := range sides {
					if s.name == side && s.text != nil {
						_, err := fmt.Fprint(a.out, *s.text)
						return err
					}
				}
				return usage("there is no side %q of %s (base, site, kit, becomes)", side, addr)
			}
			return a.print(x, func() {
				for _, s := range sides {
					a.say("%s", a.mark(s.name)+a.quiet("  "+s.says))
					if s.text == nil {
						a.say("  there is none, or it is not a text")
						continue
					}
					for _, line := range strings.Split(strings.TrimRight(*s.text, "\n"), "\n") {
						a.say("  %s", line)
					}
				}
			})
		},
	}
	cmd.Flags().StringVar(&side, "side", "", "only this `side`, byte for byte: base, site, kit or becomes")
	return cmd
}

func (a *app) deliveryGoLive() *cobra.Command {
	var decide []string
	cmd := &cobra.Command{
		Use:   "go-live ID",
		Short: "Make a staged delivery live",
		Long: `Make a staged delivery live. Edits made after staging are blended in; where the edit
and the delivery change the same thing the command ends with exit code 3 and the list.`,
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			id, err := number(args[0])
			if err != nil {
				return err
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			decisions, err := conflictDecisions(decide)
			if err != nil {
				return err
			}
			d, err := result(c.GoLiveDeliveryWithResponse(cmd.Context(), id, api.GoLiveRequest{Decisions: &decisions}))
			if err != nil {
				return err
			}
			return a.print(d, func() { a.state(d) })
		},
	}
	cmd.Flags().
		StringArrayVar(&decide, "decide", nil,
			"a conflict with an edit made after staging, as `CONFLICT=site` or kit; may be repeated")
	return cmd
}

func (a *app) deliveryUndo() *cobra.Command {
	var keep, blended bool
	var items, decide []string
	cmd := &cobra.Command{
		Use:   "undo ID",
		Short: "Undo a live delivery, all of it or some items",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			id, err := number(args[0])
			if err != nil {
				return err
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			decisions, err := conflictDecisions(decide)
			if err != nil {
				return err
			}
			ask := api.UndoRequest{KeepEdited: some(keep), Blend: some(blended), Decisions: &decisions}
			if len(items) > 0 {
				var list []item.Address
				for _, s := range items {
					addr, err := item.ParseAddress(s)
					if err != nil {
						return usage("--item %q: %v", s, err)
					}
					list = append(list, addr)
				}
				ask.Items = &list
			}
			d, err := result(c.UndoDeliveryWithResponse(cmd.Context(), id, ask))
			if err != nil {
				return err
			}
			return a.print(d, func() {
				if len(items) > 0 && d.State == api.DeliveryStateLive {
					a.tookBack(d, value(ask.Items))
					return
				}
				a.state(d)
			})
		},
	}
	cmd.Flags().BoolVar(&keep, "keep-edited", false, "leave items that were edited since as they are")
	cmd.Flags().BoolVar(&blended, "blend", false,
		"remove only the delivery's changes from items that were edited since")
	cmd.Flags().StringArrayVar(&items, "item", nil, "only this `ADDRESS` of the site; may be repeated")
	cmd.Flags().
		StringArrayVar(&decide, "decide", nil,
			"a conflict of a blend, as `CONFLICT=site` (as it is now) or kit (as it was before); may be repeated")
	return cmd
}

// tookBack tells which items of a delivery were taken back; the others stay.
func (a *app) tookBack(d *api.Delivery, asked []item.Address) {
	for _, x := range asked {
		if slices.Contains(value(d.Receipt).Undone, x) {
			a.say("%s: %s is as it was before delivery %d.", a.good("Done"), x, d.Id)
			continue
		}
		a.say("%s stays as it is: it was edited since.", x)
	}
	a.say("  Look at it: %s\n  Take back the rest: cparcel delivery undo %d", d.LivePreview, d.Id)
}

// conflictDecisions reads CONFLICT=site and CONFLICT=kit.
func conflictDecisions(list []string) (map[string]blend.Decision, error) {
	given, err := pairs("--decide", list)
	if err != nil {
		return nil, err
	}
	out := map[string]blend.Decision{}
	for key, side := range given {
		switch d := blend.Decision(side); d {
		case blend.ForSite, blend.ForKit:
			out[key] = d
		default:
			return nil, usage("--decide %s=%s: write site or kit", key, side)
		}
	}
	return out, nil
}
