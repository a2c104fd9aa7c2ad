package client

import (
	"encoding/json"
	"maps"
	"net/url"
	"slices"

	"compactparcel/core/look"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) siteLooks() *cobra.Command {
	var draft int64
	cmd := &cobra.Command{
		Use:   "looks SITE",
		Short: "List a site's looks, and where each can be tried",
		Long: `Lists a site's looks: named sets of token values. They are kept and worn by operations:
  cparcel site edit SITE tokens/brand token --property color.paper --value "#101418" --draft evening
  cparcel site edit SITE setting/looks look-keep --value evening --draft evening
  cparcel site edit SITE setting/looks look-wear --value day --draft evening
A look goes along to other sites as a kit of styles: cparcel kit add NAME@VERSION --styles --from SITE`,
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			list, err := result(c.ListItemsWithResponse(cmd.Context(), args[0],
				&api.ListItemsParams{Draft: some(draft)}))
			if err != nil {
				return err
			}
			looks := map[string]look.Look{}
			for _, i := range list.Items {
				if i.Address != look.Setting {
					continue
				}
				d, err := result(c.GetItemWithResponse(cmd.Context(), args[0],
					&api.GetItemParams{Address: look.Setting.String(), Draft: some(draft)}))
				if err != nil {
					return err
				}
				if err := json.Unmarshal([]byte(value(d.Content)), &looks); err != nil {
					return usage("setting/looks of %s cannot be read: %v", args[0], err)
				}
			}
			return a.print(looks, func() {
				var rows [][]any
				for _, name := range slices.Sorted(maps.Keys(looks)) {
					rows = append(rows, []any{name, len(looks[name]),
						list.Preview + "/?try=" + url.QueryEscape("look:"+name)})
				}
				a.table("It keeps no looks.", []string{"Look", "Values", "Try it"}, rows)
			})
		},
	}
	a.draftFlag(cmd, &draft, nil, "the `name or number` of an open draft, in the place of the live site")
	return cmd
}
