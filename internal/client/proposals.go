package client

import (
	"fmt"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/repeat"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) siteProposals() *cobra.Command {
	var draft int64
	cmd := &cobra.Command{
		Use:   "proposals SITE",
		Short: "List what repeats on a site and could be kept once",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			list, err := result(
				c.ListProposalsWithResponse(cmd.Context(), args[0], &api.ListProposalsParams{Draft: some(draft)}),
			)
			if err != nil {
				return err
			}
			return a.print(list, func() {
				a.proposals(list.Proposals)
				a.copies(args[0], value(list.Copies))
				if len(list.Proposals) > 0 {
					a.say("Take them: cparcel site accept %s ITEM… (or --sure)", args[0])
				}
			})
		},
	}
	a.draftFlag(cmd, &draft, nil, "show the draft with this `name or number` instead of the live site")
	return cmd
}

// copies prints the copies of sections that could be linked.
func (a *app) copies(site string, list []repeat.Copy) {
	if len(list) == 0 {
		return
	}
	var rows [][]any
	for _, x := range list {
		differs := strings.Join(x.Differs, ", ")
		if differs == "" {
			differs = "nothing"
		}
		rows = append(rows, []any{x.Section, fmt.Sprintf("%s:%d", x.Slug, x.Line), differs})
	}
	a.say("Copies of sections that are still alike:")
	a.table("", []string{"Section", "Stands in", "Its own would be"}, rows)
	a.say("Link them: cparcel site edit %s %s link-copy --item %s", site, list[0].Slug, list[0].Section)
}

// proposals prints proposals, each with where it stands and how alike.
func (a *app) proposals(list []repeat.Proposal) {
	var rows [][]any
	for _, p := range list {
		var stands, differs []string
		for i, s := range p.Stands {
			at := s.Slug
			if at == "" {
				at = s.Address.String()
			}
			if i == 4 {
				stands = append(stands, fmt.Sprintf("and %d more", len(p.Stands)-4))
				break
			}
			stands = append(stands, fmt.Sprintf("%s:%d", at, s.Line))
		}
		for i, d := range p.Differs {
			if i == 4 {
				differs = append(differs, fmt.Sprintf("and %d more", len(p.Differs)-4))
				break
			}
			differs = append(differs, d.What)
		}
		says := p.Message + ": " + strings.Join(stands, ", ")
		if len(differs) > 0 && p.Address.Kind != item.Tokens {
			says += ". Each has its own " + strings.Join(differs, ", ")
		} else if len(differs) > 0 {
			says += ". " + strings.Join(differs, ", ")
		}
		alike := fmt.Sprintf("%.0f%%", p.Likeness*100)
		if p.Sure {
			alike = a.good(alike)
		}
		rows = append(rows, []any{p.Address.String(), alike, says})
	}
	a.table("Nothing repeats.", []string{"would become", "alike", "what stands where"}, rows)
}

func (a *app) siteAccept() *cobra.Command {
	var draft int64
	var sure bool
	cmd := &cobra.Command{
		Use:   "accept SITE [ITEM…]",
		Short: "Put accepted proposals into a draft; the pages look as before",
		Args:  cobra.MinimumNArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if len(args) == 1 && !sure {
				return usage("name the proposals to accept, or --sure (cparcel site proposals %s lists them)", args[0])
			}
			var named []item.Address
			for _, x := range args[1:] {
				addr, err := item.ParseAddress(x)
				if err != nil {
					return usage("%s", err)
				}
				named = append(named, addr)
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			took, err := result(
				c.AcceptProposalsWithResponse(cmd.Context(), args[0],
					api.AcceptProposals{Accept: &named, Sure: &sure, Draft: some(draft)}),
			)
			if err != nil {
				return err
			}
			return a.print(took, func() { a.took(args[0], took) })
		},
	}
	cmd.Flags().BoolVar(&sure, "sure", false, "accept all that are sure")
	a.draftFlag(cmd, &draft, nil, "put them into the draft with this `name or number` instead of a new one")
	return cmd
}

func (a *app) took(site string, t *api.AcceptedProposals) {
	for _, x := range t.Took {
		a.say("  %s     %s", a.good("made"), x)
	}
	for _, n := range t.Notes {
		a.say("  %s     %s: %s", a.mark("note"), n.Address, n.Message)
	}
	if t.Draft == nil {
		a.say("Nothing was accepted.")
		return
	}
	a.say("%d items changed in draft %d: %s", t.Items, *t.Draft, *t.Preview)
	a.say("Make it live: cparcel site go-live %s %d", site, *t.Draft)
}

// askProposals asks for each proposal on a terminal, and puts the accepted ones live:
// the site has just come into being. Without a terminal it ends waiting.
func (a *app) askProposals(cmd *cobra.Command, c *api.ClientWithResponses, site string, list []repeat.Proposal) error {
	if !a.someoneThere() || a.output == "json" {
		return &exitError{
			Waits,
			fmt.Errorf(
				"%d proposals wait for a decision\n  To fix: cparcel site accept %s ITEM…, or leave the pages "+
					"as they are",
				len(list),
				site,
			),
		}
	}
	accept := []item.Address{}
	for _, p := range list {
		fmt.Fprintf(a.err, "%s %s, %.0f%% alike: make it %s? [y/N] ", a.mark("?"), p.Message, p.Likeness*100,
			p.Address)
		answer, err := a.readLine()
		if err != nil {
			return fmt.Errorf("reading the answer: %w", err)
		}
		if strings.HasPrefix(strings.ToLower(strings.TrimSpace(answer)), "y") {
			accept = append(accept, p.Address)
		}
	}
	if len(accept) == 0 {
		return nil
	}
	took, err := result(c.AcceptProposalsWithResponse(cmd.Context(), site, api.AcceptProposals{Accept: &accept}))
	if err != nil {
		return err
	}
	a.took(site, took)
	if took.Draft == nil {
		return nil
	}
	live, err := result(c.GoLiveWithResponse(cmd.Context(), site, *took.Draft))
	if err != nil {
		return err
	}
	a.say("Live as revision %d.", live.Revision)
	return nil
}
