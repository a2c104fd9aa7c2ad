package client

import (
	"fmt"
	"sort"
	"strings"

	"compactparcel/core/item"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

// kitGraph prints what comes along, as a tree from what was put in.
func (a *app) kitGraph() *cobra.Command {
	return &cobra.Command{
		Use:   "graph NAME[@VERSION]",
		Short: "Draw what comes along and why, from the added items down to the last picture",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			k, err := a.getKit(cmd, args[0])
			if err != nil {
				return err
			}
			return a.print(graphOf(k), func() { a.graph(k) })
		},
	}
}

// need is one edge of the graph.
type need struct {
	From item.Address `json:"from"`
	To   item.Address `json:"to"`
	Why  string       `json:"why"`
}

func graphOf(k *api.Kit) map[string]any {
	edges := []need{}
	for _, i := range k.Items {
		seen := map[item.Address]bool{}
		for _, r := range i.Reasons {
			if !seen[r.From] {
				seen[r.From] = true
				edges = append(edges, need{r.From, i.Address, r.Relation.Sentence("it", r.Where)})
			}
		}
		if k.State == api.KitStateSealed {
			for _, u := range i.Uses {
				edges = append(edges, need{i.Address, u, "uses it"})
			}
		}
	}
	return map[string]any{"items": k.Items, "edges": edges, "needs": k.Needs}
}

func (a *app) graph(k *api.Kit) {
	down := map[item.Address][]need{}
	leads := map[item.Address]bool{}
	for _, e := range graphOf(k)["edges"].([]need) {
		down[e.From] = append(down[e.From], e)
		leads[e.To] = true
	}
	for _, list := range down {
		sort.SliceStable(list, func(i, j int) bool { return list[i].To.Less(list[j].To) })
	}
	shown := map[item.Address]bool{}
	bytes := map[item.Address]int64{}
	for _, i := range k.Items {
		bytes[i.Address] = i.Bytes
	}
	var draw func(at item.Address, indent string)
	draw = func(at item.Address, indent string) {
		for n, e := range down[at] {
			branch, next := "├─ ", "│  "
			if n == len(down[at])-1 {
				branch, next = "└─ ", "   "
			}
			line := fmt.Sprintf("%s%s%s  %s", indent, branch, e.To, a.quiet(e.Why+", "+weight(bytes[e.To])))
			if shown[e.To] {
				if len(down[e.To]) > 0 {
					line += a.quiet(" (see above)")
				}
				a.say("%s", line)
				continue
			}
			shown[e.To] = true
			a.say("%s", line)
			draw(e.To, indent+next)
		}
	}
	for _, i := range k.Items {
		if !i.Picked && (k.State != api.KitStateSealed || leads[i.Address]) || shown[i.Address] {
			continue
		}
		shown[i.Address] = true
		how := "you added it"
		if k.State == api.KitStateSealed {
			how = "nothing in the kit uses it"
		}
		a.say("%s  %s", i.Address, a.quiet(how+", "+weight(i.Bytes)))
		draw(i.Address, "")
	}
	for _, n := range k.Needs {
		what := n.Address
		if what == "" {
			what = "the page at " + n.Slug
		}
		how := "needed from the site"
		if n.Optional {
			how = "optional"
		}
		a.say("%s  %s", what, a.quiet(how+": "+strings.TrimSpace(n.Why)))
	}
}
