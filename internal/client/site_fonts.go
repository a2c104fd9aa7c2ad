package client

import (
	"path/filepath"
	"strings"

	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) siteFonts() *cobra.Command {
	var draft int64
	cmd := &cobra.Command{
		Use:   "fonts SITE",
		Short: "List fonts with the weights that exist: of a site, the library and kits",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			got, err := result(c.ListFontsWithResponse(cmd.Context(), args[0],
				&api.ListFontsParams{Draft: some(draft)}))
			if err != nil {
				return err
			}
			return a.print(got, func() {
				var families, chosen [][]any
				for _, x := range got.Sources {
					from := value(x.From)
					if from == "" {
						from = args[0]
					}
					for _, f := range x.Families {
						families = append(families, []any{f.Name, weights(f.Faces), from})
					}
					for _, t := range x.Chosen {
						chosen = append(chosen, []any{t.Token, t.Value, from})
					}
				}
				a.table("No stylesheet defines fonts.", []string{"Family", "Weights", "From"}, families)
				a.table("No token chooses a font.", []string{"Token", "Families", "From"}, chosen)
			})
		},
	}
	a.draftFlag(cmd, &draft, nil, "the `name or number` of an open draft, in the place of the live site")
	return cmd
}

// weights writes the weights of a family, as 400, 400 italic, 700.
func weights(faces []api.FontFace) string {
	out := make([]string, len(faces))
	for i, f := range faces {
		if out[i] = strings.ReplaceAll(f.Weight, " ", " to "); value(f.Italic) {
			out[i] += " italic"
		}
	}
	return strings.Join(out, ", ")
}

func (a *app) siteFont() *cobra.Command {
	var draft int64
	var name, from, family, token string
	var pair bool
	cmd := &cobra.Command{
		Use:   "font SITE [FILE]",
		Short: "Add a font file, or take a font of the library or a kit, in one step",
		Example: `  cparcel site font kestrel-refuge tarn.woff2 --as font.head
  cparcel site font kestrel-refuge --from dusk@1.0.0 --pair
  cparcel site font kestrel-refuge --family Tarn --as font.text`,
		Args: cobra.RangeArgs(1, 2),
		RunE: func(cmd *cobra.Command, args []string) error {
			if (len(args) == 2) == (family != "" || pair) {
				return usage("name a FILE, or what is taken: --family NAME, or --pair")
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			var got *api.SiteEdited
			if len(args) == 2 {
				f, size, err := opened(args[1], "name the file of a font")
				if err != nil {
					return err
				}
				defer f.Close()
				got, err = result(c.AddFontWithBodyWithResponse(cmd.Context(), args[0], &api.AddFontParams{
					Draft: some(draft), Name: filepath.Base(args[1]), Token: some(token)}, "application/octet-stream",
					a.progress(f, size, "sending")))
				if err != nil {
					return err
				}
			} else {
				if strings.Contains(from, "@") {
					from = "kit " + from
				}
				got, err = result(c.TakeFontWithResponse(cmd.Context(), args[0], api.TakeFont{Draft: some(draft),
					From: some(from), Family: some(family), Token: some(token), Pair: some(pair)}))
				if err != nil {
					return err
				}
			}
			return a.doneInDraft(cmd.Context(), c, args[0], name, got)
		},
	}
	f := cmd.Flags()
	f.StringVar(&from, "from", "",
		"where it is taken from: `library`, or a kit as NAME@VERSION (the site itself when not given)")
	f.StringVar(&family, "family", "", "the `family` that is taken")
	f.StringVar(&token, "as", "", "the `token` that says this family first from then on, as font.head")
	f.BoolVar(&pair, "pair", false,
		"take all families that the tokens of the place choose, for the site's tokens of the same paths")
	a.draftFlag(cmd, &draft, &name, "the `name or number` of an open draft; a new name makes one")
	return cmd
}
