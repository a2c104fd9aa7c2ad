package client

import (
	"fmt"
	"maps"
	"net/url"
	"slices"
	"strings"

	"compactparcel/core/kit"
	"compactparcel/core/says"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) kitCommands() *cobra.Command {
	cmd := &cobra.Command{Use: "kit", Short: "Make, check, seal and get kits"}
	cmd.AddCommand(a.kitNew(), a.kitPicture(), a.kitAdd(), a.kitExclude(), a.kitFillin(), a.kitMedia(), a.kitPropose(),
		a.kitNeed(),
		a.kitDescribe(), a.kitShow(), a.kitGraph(), a.kitCheck(), a.kitNextVersion(), a.kitSeal(), a.kitSign(),
		a.kitResolve(), a.kitGet(), a.kitImport(), a.kitList())
	return cmd
}

func splitKit(s string) (string, string, error) {
	name, version, err := kit.ParseName(s)
	if err != nil {
		return "", "", usage("%v: write NAME@VERSION, as in hut-basics@2.0.0", err)
	}
	return name, version, nil
}

func (a *app) getKit(cmd *cobra.Command, arg string) (*api.Kit, error) {
	c, name, version, err := a.kitAt(cmd.Context(), arg, anyState)
	if err != nil {
		return nil, err
	}
	return result(c.GetKitWithResponse(cmd.Context(), name, version))
}

func (a *app) kitShow() *cobra.Command {
	var variant, site, record string
	cmd := &cobra.Command{
		Use:   "show NAME[@VERSION] [ADDRESS]",
		Short: "Show what a kit holds, what comes along and why; or one item of a sealed kit",
		Args:  cobra.RangeArgs(1, 2),
		RunE: func(cmd *cobra.Command, args []string) error {
			if len(args) == 2 {
				c, name, version, err := a.kitAt(cmd.Context(), args[0], anyState)
				if err != nil {
					return err
				}
				d, err := result(
					c.GetKitItemWithResponse(cmd.Context(), name, version, &api.GetKitItemParams{Address: args[1]}),
				)
				if err != nil {
					return err
				}
				if variant != "" || site != "" {
					return a.kitLook(cmd, args[0], args[1], variant, site, record)
				}
				return a.printItem(args[0], d)
			}
			k, err := a.getKit(cmd, args[0])
			if err != nil {
				return err
			}
			return a.print(k, func() { a.kit(k) })
		},
	}
	cmd.Flags().StringVar(&variant, "variant", "", "print the address that shows this `variant` of the piece")
	cmd.Flags().StringVar(&site, "with", "", "print the address that shows the piece with a record of this `site`")
	cmd.Flags().StringVar(&record, "record", "longest", "which record: its `key`, longest or no-picture")
	return cmd
}

// kitLook tells where a piece of a kit can be looked at, as a variant or with a record.
func (a *app) kitLook(cmd *cobra.Command, kitName, piece, variant, site, record string) error {
	k, err := a.getKit(cmd, kitName)
	if err != nil {
		return err
	}
	q := url.Values{}
	for _, i := range k.Items {
		if i.Address.String() != piece {
			continue
		}
		if variant != "" {
			if i.Variants == nil || !slices.Contains(*i.Variants, variant) {
				return usage("%s has no variant %q", piece, variant)
			}
			q.Set("variant", variant)
		}
		if site != "" {
			if i.Records == nil {
				return usage("%s shows no records", piece)
			}
			q.Set("site", site)
			q.Set("type", *i.Records)
			q.Set("record", record)
		}
	}
	at := k.Preview + "/_cp/alone/" + piece + "?" + q.Encode()
	return a.print(map[string]string{"address": at}, func() { a.say("Look at it here: %s", at) })
}

// kit prints what a kit holds and why.
func (a *app) kit(k *api.Kit) {
	a.say("%s, %s", titled(k.Name+"@"+k.Version, k.Title), k.State)
	terms := "no licence named"
	if k.Terms.License != "" {
		terms = k.Terms.License
	}
	if k.Terms.Credit != "" {
		terms += ", credit to " + k.Terms.Credit
	}
	a.say("Terms: %s", terms)
	if k.State == api.KitStateSealed {
		a.say("Sealed: digest %s, file %s", k.Digest, weight(k.FileBytes))
		a.signers(k)
	}
	var rows [][]any
	for _, i := range k.Items {
		why := "comes along"
		switch {
		case i.Picked:
			why = "you added it"
		case len(i.Reasons) > 0:
			why = i.Reasons[0].String()
			if n := len(i.Reasons) - 1; n > 0 {
				why += fmt.Sprintf("; and %d more", n)
			}
		case k.State == api.KitStateSealed:
			why = ""
		}
		rows = append(rows, []any{i.Address.String(), weight(i.Bytes), why})
	}
	heads := []string{"item", "weight", "why"}
	a.table("It is empty. Add something: cparcel kit add "+k.Name+"@"+k.Version+" ADDRESS --from SITE", heads, rows)
	a.kitWeights(k)
	for _, p := range k.Pictures {
		a.say("%s: %s, %s of %s, %s in place of %s", p.Address, p.How, weight(p.After), weight(p.Before), p.Is, p.Was)
	}
	for _, f := range k.Fillins {
		a.say("Fill-in %s (%s): %s, sample “%s”", f.Name, f.Type, f.Label, f.Sample)
	}
	for _, name := range sortedNames(k.NeedsKits) {
		a.say("Need: the kit %s %s", name, k.NeedsKits[name])
	}
	for _, name := range sortedNames(k.NeedsComponents) {
		how := "Need"
		if k.NeedsComponents[name].Optional {
			how = "Need, optional"
		}
		a.say("%s: the component %s %s", how, name, k.NeedsComponents[name].Range)
	}
	for _, name := range sortedNames(k.Proposes) {
		a.say("Proposes %s: %v", name, k.Proposes[name])
	}
	for _, n := range k.Needs {
		what, how := n.Address, "needed"
		if what == "" {
			what = "a page at " + n.Slug
		}
		if n.Optional {
			how = "optional"
		}
		a.say("Need, %s: %s (%s)", how, what, n.Why)
	}
	for _, l := range k.LeavesOut {
		a.say("Left out: %s (%s)", l.Address, l.Why)
	}
	if k.State == api.KitStateMaking && len(k.Items) > 0 {
		stops := 0
		for _, f := range k.Findings {
			if f.Stops {
				stops++
			}
		}
		a.say("Check: %s, sealing is prevented by %d. See them: cparcel kit check %s@%s",
			says.Count(len(k.Findings), "finding"), stops, k.Name, k.Version)
	}
}

