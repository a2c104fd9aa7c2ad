package client

import (
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) siteNew() *cobra.Command {
	var title, from string
	cmd := &cobra.Command{
		Use:   "new SITE",
		Short: "Make a site: empty, or as a copy of another",
		Long: "Makes a site: empty, with a page, a menu, a header, a footer and a look, or as a copy of another,\n" +
			"with where its items came from. From a folder: cparcel site adopt.",
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			s, err := created(c.NewSiteWithResponse(cmd.Context(),
				api.NewSite{Name: args[0], Title: some(title), CopyOf: some(from)}))
			if err != nil {
				return err
			}
			return a.print(s, func() {
				a.say("%s is there, with %s: %s", s.Name, count(s.Items, "item"), s.Preview)
			})
		},
	}
	cmd.Flags().StringVar(&title, "title", "", "its `title`; its name when not given")
	cmd.Flags().StringVar(&from, "copy", "", "the `site` that it is a copy of")
	return cmd
}
