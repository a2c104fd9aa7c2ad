package client

import (
	"encoding/json"
	"net/http"

	"compactparcel/core/facts"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

// siteScripts lists the scripts in the heads of a site's pages and says which may
// travel in kits.
func (a *app) siteScripts() *cobra.Command {
	var portable, siteOnly []string
	cmd := &cobra.Command{
		Use:   "scripts SITE",
		Short: "List the scripts in the heads of pages, and say which may travel in kits",
		Args:  cobra.ExactArgs(1),
		Long: `Lists what runs from the heads of a site's pages. Such scripts are site-only: a page
that is packed leaves them behind, until --portable says otherwise. The change goes
into a draft.`,
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			address := facts.HeadScripts.String()
			got, err := c.GetItemWithResponse(cmd.Context(), args[0], &api.GetItemParams{Address: address})
			if err != nil {
				return err
			}
			if err := refusal(got); err != nil && got.StatusCode() != http.StatusNotFound {
				return err
			}
			var list []facts.HeadScript
			if got.JSON200 == nil {
				if _, err := result(c.GetSiteWithResponse(cmd.Context(), args[0])); err != nil {
					return err
				}
			} else if err := json.Unmarshal([]byte(*got.JSON200.Content), &list); err != nil {
				return usage("%s of %s is not a list of scripts: correct it with cparcel site put", address, args[0])
			}
			changed := false
			for _, want := range []struct {
				names    []string
				portable bool
			}{{portable, true}, {siteOnly, false}} {
				for _, name := range want.names {
					i := 0
					for i < len(list) && list[i].Script != name {
						i++
					}
					if i == len(list) {
						return usage("no page of %s has the script %q in its head: cparcel site scripts %s lists them",
							args[0], name, args[0])
					}
					changed = changed || list[i].Portable != want.portable
					list[i].Portable = want.portable
				}
			}
			if !changed {
				return a.print(list, func() { a.headScripts(args[0], list) })
			}
			text, err := json.Marshal(list)
			if err != nil {
				return err
			}
			content, tag := string(text), `"`+string(got.JSON200.Item.State)+`"`
			put, err := result(
				c.EditItemWithResponse(cmd.Context(), args[0], &api.EditItemParams{Address: address, IfMatch: &tag},
					api.EditItem{Content: &content}),
			)
			if err != nil {
				return err
			}
			return a.print(put, func() {
				a.headScripts(args[0], list)
				a.say("The change is in draft %d. Make it live: cparcel site go-live %s %d", put.Draft, args[0],
					put.Draft)
			})
		},
	}
	cmd.Flags().
		StringArrayVar(&portable, "portable", nil,
			"a `script` that may travel, as it is listed; may be repeated")
	cmd.Flags().StringArrayVar(&siteOnly, "site-only", nil, "a `script` that stays with the site")
	return cmd
}

func (a *app) headScripts(site string, list []facts.HeadScript) {
	var rows [][]any
	for _, h := range list {
		how := "site-only"
		if h.Portable {
			how = a.good("portable")
		}
		rows = append(rows, []any{h.Script, h.Pages, how, h.Begins})
	}
	a.table("No page of "+site+" has a script in its head, as far as adopting it found.",
		[]string{"Script", "Pages", "In kits", "Begins"}, rows)
}
