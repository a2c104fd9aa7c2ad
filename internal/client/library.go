package client

import (
	"strings"

	"compactparcel/core/item"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) libraryCommands() *cobra.Command {
	cmd := &cobra.Command{Use: "library", Short: "Keep pieces for reuse"}
	cmd.AddCommand(a.libraryAdd(), a.libraryList(), a.libraryShow())
	return cmd
}

func address(arg string) (item.Address, error) {
	list, err := addresses([]string{arg})
	if err != nil {
		return item.Address{}, err
	}
	return list[0], nil
}

func addresses(args []string) ([]item.Address, error) {
	var out []item.Address
	for _, s := range args {
		x, err := item.ParseAddress(s)
		if err != nil {
			return nil, usage("%v", err)
		}
		out = append(out, x)
	}
	return out, nil
}

func (a *app) libraryAdd() *cobra.Command {
	return &cobra.Command{
		Use:   "add SITE ADDRESS...",
		Short: "Save items of a site, with all they need, into the library",
		Args:  cobra.MinimumNArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			list, err := addresses(args[1:])
			if err != nil {
				return err
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			got, err := result(
				c.AddToLibraryWithResponse(cmd.Context(), api.AddToLibrary{From: args[0], Addresses: list}),
			)
			if err != nil {
				return err
			}
			return a.print(got, func() {
				for _, x := range got.Added {
					a.say("  %s  %s", a.good("saved"), x)
				}
				for _, x := range got.Had {
					a.say("  had    %s", x)
				}
				for _, m := range got.Moved {
					a.say("  %s  %s is %s in the library: its name was already taken", a.mark("moved"),
						m.From, m.To)
				}
				a.say("%d saved into the library; %d were already there.", len(got.Added), len(got.Had))
			})
		},
	}
}

func (a *app) libraryList() *cobra.Command {
	var words, kind string
	cmd := &cobra.Command{
		Use:   "list [WORD...]",
		Short: "List the library, or what of it has some words",
		RunE: func(cmd *cobra.Command, args []string) error {
			words = strings.TrimSpace(strings.Join(args, " ") + " " + words)
			c, err := a.api()
			if err != nil {
				return err
			}
			list, err := result(
				c.ListLibraryWithResponse(cmd.Context(), &api.ListLibraryParams{Q: some(words), Kind: some(kind)}),
			)
			if err != nil {
				return err
			}
			return a.print(list, func() {
				if len(list.Items) == 0 && words == "" && kind == "" {
					a.say("The library is empty. Save something into it: cparcel library add SITE ADDRESS")
					return
				}
				a.items(list.Items, nil)
			})
		},
	}
	cmd.Flags().StringVar(&words, "find", "", "`words` that must occur")
	cmd.Flags().StringVar(&kind, "kind", "", "only items of this `kind`")
	return cmd
}

func (a *app) libraryShow() *cobra.Command {
	return &cobra.Command{
		Use:   "show ADDRESS",
		Short: "Show one item of the library",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			return a.showItem(cmd.Context(), c, "library", args[0], 0)
		},
	}
}
