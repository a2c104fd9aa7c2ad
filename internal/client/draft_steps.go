package client

import (
	"fmt"
	"strconv"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/says"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

// draftFlag gives a command --draft, which names an open draft of the site that is its first
// argument, by name or number; mine is the last that one works in. fresh, if given, gets a name that no draft has yet.
func (a *app) draftFlag(cmd *cobra.Command, draft *int64, fresh *string, usage string) {
	a.draftFlagAt(cmd, 0, draft, fresh, usage)
}

// draftFlagAt is draftFlag where the site is another argument.
func (a *app) draftFlagAt(cmd *cobra.Command, site int, draft *int64, fresh *string, usage string) {
	var text string
	cmd.Flags().StringVar(&text, "draft", "", usage)
	run := cmd.RunE
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if text != "" {
			n, err := a.draftNumber(cmd, args[site], text, fresh != nil)
			if err != nil {
				return err
			}
			if *draft = n; n == 0 {
				*fresh = text
			}
		}
		return run(cmd, args)
	}
}

// draftNumber gives the number of an open draft by its name or number; 0 for a new name, where one
// may be.
func (a *app) draftNumber(cmd *cobra.Command, site, text string, mayBeNew bool) (int64, error) {
	if n, err := strconv.ParseInt(text, 10, 64); err == nil && n > 0 {
		return n, nil
	}
	c, err := a.api()
	if err != nil {
		return 0, err
	}
	if text == "mine" {
		d, err := result(c.OpenDraftWithResponse(cmd.Context(), site, api.OpenDraft{}))
		if err != nil {
			return 0, err
		}
		return d.Id, nil
	}
	list, err := result(c.ListDraftsWithResponse(cmd.Context(), site))
	if err != nil {
		return 0, err
	}
	var names []string
	for _, d := range list.Drafts {
		if d.Name == text {
			return d.Id, nil
		}
		names = append(names, d.Name)
	}
	if mayBeNew {
		return 0, nil
	}
	if len(names) == 0 {
		return 0, usage("%s has no open draft", site)
	}
	return 0, usage("%s has no open draft %q; there is %s", site, text, strings.Join(names, ", "))
}

func (a *app) draftCommands() *cobra.Command {
	cmd := &cobra.Command{Use: "draft", Short: "Look at drafts, take steps back and do them again"}
	cmd.AddCommand(a.draftNew(), a.draftList(), a.draftShow(), a.draftSteps(), a.draftBack("undo"),
		a.draftBack("redo"),
		a.draftRebase(), a.draftRename(), a.siteDiscard(), a.draftPictures())
	return cmd
}

// onDraft is a command on one draft of a site.
func (a *app) onDraft(
	use, short string, more int, run func(cmd *cobra.Command, c *api.ClientWithResponses, args []string,
		id int64) error,
) *cobra.Command {
	return &cobra.Command{
		Use:   use,
		Short: short,
		Args:  cobra.ExactArgs(2 + more),
		RunE: func(cmd *cobra.Command, args []string) error {
			id, err := a.draftNumber(cmd, args[0], args[1], false)
			if err != nil {
				return err
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			return run(cmd, c, args, id)
		},
	}
}

func (a *app) draftList() *cobra.Command {
	return &cobra.Command{
		Use:   "list SITE",
		Short: "List the open drafts of a site",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			list, err := result(c.ListDraftsWithResponse(cmd.Context(), args[0]))
			if err != nil {
				return err
			}
			return a.print(list, func() {
				var rows [][]any
				for _, d := range list.Drafts {
					rows = append(rows, []any{d.Id, d.Name, d.By, d.CreatedAt.Local().Format("2006-01-02 15:04"),
						d.BaseRevision, goesLive(d)})
				}
				a.table("No open drafts. The first edit makes one: cparcel site put",
					[]string{"number", "name", "by", "since", "from revision", "goes live"}, rows)
			})
		},
	}
}

