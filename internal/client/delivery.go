package client

import (
	"strconv"

	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

// state says where a delivery stands and what to do next.
func (a *app) state(d *api.Delivery) {
	switch d.State {
	case api.DeliveryStateStaged:
		a.say("\n%s: delivery %d is staged; the live site is as it was.\n  Look at the draft: %s\n  Go live:           cparcel delivery live %d", a.good("Done"), d.Id, *d.Preview, d.Id)
	case api.DeliveryStateLive:
		a.say("\n%s: delivery %d is live as revision %d of %s.\n  Look at it: %s\n  Take it back: cparcel delivery undo %d", a.good("Done"), d.Id, *d.LiveRevision, d.Site, d.LivePreview, d.Id)
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
	if r := d.Receipt; r != nil && len(r.Kept) > 0 {
		for _, k := range r.Kept {
			a.say("  %s  %s was left as it is: it has been edited since", a.mark("kept"), k)
		}
	}
}

func (a *app) deliveryCommands() *cobra.Command {
	cmd := &cobra.Command{Use: "delivery", Short: "Look at deliveries, decide, go live, undo"}
	cmd.AddCommand(a.deliveryList(), a.deliveryShow(), a.deliveryDecide(), a.deliveryLive(), a.deliveryUndo())
	return cmd
}

func number(s string) (int64, error) {
	id, err := strconv.ParseInt(s, 10, 64)
	if err != nil || id < 1 {
		return 0, usage("%q is not the number of a delivery", s)
	}
	return id, nil
}

func (a *app) deliveryList() *cobra.Command {
	return &cobra.Command{Use: "list", Short: "List the deliveries, the newest first", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
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
				rows = append(rows, []any{d.Id, d.Kit + "@" + d.Version, d.Site, string(d.State), d.By, d.UpdatedAt.Local().Format("2006-01-02 15:04")})
			}
			a.table("There is no delivery yet. Begin one: cparcel deliver NAME@VERSION SITE", []string{"no.", "kit", "site", "state", "by", "changed"}, rows)
		})
	}}
}

func (a *app) deliveryShow() *cobra.Command {
	var replan bool
	var says answers
	cmd := &cobra.Command{Use: "show ID", Aliases: []string{"plan"}, Short: "Show a delivery with its plan or receipt", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		id, err := number(args[0])
		if err != nil {
			return err
		}
		c, err := a.api()
		if err != nil {
			return err
		}
		var d *api.Delivery
		if replan || cmd.CalledAs() == "plan" {
			if d, err = result(c.PlanDeliveryWithResponse(cmd.Context(), id)); err != nil {
				return err
			}
		} else {
			if d, err = result(c.GetDeliveryWithResponse(cmd.Context(), id)); err != nil {
				return err
			}
		}
		if done, err := a.wrote(&says, d); done {
			return err
		}
		return a.print(d, func() {
			if d.Plan != nil {
				a.plan(d)
			}
			a.state(d)
		})
	}}
	cmd.Flags().StringVar(&says.template, "answers-template", "", "write answers to fill in to this `file` (- for the standard output), and end")
	cmd.Flags().BoolVar(&replan, "again", false, "plan again from the site as it is now")
	return cmd
}

func (a *app) deliveryDecide() *cobra.Command {
	var says answers
	var live bool
	cmd := &cobra.Command{Use: "decide ID", Short: "Decide and fill in; stages when nothing is open", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
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
		in, err := says.read(cmd, old.Kit)
		if err != nil {
			return err
		}
		d, err := result(c.DecideDeliveryWithResponse(cmd.Context(), id, &api.DecideDeliveryParams{}, in))
		if err != nil {
			return err
		}
		if done, err := a.wrote(&says, d); done {
			return err
		}
		return a.goOn(cmd.Context(), c, d, live)
	}}
	says.flags(cmd)
	cmd.Flags().BoolVar(&live, "live", false, "go live at once when nothing is open")
	return cmd
}

func (a *app) deliveryLive() *cobra.Command {
	return &cobra.Command{Use: "live ID", Short: "Put a staged delivery live", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		id, err := number(args[0])
		if err != nil {
			return err
		}
		c, err := a.api()
		if err != nil {
			return err
		}
		d, err := result(c.LiveDeliveryWithResponse(cmd.Context(), id))
		if err != nil {
			return err
		}
		return a.print(d, func() { a.state(d) })
	}}
}

func (a *app) deliveryUndo() *cobra.Command {
	var keep bool
	cmd := &cobra.Command{Use: "undo ID", Short: "Take a live delivery back", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		id, err := number(args[0])
		if err != nil {
			return err
		}
		c, err := a.api()
		if err != nil {
			return err
		}
		d, err := result(c.UndoDeliveryWithResponse(cmd.Context(), id, &api.UndoDeliveryParams{KeepEdited: some(keep)}))
		if err != nil {
			return err
		}
		return a.print(d, func() { a.state(d) })
	}}
	cmd.Flags().BoolVar(&keep, "keep-edited", false, "leave what was edited since as it is")
	return cmd
}