// kitWeights tells how much of each stylesheet travels, and why what no source names does.
func (a *app) kitWeights(k *api.Kit) {
	for _, w := range k.Weights {
		a.say("%s: %d of %d rules, %s (whole sheet %s)", w.Address, w.Rules, w.WholeRules,
			weight(int64(w.Bytes)), weight(int64(w.WholeBytes)))
		if len(w.ByScripts) > 0 {
			a.say("  with rules for what its scripts may put on: %s", few(w.ByScripts))
		}
		if len(w.WhenRun) > 0 {
			a.say("  with rules for what was there when the page was run: %s", few(w.WhenRun))
		}
	}
}

func (a *app) kitCheck() *cobra.Command {
	return &cobra.Command{
		Use:   "check NAME[@VERSION]",
		Short: "List what prevents sealing and what would trouble a receiver",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			k, err := a.getKit(cmd, args[0])
			if err != nil {
				return err
			}
			stops := 0
			for _, f := range k.Findings {
				if f.Stops {
					stops++
				}
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			seen, err := result(c.GetKitFaultsWithResponse(cmd.Context(), k.Name, k.Version))
			if err != nil {
				return err
			}
			if err := a.print(map[string]any{"kit": args[0], "findings": k.Findings, "stops": stops,
				"faults": seen.Faults}, func() {
				a.findingTable(k.Findings)
				if len(seen.Faults) > 0 {
					a.say("\nFor visitors, as its pages show it:")
					a.faultTable(seen.Faults)
				}
			}); err != nil {
				return err
			}
			if stops > 0 {
				return &exitError{Refused, fmt.Errorf("sealing is prevented by %s", says.Count(stops, "finding"))}
			}
			return nil
		},
	}
}

func (a *app) kitList() *cobra.Command {
	return &cobra.Command{
		Use:   "list",
		Short: "List all kits and versions",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			list, err := result(c.ListKitsWithResponse(cmd.Context()))
			if err != nil {
				return err
			}
			return a.print(list, func() {
				var rows [][]any
				for _, k := range list.Kits {
					size := "–"
					if k.FileBytes > 0 {
						size = weight(k.FileBytes)
					}
					rows = append(
						rows,
						[]any{
							k.Name,
							k.Version,
							string(k.State),
							k.Items,
							size,
							strings.TrimSpace(k.License),
							k.Title,
						},
					)
				}
				a.table("There is no kit yet. Begin one: cparcel kit new NAME@VERSION",
					[]string{"kit", "version", "state", "items", "file", "licence", "title"}, rows)
			})
		},
	}
}

func sortedNames[V any](m map[string]V) []string { return slices.Sorted(maps.Keys(m)) }

// few gives the first of a list of names, and how many more there are.
func few(list []string) string {
	const most = 8
	if len(list) <= most {
		return strings.Join(list, ", ")
	}
	return fmt.Sprintf("%s and %d more", strings.Join(list[:most], ", "), len(list)-most)
}

// findingTable prints the findings of a check, those of one item that say the same in one row.
func (a *app) findingTable(list []kit.Finding) {
	var rows [][]any
	more := map[kit.Finding]int{}
	for _, f := range list {
		f.Line = 0
		more[f]++
	}
	for _, f := range list {
		same := f
		same.Line = 0
		if more[same] == 0 {
			continue // told with the first of them
		}
		kind, where := "note", "the kit"
		if f.Stops {
			kind = a.mark("stops")
		}
		if !f.Address.IsZero() {
			where = f.Address.String()
		}
		if f.Line > 0 {
			where += fmt.Sprintf(":%d", f.Line)
		}
		if n := more[same] - 1; n > 0 {
			where += fmt.Sprintf(" and %s more", says.Count(n, "place"))
		}
		more[same] = 0
		says := f.Message
		if f.Remedy != "" {
			says += " – " + f.Remedy
		}
		rows = append(rows, []any{kind, where, says})
	}
	a.table(a.good("Clean")+": nothing prevents sealing; no findings.",
		[]string{"kind", "where", "what, and how to fix it"}, rows)
}