func (a *app) draftShow() *cobra.Command {
	var lines bool
	cmd := a.onDraft("show SITE DRAFT", "Show what a draft changes", 0,
		func(cmd *cobra.Command, c *api.ClientWithResponses, args []string, id int64) error {
			d, err := result(c.GetDraftWithResponse(cmd.Context(), args[0], id))
			if err != nil {
				return err
			}
			var changed []api.EditedItem
			if lines {
				if changed, err = a.linesOf(cmd, c, args[0], d); err != nil {
					return err
				}
			}
			return a.print(d, func() {
				a.draftDetail(d)
				for _, x := range changed {
					a.difference(x)
				}
			})
		})
	cmd.Flags().BoolVar(&lines, "lines", false, "show the lines that change, too")
	return cmd
}

// linesOf reads the texts that a draft changes, live and in the draft.
func (a *app) linesOf(
	cmd *cobra.Command, c *api.ClientWithResponses, site string, d *api.DraftDetail,
) ([]api.EditedItem, error) {
	read := func(address item.Address, draft int64) (*string, error) {
		got, err := result(c.GetItemWithResponse(cmd.Context(), site,
			&api.GetItemParams{Address: address.String(), Draft: some(draft)}))
		if err != nil {
			return nil, err
		}
		return got.Content, nil
	}
	var out []api.EditedItem
	for _, x := range d.Changes {
		e := api.EditedItem{Address: x.Address}
		var err error
		if x.Was != nil {
			if e.Before, err = read(*x.Was, 0); err != nil {
				return nil, err
			}
		}
		if !x.Gone {
			after, err := read(x.Address, d.Draft.Id)
			if err != nil {
				return nil, err
			}
			e.After = value(after)
		}
		if value(e.Before) != e.After { // else only what is known beside its text
			out = append(out, e)
		}
	}
	return out, nil
}

// draftDetail prints what a draft changes.
func (a *app) draftDetail(d *api.DraftDetail) {
	a.say("Draft %d “%s” by %s, %s: %s", d.Draft.Id, d.Draft.Name, d.Draft.By, d.Draft.State, d.Draft.Preview)
	var rows [][]any
	for _, x := range d.Changes {
		what := "changed"
		switch {
		case x.Gone:
			what = a.bad("removed")
		case x.Was == nil:
			what = a.good("new")
		case *x.Was != x.Address:
			what = "was " + x.Was.String()
		}
		rows = append(rows, []any{x.Address.String(), what})
	}
	a.table("It changes nothing.", []string{"item", "against live"}, rows)
	a.endedBy(d)
	if d.Draft.LiveAt != nil {
		a.say("It goes live on %s, for %s.", d.Draft.LiveAt.Local().Format("2006-01-02 at 15:04"),
			value(d.Draft.LiveFor))
	}
	if says := value(d.Draft.LiveSays); says != "" {
		a.say("%s It did not go live at its time: %s", a.bad("Stayed:"), says)
	}
	for _, x := range d.Behind {
		a.say("%s %s was changed on the live site since.", a.mark("Behind:"), x)
	}
}

func (a *app) draftSteps() *cobra.Command {
	return a.onDraft("steps SITE DRAFT", "List what was done in a draft", 0,
		func(cmd *cobra.Command, c *api.ClientWithResponses, args []string, id int64) error {
			list, err := result(c.ListDraftStepsWithResponse(cmd.Context(), args[0], id))
			if err != nil {
				return err
			}
			return a.print(list, func() {
				var rows [][]any
				for _, s := range list.Steps {
					rows = append(rows, []any{s.N, s.At.Local().Format("2006-01-02 15:04:05"), s.By, s.Message,
						len(s.Items)})
				}
				a.table("Nothing was done in it yet.", []string{"step", "when", "by", "what", "items"}, rows)
			})
		})
}

// draftBack is undo, and redo.
func (a *app) draftBack(word string) *cobra.Command {
	short := "Take back your last step in a draft"
	if word == "redo" {
		short = "Do again what you took back last in a draft"
	}
	return a.onDraft(word+" SITE DRAFT", short, 0,
		func(cmd *cobra.Command, c *api.ClientWithResponses, args []string, id int64) error {
			var got *api.DraftStepped
			var err error
			if word == "undo" {
				got, err = result(c.UndoDraftStepWithResponse(cmd.Context(), args[0], id))
			} else {
				got, err = result(c.RedoDraftStepWithResponse(cmd.Context(), args[0], id))
			}
			if err != nil {
				return err
			}
			return a.print(got, func() {
				for _, x := range got.Items {
					a.say("  %s", x)
				}
				if word == "undo" {
					a.say("Step %d is taken back. Do it again: cparcel draft redo %s %s", got.Of, args[0], args[1])
				} else {
					a.say("Done again, as step %d.", got.Step)
				}
			})
		})
}

