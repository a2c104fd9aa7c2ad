package client

import (
	"compactparcel/core/says"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) siteNew() *cobra.Command {
	var title, from, kit, folder string
	var given answerFlags
	cmd := &cobra.Command{
		Use:   "new SITE",
		Short: "Make a site: empty, of a kit, of a folder, or as a copy of another",
		Long: "Makes a site: empty, with a page, a menu, a header, a footer and a look; of a kit, with the kits " +
			"that\n" +
			"it needs; of a folder, as cparcel site adopt does; or as a copy of another, with where its items\n" +
			"came from.",
		Example: `  cparcel site new larch-hollow --title "Larch Hollow"
  cparcel site new larch-hollow --kit hut-basics@2.0.0 --fill hut-name="Larch Hollow"
  cparcel site new larch-hollow --copy larch-saddle`,
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if folder != "" {
				if kit+from != "" {
					return usage("name one of --kit, --copy and --folder")
				}
				adopt := a.siteAdopt()
				adopt.SetContext(cmd.Context())
				if err := adopt.Flags().Set("name", args[0]); err != nil {
					return err
				}
				return adopt.RunE(adopt, []string{folder})
			}
			in := api.NewSite{Name: args[0], Title: some(title), CopyOf: some(from)}
			c, err := a.api()
			if err != nil {
				return err
			}
			if kit != "" {
				name, version, err := a.kitVersion(cmd.Context(), c, kit, api.KitStateSealed)
				if err != nil {
					return err
				}
				answers, err := given.exact(name)
				if err != nil {
					return err
				}
				in.Kit, in.Version = &name, &version
				in.Decisions, in.Fills, in.Pages = answers.Decisions, answers.Fills, answers.Pages
				in.Policy, in.Seats = answers.Policy, answers.Seats
			}
			s, err := created(c.NewSiteWithResponse(cmd.Context(), in))
			if err != nil {
				return err
			}
			return a.print(s, func() {
				a.say("%s is there, with %s: %s", s.Name, says.Count(s.Items, "item"), s.Preview)
			})
		},
	}
	cmd.Flags().StringVar(&title, "title", "", "its `title`; its name when not given")
	cmd.Flags().StringVar(&from, "copy", "", "the `site` that it is a copy of")
	cmd.Flags().StringVar(&kit, "kit", "", "the `kit` that it is made of, as NAME@VERSION")
	cmd.Flags().StringVar(&folder, "folder", "", "the `folder` that it is made of")
	given.pieceFlags(cmd)
	return cmd
}
