package client

import (
	"fmt"
	"os"

	"compactparcel/core/closure"
	"compactparcel/core/faults"
	"compactparcel/core/folder"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) siteCheck() *cobra.Command {
	var draft int64
	cmd := &cobra.Command{
		Use:   "check SITE",
		Short: "Find what visitors of a site would trip over",
		Long: "Looks at every page as it is shown: links and anchors that lead nowhere, pictures without an\n" +
			"alternative text, fields without a label, headings out of order, texts that are hard to read,\n" +
			"samples that were left, and more. Each fault is told with the item and the line to mend. With\n" +
			"--draft, what the live site does not have comes first. The exit code is 5 when a fault keeps\n" +
			"visitors from something.",
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			got, err := result(c.GetSiteFaultsWithResponse(cmd.Context(), args[0],
				&api.GetSiteFaultsParams{Draft: some(draft)}))
			if err != nil {
				return err
			}
			return a.faults(*got)
		},
	}
	a.draftFlag(cmd, &draft, nil, "the `name or number` of an open draft, in the place of the live state")
	return cmd
}

// folderFaults checks a folder without a service.
func (a *app) folderFaults(dir string) error {
	set, _, err := folder.Read(os.DirFS(dir))
	if err != nil {
		return refused(err)
	}
	found, err := faults.Check(closure.NewSmall(set), faults.Options{})
	if err != nil {
		return refused(err)
	}
	out := api.FaultList{Faults: found}
	for _, f := range found {
		if f.Grave {
			out.Grave++
		}
	}
	return a.faults(out)
}

// faults prints a list of faults. It gives an error when one is grave.
func (a *app) faults(list api.FaultList) error {
	if err := a.print(list, func() { a.faultTable(list.Faults) }); err != nil {
		return err
	}
	if list.Grave > 0 {
		return &exitError{Refused, fmt.Errorf("%s would trouble visitors", count(list.Grave, "fault"))}
	}
	return nil
}

func (a *app) faultTable(list []faults.Fault) {
	var rows [][]any
	for _, f := range list {
		kind := string(f.Kind)
		if f.Grave {
			kind = a.mark(kind)
		}
		if f.New {
			kind = a.bad("new") + " " + kind
		}
		where := "the page"
		if !f.Address.IsZero() {
			where = f.Address.String()
		}
		if f.Line > 0 {
			where += fmt.Sprintf(":%d", f.Line)
		}
		rows = append(rows, []any{kind, where, onPages(f), f.Message + " – " + f.Remedy})
	}
	a.table(a.good("Clean")+": no faults found.", []string{"kind", "where", "on", "what, and how to mend it"}, rows)
}

// onPages says which pages show a fault.
func onPages(f faults.Fault) string {
	switch f.Count {
	case 0:
		return "no page"
	case 1:
		return f.Pages[0]
	}
	return count(f.Count, "page")
}
