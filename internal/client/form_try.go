package client

import (
	"strings"

	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) formTry() *cobra.Command {
	var draft int64
	cmd := &cobra.Command{
		Use:   "try SITE FORM FIELD=VALUE...",
		Short: "Fill a form in to see what would become of it; nothing is kept or sent",
		Example: `  cparcel form try kestrel-refuge booking name=Una mail=una@hut.example night=2026-12-05
  cparcel form try kestrel-refuge booking name=Una --draft winter`,
		Args: cobra.MinimumNArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			in := api.FormTrial{Draft: some(draft), Fields: map[string][]string{}}
			for _, x := range args[2:] {
				name, v, ok := strings.Cut(x, "=")
				if !ok || name == "" {
					return usage("%q: write a field and its value as mail=una@hut.example", x)
				}
				in.Fields[name] = append(in.Fields[name], v)
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			got, err := result(c.TryFormWithResponse(cmd.Context(), args[0], args[1], in))
			if err != nil {
				return err
			}
			return a.print(got, func() { a.tried(args[0], args[1], got) })
		},
	}
	a.draftFlag(cmd, &draft, nil, "try the form of the draft with this `name or number` instead of the live site's")
	return cmd
}

// tried prints what would become of an entry.
func (a *app) tried(site, form string, got *api.FormTried) {
	if len(got.Wrong) > 0 {
		a.say("It would not be taken:")
		for _, w := range got.Wrong {
			a.say("  %s %s: %s", a.bad("!"), w.Label, w.Message)
		}
		return
	}
	switch {
	case !got.Kept:
		a.say("It would not be kept: a field that people do not see is filled in.")
	case got.Page != nil:
		a.say("It would be kept, and the visitor led to %s.", *got.Page)
	default:
		a.say("It would be kept, and the visitor would read:\n  %s", value(got.Text))
	}
	for _, m := range got.Mails {
		a.say("\n%s %s\n  %s\n\n  %s", a.mark("Mail to"), strings.Join(m.To, ", "), m.Subject,
			strings.ReplaceAll(strings.TrimRight(m.Text, "\n"), "\n", "\n  "))
	}
	if got.Kept && len(got.Mails) == 0 {
		a.say("Nobody would be told: say who in setting/forms (cparcel form list --help), for %s of %s.", form, site)
	}
	a.say("\nNothing was kept and nothing was sent.")
}
