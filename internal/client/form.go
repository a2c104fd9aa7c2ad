package client

import (
	"fmt"
	"io"
	"net/http"
	"os"
	"strings"
	"time"

	"compactparcel/core/says"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) form() *cobra.Command {
	cmd := &cobra.Command{Use: "form", Short: "What visitors send with the forms of sites"}
	cmd.AddCommand(a.formList(), a.formEntries(), a.formTry(), a.formDelete())
	return cmd
}

func (a *app) formList() *cobra.Command {
	return &cobra.Command{
		Use:   "list SITE",
		Short: "List a site's forms: who gets what is sent, and how much there is",
		Long: `Lists a site's forms. Who gets what is sent is said in setting/forms, by the form's name:
  cparcel site edit SITE setting/forms set --value '{"booking": {"to": ["warden@hut.example"],
    "subject": "A bunk for {name}", "answer": {"subject": "We have it", "text": "Dear {name}, ..."},
    "keep-days": 180}}'`,
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			got, err := result(c.ListFormsWithResponse(cmd.Context(), args[0]))
			if err != nil {
				return err
			}
			return a.print(got, func() {
				var rows [][]any
				for _, f := range got.Forms {
					last := ""
					if f.Last != nil {
						last = f.Last.Format("2006-01-02 15:04")
					}
					to := strings.Join(f.Receiver.To, ", ")
					if to == "" {
						to = "nobody"
					}
					rows = append(rows, []any{f.Name, value(f.Title), to, f.Entries, last, value(f.Address)})
				}
				a.table("The site has no forms.",
					[]string{"Form", "Title", "Told to", "Entries", "Last", "Received at"},
					rows)
				for _, f := range got.Forms {
					if f.Note != nil {
						a.say("%s: %s", f.Name, *f.Note)
					}
				}
			})
		},
	}
}

func (a *app) formEntries() *cobra.Command {
	var words, into string
	var before int64
	cmd := &cobra.Command{
		Use:   "entries SITE FORM",
		Short: "List what was sent with a form, or write all of it as a table",
		Example: `  cparcel form entries kestrel-refuge booking --words Saturday
  cparcel form entries kestrel-refuge booking --csv booking.csv`,
		Args: cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			if into != "" {
				return a.formTable(cmd, c, args[0], args[1], into)
			}
			got, err := result(c.ListFormEntriesWithResponse(cmd.Context(), args[0], args[1],
				&api.ListFormEntriesParams{Words: some(words), Before: some(before)}))
			if err != nil {
				return err
			}
			return a.print(got, func() { a.entries(got) })
		},
	}
	cmd.Flags().StringVar(&words, "words", "", "only those in which all these `words` stand")
	cmd.Flags().Int64Var(&before, "before", 0, "go on before this `entry`")
	cmd.Flags().StringVar(&into, "csv", "",
		"write all as comma-separated values to this `file` (- for standard output)")
	return cmd
}

// entries prints entries, each with its fields in the form's order.
func (a *app) entries(got *api.FormEntryList) {
	if len(got.Entries) == 0 {
		a.say("Nothing was sent with it.")
	}
	for _, e := range got.Entries {
		a.say("%s  %s%s", a.mark(fmt.Sprintf("No. %d", e.Id)), e.At.Format("2006-01-02 15:04"), mailStates(e.Mails))
		shown := map[string]bool{}
		for _, f := range got.Fields {
			if v, ok := e.Fields[f.Name]; ok {
				a.say("  %s: %s", f.Label, strings.ReplaceAll(v, "\n", "\n    "))
			}
			shown[f.Name] = true
		}
		for n, v := range e.Fields {
			if !shown[n] {
				a.say("  %s: %s", n, v)
			}
		}
		for _, m := range e.Mails {
			if m.Message != nil {
				a.say("  %s the mail to the %s: %s", a.bad("!"), m.To, *m.Message)
			}
		}
	}
	if got.More != nil {
		a.say("There are older ones: --before %d", *got.More)
	}
}

func mailStates(list []api.EntryMail) string {
	var b strings.Builder
	for _, m := range list {
		fmt.Fprintf(&b, "  mail to the %s %s", m.To, m.State)
		if m.State == api.MailStateWaiting && m.Tries > 0 {
			fmt.Fprintf(&b, ", tried %s", says.Count(m.Tries, "time"))
		}
	}
	return b.String()
}

// formTable writes all entries of a form as comma-separated values.
func (a *app) formTable(cmd *cobra.Command, c *api.ClientWithResponses, site, form, into string) error {
	resp, err := c.GetFormTable(cmd.Context(), site, form)
	if err != nil {
		return err
	}
	defer resp.Body.Close()
	if resp.StatusCode != http.StatusOK {
		b, err := io.ReadAll(io.LimitReader(resp.Body, 1<<20))
		if err != nil {
			return err
		}
		return refusal(rawReply{resp.StatusCode, b})
	}
	if into == "-" {
		_, err := io.Copy(a.out, resp.Body)
		return err
	}
	f, err := os.OpenFile(into, os.O_CREATE|os.O_WRONLY|os.O_TRUNC, 0o600) // it is about people
	if err != nil {
		return err
	}
	if _, err := io.Copy(f, resp.Body); err != nil {
		f.Close()
		return err
	}
	return f.Close()
}

func (a *app) formDelete() *cobra.Command {
	var entry int64
	var before string
	cmd := &cobra.Command{
		Use:   "delete SITE FORM",
		Short: "Delete one entry of a form, or all that came before a day",
		Args:  cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			in := &api.DeleteFormEntriesParams{Entry: some(entry)}
			if before != "" {
				at, err := time.ParseInLocation(time.DateOnly, before, time.Local)
				if err != nil {
					return usage("--before %q: write a day as 2026-05-30", before)
				}
				in.Before = &at
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			got, err := result(c.DeleteFormEntriesWithResponse(cmd.Context(), args[0], args[1], in))
			if err != nil {
				return err
			}
			return a.print(got, func() { a.say("Deleted: %s.", says.Count(got.Deleted, "entry")) })
		},
	}
	cmd.Flags().Int64Var(&entry, "entry", 0, "the `number` of one entry")
	cmd.Flags().StringVar(&before, "before", "", "all that came before this `day`")
	return cmd
}
