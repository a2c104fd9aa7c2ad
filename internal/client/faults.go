package client

import (
	"fmt"
	"os"
	"time"

	"compactparcel/core/closure"
	"compactparcel/core/faults"
	"compactparcel/core/folder"
	"compactparcel/core/says"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) siteCheck() *cobra.Command {
	var draft int64
	var widths bool
	var wait time.Duration
	cmd := &cobra.Command{
		Use:   "check SITE",
		Short: "Find what visitors of a site would trip over",
		Long: "Looks at every page as it is shown: links and anchors that lead nowhere, pictures without an\n" +
			"alternative text, fields without a label, headings out of order, texts that are hard to read,\n" +
			"samples that were left, and more. Each fault is told with the item and the line to mend. With\n" +
			"--draft, what the live site does not have comes first. With --widths, a browser looks at pages at\n" +
			"1280, 768 and 390 px, too: what reaches beyond the page, texts that are cut off, and places that a\n" +
			"fixed bar covers. The exit code is 5 when a fault keeps visitors from something.",
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			end, pause := time.Now().Add(wait), 300*time.Millisecond
			for {
				got, err := result(c.GetSiteFaultsWithResponse(cmd.Context(), args[0],
					&api.GetSiteFaultsParams{Draft: some(draft), Widths: some(widths)}))
				if err != nil {
					return err
				}
				if w := got.Widths; w != nil && w.Waiting > 0 && time.Now().Before(end) {
					if err := rest(cmd.Context(), &pause); err != nil {
						return err
					}
					continue
				}
				return a.faults(*got)
			}
		},
	}
	a.draftFlag(cmd, &draft, nil, "the `name or number` of an open draft, in the place of the live state")
	cmd.Flags().BoolVar(&widths, "widths", false, "let a browser look at pages at 1280, 768 and 390 px, too")
	cmd.Flags().DurationVar(&wait, "wait", 10*time.Minute, "how long the browser's looks are waited for at most")
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
	if err := a.print(list, func() { a.faultTable(list.Faults); a.widthLook(list.Widths) }); err != nil {
		return err
	}
	if list.Grave > 0 {
		return &exitError{Refused, fmt.Errorf("%s would trouble visitors", says.Count(list.Grave, "fault"))}
	}
	return nil
}

// widthLook tells how far a browser's look at pages is.
func (a *app) widthLook(w *api.WidthLook) {
	switch {
	case w == nil:
	case !w.Browser:
		a.say("No browser looked at the pages: this service has none. Install Debian's package chromium.")
	case w.Waiting > 0:
		a.say("A browser has still to look %s: ask again.", says.Count(w.Waiting, "time"))
	default:
		a.say("A browser looked at %s at 1280, 768 and 390 px.", says.Count(w.Pages, "page"))
		if left := value(w.Left); left > 0 {
			a.say("%s more were not looked at.", says.Count(left, "page"))
		}
	}
}

// faultTable prints faults, those that say the same in one row: a site of a framework has some of them everywhere.
func (a *app) faultTable(list []faults.Fault) {
	type same struct {
		kind            faults.Kind
		grave, new      bool
		message, remedy string
	}
	var order []same
	groups := map[same][]faults.Fault{}
	for _, f := range list {
		s := same{f.Kind, f.Grave, f.New, f.Message, f.Remedy}
		if groups[s] == nil {
			order = append(order, s)
		}
		groups[s] = append(groups[s], f)
	}
	var rows [][]any
	for _, s := range order {
		kind := string(s.kind)
		if s.grave {
			kind = a.mark(kind)
		}
		if s.new {
			kind = a.bad("new") + " " + kind
		}
		f := groups[s][0]
		where, on := "the page", onPages(f)
		if !f.Address.IsZero() {
			where = f.Address.String()
		}
		if f.Line > 0 {
			where += fmt.Sprintf(":%d", f.Line)
		}
		if more := len(groups[s]) - 1; more > 0 {
			where += fmt.Sprintf(" and %s more", says.Count(more, "place"))
			on = says.Count(pagesOf(groups[s]), "page")
		}
		rows = append(rows, []any{kind, where, on, s.message + " – " + s.remedy})
	}
	a.table(a.good("Clean")+": no faults found.", []string{"kind", "where", "on", "what, and how to mend it"}, rows)
	if len(rows) < len(list) {
		a.say("%s in all; each with its place: -o json", says.Count(len(list), "fault"))
	}
}

// pagesOf counts the pages that show some of a list of faults.
func pagesOf(list []faults.Fault) int {
	pages, most := map[string]bool{}, 0
	for _, f := range list {
		most = max(most, f.Count)
		for _, p := range f.Pages {
			pages[p] = true
		}
	}
	return max(len(pages), most)
}

// onPages says which pages show a fault.
func onPages(f faults.Fault) string {
	switch f.Count {
	case 0:
		return "no page"
	case 1:
		return f.Pages[0]
	}
	return says.Count(f.Count, "page")
}
