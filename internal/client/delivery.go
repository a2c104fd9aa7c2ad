package client

import (
	"context"
	"fmt"
	"strconv"
	"strings"

	"compactparcel/core/plan"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) deliver() *cobra.Command {
	var decide, fill []string
	var policy string
	var live, giveWay bool
	cmd := &cobra.Command{
		Use:   "deliver NAME@VERSION SITE",
		Short: "Deliver a kit to a site: plan it, and stage it when nothing is open",
		Long: `Deliver a sealed kit to a site. The plan is printed, questions first. When no
question is open the delivery is staged into a draft of its own, and with --live
it goes live at once. With open questions the command ends with exit code 3.`,
		Example: `  cparcel deliver hut-basics@0.1.0 larch-saddle --decide menu/main=both --fill hut-name="Larch Saddle"`,
		Args:    cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			name, version, err := splitKit(args[0])
			if err != nil {
				return err
			}
			decisions, err := pairs("--decide", decide)
			if err != nil {
				return err
			}
			fills, err := pairs("--fill", fill)
			if err != nil {
				return err
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			r, err := c.OpenDeliveryWithResponse(cmd.Context(), api.OpenDelivery{Kit: name, Version: version, Site: args[1], Decisions: &decisions, Fills: &fills, Policy: some(policy), PartsMayGiveWay: some(giveWay)})
			if err != nil {
				return err
			}
			d, err := answered(r.JSON201, r.StatusCode(), r.Body, nil)
			if err != nil {
				return err
			}
			return a.goOn(cmd.Context(), c, d, live)
		},
	}
	f := cmd.Flags()
	f.StringArrayVar(&decide, "decide", nil, "a decision, as `ADDRESS=DECISION` (take, keep, both, map:ADDRESS, skip); may be repeated")
	f.StringArrayVar(&fill, "fill", nil, "a fill-in, as `NAME=VALUE`; may be repeated")
	f.StringVar(&policy, "policy", "", "`policy`: "+strings.Join(plan.Policies, " or "))
	f.BoolVar(&giveWay, "parts-may-give-way", false, "the site's parts may lose their seats to the kit's")
	f.BoolVar(&live, "live", false, "go live at once when nothing is open")
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
	if n := len(d.Plan.Questions); n > 0 {
		if a.output == "json" {
			a.print(d, nil)
		}
		return &exitError{Waits, fmt.Errorf("delivery %d waits for %d decisions\n  Way out: cparcel delivery decide %d --decide ADDRESS=DECISION --fill NAME=VALUE", d.Id, n, d.Id)}
	}
	if d.State == api.DeliveryStatePlanned {
		digest := string(*d.PlanDigest)
		r, err := c.StageDeliveryWithResponse(ctx, d.Id, &api.StageDeliveryParams{Plan: &digest})
		if err != nil {
			return err
		}
		if d, err = answered(r.JSON200, r.StatusCode(), r.Body, nil); err != nil {
			return err
		}
	}
	if live && d.State == api.DeliveryStateStaged {
		r, err := c.LiveDeliveryWithResponse(ctx, d.Id)
		if err != nil {
			return err
		}
		if d, err = answered(r.JSON200, r.StatusCode(), r.Body, nil); err != nil {
			return err
		}
	}
	return a.print(d, func() { a.state(d) })
}

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