func (a *app) draftRebase() *cobra.Command {
	var decide []string
	cmd := a.onDraft("rebase SITE DRAFT", "Bring what went live into a draft, and decide what does not merge", 0,
		func(cmd *cobra.Command, c *api.ClientWithResponses, args []string, id int64) error {
			given, err := pairs("--decide", decide)
			if err != nil {
				return err
			}
			decisions := map[string]api.DraftSide{}
			for key, side := range given {
				decisions[key] = api.DraftSide(side)
			}
			got, err := result(c.RebaseDraftWithResponse(cmd.Context(), args[0], id,
				api.RebaseDraft{Decisions: &decisions}))
			if err != nil {
				return err
			}
			if err := a.print(got, func() { a.rebased(got) }); err != nil {
				return err
			}
			if n := len(got.Behind); n > 0 {
				return &exitError{Waits, fmt.Errorf("%s to be decided\n  To fix: cparcel draft rebase %s %s "+
					"--decide KEY=draft, or --decide KEY=live", says.Count(n, "item"), args[0], args[1])}
			}
			return nil
		})
	cmd.Flags().StringArrayVar(&decide, "decide", nil,
		"whose side is taken, as `KEY=draft` or KEY=live; KEY is an item or one of its conflicts; may be repeated")
	return cmd
}

// rebased prints what was merged, and what is to be decided.
func (a *app) rebased(got *api.DraftRebased) {
	for _, x := range got.Merged {
		a.say("  %s %s", a.good("merged"), x)
	}
	if len(got.Merged)+len(got.Behind) == 0 {
		a.say("Nothing went live that it changes, too.")
	}
	for _, b := range got.Behind {
		a.say("  %s %s: %s", a.bad("behind"), b.Address, b.Why)
		for _, x := range b.Conflicts {
			a.say("    %s\n      %s\n      draft: %s\n      live:  %s", a.mark(x.Key), x.Where, x.Draft, x.Live)
		}
	}
}

func (a *app) draftNew() *cobra.Command {
	return &cobra.Command{
		Use:   "new SITE [NAME]",
		Short: "Begin a draft of a name; without one, continue one's own or begin it",
		Args:  cobra.RangeArgs(1, 2),
		RunE: func(cmd *cobra.Command, args []string) error {
			in := api.OpenDraft{}
			if len(args) > 1 {
				in.Name = &args[1]
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			d, err := result(c.OpenDraftWithResponse(cmd.Context(), args[0], in))
			if err != nil {
				return err
			}
			return a.print(d, func() { a.say("Draft %d “%s”: %s", d.Id, d.Name, d.Preview) })
		},
	}
}

func (a *app) draftRename() *cobra.Command {
	return a.onDraft("rename SITE DRAFT NAME", "Give a draft another name", 1,
		func(cmd *cobra.Command, c *api.ClientWithResponses, args []string, id int64) error {
			d, err := result(c.RenameDraftWithResponse(cmd.Context(), args[0], id, api.RenameDraft{Name: args[2]}))
			if err != nil {
				return err
			}
			return a.print(d, func() { a.say("Draft %d is called “%s”.", d.Id, d.Name) })
		})
}

// endedBy tells of the addresses that a draft ends.
func (a *app) endedBy(d *api.DraftDetail) {
	for _, x := range d.Ended {
		from := "nothing on the site leads there; mails, other sites and search engines may"
		if len(x.LinkedFrom) > 0 {
			from = "still named by " + listed(x.LinkedFrom)
		}
		a.say("%s %s will not answer any more: %s.", a.bad("Ends"), x.Path, from)
	}
}

func listed(list []item.Address) string {
	out := make([]string, len(list))
	for i, x := range list {
		out[i] = x.String()
	}
	return strings.Join(out, ", ")
}

// goesLive says when a draft goes live by itself, or why it did not.
func goesLive(d api.Draft) string {
	switch {
	case d.LiveAt != nil:
		return d.LiveAt.Local().Format("2006-01-02 15:04")
	case value(d.LiveSays) != "":
		return "not: " + *d.LiveSays
	}
	return ""
}
