package client

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"slices"
	"strings"

	"compactparcel/core/edit"
	"compactparcel/core/item"
	"compactparcel/core/plan"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"
)

func (a *app) siteEdit() *cobra.Command {
	var draft int64
	var name, operations string
	var dry bool
	var seen string
	var one oneOperation
	cmd := &cobra.Command{
		Use:   "edit SITE [PAGE|ITEM OPERATION [ELEMENT]]",
		Short: "Change words, pictures, elements, looks, pages, parts, menus, records and settings by operations",
		Long: "Does one operation, or a list of them from a file, in a draft: all or nothing, as one step.\n" +
			"What one of them takes: cparcel site edit OPERATION --help\n\n" +
			operationHelp(),
		Example: `  cparcel site edit kestrel-refuge /contact/ text "main h1" --value "Write to us" --draft spring
  cparcel site edit kestrel-refuge / duplicate "main section:nth-of-type(2)" --dry-run
  cparcel site edit kestrel-refuge menu/main entry-add --label "Walks" --value /getting-here/
  cparcel site edit kestrel-refuge / appearance "main section" --property background --value "#eef3ee"
  cparcel site edit kestrel-refuge /walks/ page-new --value "Walks from the hut"
  cparcel site edit kestrel-refuge record/room/attic field --property beds --value 14
  cparcel site edit kestrel-refuge --operations list.json`,
		Args: cobra.RangeArgs(1, 4),
		RunE: func(cmd *cobra.Command, args []string) error {
			in := api.SiteEdits{Draft: some(draft), Dry: some(dry)}
			if cmd.Flags().Changed("seen") {
				in.Seen = &seen
			}
			var err error
			switch {
			case operations != "" && len(args) == 1:
				if in.Operations, err = readOperations(operations); err != nil {
					return err
				}
			case operations == "" && len(args) >= 3:
				op, err := a.operation(cmd, &one, draft, args)
				if err != nil {
					return err
				}
				in.Operations = []edit.Operation{op}
			default:
				return usage("name a page or item and an operation, or --operations FILE")
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			got, err := result(c.EditSiteWithResponse(cmd.Context(), args[0], in))
			if err != nil {
				return err
			}
			return a.doneInDraft(cmd.Context(), c, args[0], name, got)
		},
	}
	help := cmd.HelpFunc()
	cmd.SetHelpFunc(func(cmd *cobra.Command, args []string) {
		for _, word := range cmd.Flags().Args() { // of the operation that is named, only what it takes
			if row := rowOf(edit.Name(word)); row != nil {
				a.say("%s %s.\n\n  %s\n\nIt is refused where %s.\nIt touches %s.", row.Op, row.Does, row.Command,
					strings.Join(row.Refusals, ", or "), row.Touches)
				return
			}
		}
		help(cmd, args)
	})
	f := cmd.Flags()
	one.flags(f)
	f.StringVar(&operations, "operations", "", "a `file` with a JSON list of operations")
	f.StringVar(&seen, "seen", "",
		"the `moment` of the page that is meant (site outline names it); what came later stays")
	f.BoolVar(&dry, "dry-run", false, "write nothing, and show the difference")
	a.draftFlag(cmd, &draft, &name,
		"the `name or number` of an open draft; a new name makes one (a new one when not given)")
	return cmd
}

// operation reads the one operation that a command names, on a page or an item of a site.
func (a *app) operation(cmd *cobra.Command, one *oneOperation, draft int64, args []string) (
	op edit.Operation, err error,
) {
	row := rowOf(edit.Name(args[2]))
	if row == nil {
		return op, usage("there is no operation %q; see cparcel site edit --help", args[2])
	}
	a.writtenAs = row.Command
	if row.Op != edit.PageNew && (slices.Contains(row.Inputs, "page") || strings.HasPrefix(args[1], "/")) {
		c, err := a.api()
		if err != nil {
			return op, err
		}
		if args[1], err = a.pageNamed(cmd.Context(), c, args[0], draft, args[1]); err != nil {
			return op, err
		}
	}
	if op, err = one.read(cmd, args[1:]); err != nil {
		return op, err
	}
	if missing := row.Missing(op); len(missing) > 0 {
		return op, usage("%s needs %s, as in: %s", op.Op, strings.Join(missing, " and "), row.Command)
	}
	return op, nil
}

// oneOperation is an operation as options say it.
type oneOperation struct {
	edit.Operation
	file, of string
	to       int
}

func (o *oneOperation) flags(f *pflag.FlagSet) {
	f.StringVar(&o.Value, "value", "", "the new words, address, classes, tag, markup or value")
	f.StringVar(&o.file, "value-file", "", "a `file` that holds the value")
	f.IntVar(&o.Run, "run", 0, "which words of an element that holds others: those before the first are 1")
	f.IntVar(&o.From, "from", 0, "where in the words, in `characters` from 0")
	f.IntVar(&o.to, "to", 0, "up to where in the words, in `characters`; to their end when not given")
	f.StringVar((*string)(&o.Place), "place", "", "where: before, after or inside")
	f.StringVar(&o.Beside, "beside", "", "another element of the page, by a CSS `selector`")
	f.StringVar(&o.Entry, "entry", "", "an entry of a menu by its `place`: 2, or 2.1 below it")
	f.StringVar(&o.Label, "label", "", "the `words` of an entry, the title of what is made, or where a button leads")
	f.StringVar(&o.Property, "property", "", "what of an appearance, which `field`, blank, role or empty element")
	f.StringVar((*string)(&o.State), "state", "", "when an appearance holds: pointed, focused, pressed or current")
	f.IntVar(&o.Width, "width", 0, "the width in `px` up to which an appearance holds")
	f.StringVar(&o.of, "item", "", "the `item` that is made, or of which a copy is made")
}

// read gives the operation of the arguments: a page or item, what is done, and an element.
func (o *oneOperation) read(cmd *cobra.Command, args []string) (edit.Operation, error) {
	op := o.Operation
	op.Op = edit.Name(args[1])
	if o.file != "" {
		b, err := os.ReadFile(o.file)
		if err != nil {
			return op, usage("%v", err)
		}
		op.Value = string(b)
	}
	if cmd.Flags().Changed("to") {
		op.To = &o.to
	}
	if len(args) == 3 {
		op.Element = args[2]
	}
	return op, aimed(&op, args[0], o.of)
}

// readOperations reads a list of operations from a file.
func readOperations(name string) (list []edit.Operation, err error) {
	b, err := os.ReadFile(name)
	if err != nil {
		return nil, usage("%v", err)
	}
	if err := json.Unmarshal(b, &list); err != nil {
		return nil, usage("%s is no list of operations: %v", name, err)
	}
	return list, nil
}

// aimed lets an operation be about a page, by its address on the site, or about an item.
func aimed(op *edit.Operation, at, of string) error {
	if strings.HasPrefix(at, "/") {
		if op.Page = at; of == "" {
			return nil
		}
		at = of
	}
	addr, err := item.ParseAddress(at)
	if err != nil {
		return usage("%q is neither a page's address, as /contact/, nor an item, as menu/main", at)
	}
	op.Item = addr
	return nil
}

// operationHelp lists the operations as they are declared.
// rowOf gives the declaration of an operation; nil where there is none.
func rowOf(name edit.Name) *edit.Row {
	if i := slices.IndexFunc(edit.Rows, func(r edit.Row) bool { return r.Op == name }); i >= 0 {
		return &edit.Rows[i]
	}
	return nil
}

func operationHelp() string {
	var b strings.Builder
	for _, r := range edit.Rows {
		fmt.Fprintf(&b, "  %-15s %s\n", r.Op, r.Does)
	}
	return b.String()
}

// doneInDraft names the draft that something was done in, and tells what was done.
func (a *app) doneInDraft(
	ctx context.Context, c *api.ClientWithResponses, site, name string, got *api.SiteEdited,
) error {
	if err := a.nameDraft(ctx, c, site, got.Draft, name); err != nil {
		return err
	}
	return a.print(got, func() { a.siteEdited(site, got) })
}

// siteEdited prints what operations did, or would do.
func (a *app) siteEdited(site string, got *api.SiteEdited) {
	for _, s := range got.Says {
		a.say("%s.", sentence(s))
	}
	for _, x := range got.Items {
		if got.Draft == nil {
			a.difference(x)
		}
	}
	if len(got.Items) == 0 {
		a.say("It is so already.")
		return
	}
	a.steppedOn(site, got.Touched, got.Draft, got.Step, got.Preview)
}

// steppedOn prints where a step shows, and how it is taken back.
func (a *app) steppedOn(site string, touched []plan.TouchedPage, draft *int64, step *int, preview *string) {
	switch len(touched) {
	case 0:
		a.say("No page shows it.")
	case 1:
		a.say("It shows on one page, %s.", touched[0].Slug)
	default:
		a.say("It shows on %d pages.", len(touched))
	}
	if draft != nil && step != nil {
		a.say("Step %d of draft %d. Look at it: %s", *step, *draft, value(preview))
		a.say("Before and after: cparcel draft pictures %s %d", site, *draft)
		a.say("Take it back: cparcel draft undo %s %d", site, *draft)
	}
}

// nameDraft gives a draft that was just made its name; nothing where there is none to give.
func (a *app) nameDraft(ctx context.Context, c *api.ClientWithResponses, site string, draft *int64,
	name string) error {
	if name == "" || draft == nil {
		return nil
	}
	_, err := result(c.RenameDraftWithResponse(ctx, site, *draft, api.RenameDraft{Name: name}))
	return err
}

// difference prints the lines of an item that change.
func (a *app) difference(x api.EditedItem) {
	if value(x.Gone) {
		a.say("%s goes.", x.Address)
		return
	}
	before, after := strings.Split(value(x.Before), "\n"), strings.Split(x.After, "\n")
	first := 0
	for first < len(before) && first < len(after) && before[first] == after[first] {
		first++
	}
	b, c := len(before), len(after)
	for b > first && c > first && before[b-1] == after[c-1] {
		b, c = b-1, c-1
	}
	a.say("%s, line %d:", x.Address, first+1)
	for _, l := range before[first:b] {
		a.say("  %s %s", a.bad("-"), l)
	}
	for _, l := range after[first:c] {
		a.say("  %s %s", a.good("+"), l)
	}
}