// plan prints a plan for people, questions first.
func (a *app) plan(d *api.Delivery) {
	p := d.Plan
	a.say("Delivery %d: %s@%s to %s", d.Id, p.Kit, p.Version, d.Site)
	if p.Terms.License != "" {
		a.say("Terms: %s", p.Terms.License)
	}
	for _, q := range p.Questions {
		a.say("\n%s %s", a.mark("?"), q.Says)
		for _, c := range q.Choices {
			word := string(c.Decision)
			if c.Decision == plan.Map {
				kind, _, _ := strings.Cut(q.About, "/")
				word += ":" + kind + "/NAME"
			}
			a.say("    --decide %s=%s   %s", q.About, word, a.quiet(c.Leads))
		}
		if q.Kind == "fill" {
			a.say("    --fill %s=…", strings.TrimPrefix(q.About, "fill:"))
		}
	}
	a.say("")
	var rows [][]any
	for _, r := range p.Rows {
		decision := string(r.Decision)
		if decision == "" {
			decision = a.mark("?")
		}
		becomes := ""
		if !r.Becomes.IsZero() && r.Becomes != r.Address && r.Decision != "" {
			becomes = "as " + r.Becomes.String() + "; "
		}
		if r.Order != "" {
			becomes += "goes " + r.Order + "; "
		}
		rows = append(rows, []any{r.Address.String(), string(r.Standing), decision, becomes + r.Why})
	}
	a.table("The plan is empty.", []string{"item", "standing", "decision", "what and why"}, rows)
	a.say("")
	for _, t := range p.Touched {
		way := t.Ways[0]
		if n := len(t.Ways) - 1; n > 0 {
			way += fmt.Sprintf(" and %d more", n)
		}
		a.say("Touches %s, through %s", t.Slug, way)
	}
	if len(p.Touched) == 0 {
		a.say("It touches no page.")
	}
	for _, c := range p.Clashes {
		a.say("Class %q is defined on both sides: %s", c.Class, orOpen(c.Decision))
	}
	for _, s := range p.Seats {
		a.say("Seat %s on %s: %s has it, %s wants it: %s", s.Role, s.Target, s.Site, s.Kit, orOpen(s.Decision))
	}
	for _, n := range p.Needs {
		if n.State != "met" {
			kind := "Need"
			if n.Optional {
				kind = "Optional"
			}
			a.say("%s %s is %s (%s)", kind, n.What, n.State, n.Says)
		}
	}
	for _, f := range p.Fills {
		if f.Given {
			a.say("Fill-in %s: %s", f.Name, f.Value)
		}
	}
	for _, t := range p.Tokens {
		a.say("Token %s: the site has %s, the kit %s (distance %.3f)", t.Property, t.Site, t.Kit, t.Distance)
	}
	for _, l := range p.Links {
		a.say("%s %s, line %d: the link to %s leads nowhere on this site yet", a.mark("Link"), l.From, l.Line, l.Slug)
	}
	for _, s := range p.Scripts {
		a.say("%s %s", a.mark("Code"), s)
	}
	for _, n := range p.Notes {
		a.say("Note: %s", n)
	}
}

func orOpen(s string) string {
	if s == "" {
		return "open"
	}
	return s
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
		r, err := c.ListDeliveriesWithResponse(cmd.Context())
		if err != nil {
			return err
		}
		list, err := answered(r.JSON200, r.StatusCode(), r.Body, nil)
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
			r, err := c.PlanDeliveryWithResponse(cmd.Context(), id)
			if err != nil {
				return err
			}
			if d, err = answered(r.JSON200, r.StatusCode(), r.Body, nil); err != nil {
				return err
			}
		} else {
			r, err := c.GetDeliveryWithResponse(cmd.Context(), id)
			if err != nil {
				return err
			}
			if d, err = answered(r.JSON200, r.StatusCode(), r.Body, nil); err != nil {
				return err
			}
		}
		return a.print(d, func() {
			if d.Plan != nil {
				a.plan(d)
			}
			a.state(d)
		})
	}}
	cmd.Flags().BoolVar(&replan, "again", false, "plan again from the site as it is now")
	return cmd
}

func (a *app) deliveryDecide() *cobra.Command {
	var decide, fill []string
	var live bool
	cmd := &cobra.Command{Use: "decide ID", Short: "Decide and fill in; stages when nothing is open", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		id, err := number(args[0])
		if err != nil {
			return err
		}
		decisions, err := pairs("--decide", decide)
		if err != nil {
			return err
		}
		fills, err := pairs("--fill", fill)
		if err != nil {
			return err
		}
		c, err := a.api()
		if err != nil {
			return err
		}
		r, err := c.DecideDeliveryWithResponse(cmd.Context(), id, &api.DecideDeliveryParams{}, api.Answers{Decisions: &decisions, Fills: &fills})
		if err != nil {
			return err
		}
		d, err := answered(r.JSON200, r.StatusCode(), r.Body, nil)
		if err != nil {
			return err
		}
		return a.goOn(cmd.Context(), c, d, live)
	}}
	f := cmd.Flags()
	f.StringArrayVar(&decide, "decide", nil, "a decision, as `ADDRESS=DECISION`; without a decision it is taken back")
	f.StringArrayVar(&fill, "fill", nil, "a fill-in, as `NAME=VALUE`; may be repeated")
	f.BoolVar(&live, "live", false, "go live at once when nothing is open")
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
		r, err := c.LiveDeliveryWithResponse(cmd.Context(), id)
		if err != nil {
			return err
		}
		d, err := answered(r.JSON200, r.StatusCode(), r.Body, nil)
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
		r, err := c.UndoDeliveryWithResponse(cmd.Context(), id, &api.UndoDeliveryParams{KeepEdited: some(keep)})
		if err != nil {
			return err
		}
		d, err := answered(r.JSON200, r.StatusCode(), r.Body, nil)
		if err != nil {
			return err
		}
		return a.print(d, func() { a.state(d) })
	}}
	cmd.Flags().BoolVar(&keep, "keep-edited", false, "leave what was edited since as it is")
	return cmd
}
