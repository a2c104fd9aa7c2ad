package client

import (
	"os"
	"path/filepath"
	"strconv"
	"strings"

	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) trustCommands() *cobra.Command {
	cmd := &cobra.Command{Use: "trust", Short: "List, add and remove the keys that teams trust"}
	cmd.AddCommand(a.trustList(), a.trustAdd(), a.trustRemove())
	return cmd
}

func (a *app) trustList() *cobra.Command {
	return &cobra.Command{
		Use:   "list",
		Short: "List the trusted keys",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			got, err := result(c.ListTrustKeysWithResponse(cmd.Context()))
			if err != nil {
				return err
			}
			return a.print(got, func() {
				var rows [][]any
				for _, k := range got.Keys {
					rows = append(rows, []any{k.Id, k.Team, k.Name, k.KeyId, k.CreatedAt.Local().Format("2006-01-02")})
				}
				a.table(
					"No key is trusted yet. Make one: cparcel file keys new; trust it: cparcel trust add "+
						"FILE.pub --team TEAM",
					[]string{"no.", "team", "name", "key", "since"},
					rows,
				)
			})
		},
	}
}

func (a *app) trustAdd() *cobra.Command {
	var team, name string
	cmd := &cobra.Command{
		Use:   "add FILE --team TEAM",
		Short: "Trust the public key in a file",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if team == "" {
				return usage("say which team trusts it: --team TEAM")
			}
			text, err := os.ReadFile(args[0])
			if err != nil {
				return err
			}
			if name == "" {
				name = strings.TrimSuffix(filepath.Base(args[0]), filepath.Ext(args[0]))
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			k, err := created(
				c.TrustKeyWithResponse(cmd.Context(), api.NewTrustKey{Team: team, Name: &name, Key: string(text)}),
			)
			if err != nil {
				return err
			}
			return a.print(k, func() { a.say("%s: %s trusts %s (%s).", a.good("Done"), k.Team, k.Name, k.KeyId) })
		},
	}
	cmd.Flags().StringVar(&team, "team", "", "the `team` that trusts it")
	cmd.Flags().StringVar(&name, "name", "", "the `name` of whoever holds the key (default: the file's name)")
	return cmd
}

func (a *app) trustRemove() *cobra.Command {
	return &cobra.Command{
		Use:   "remove NUMBER",
		Short: "Stop trusting a key",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			id, err := strconv.ParseInt(args[0], 10, 64)
			if err != nil {
				return usage("%q is no number of a key; see cparcel trust list", args[0])
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			if _, err := body(c.DistrustKeyWithResponse(cmd.Context(), id)); err != nil {
				return err
			}
			return a.print(
				map[string]int64{"removed": id},
				func() { a.say("%s: the key is no longer trusted.", a.good("Done")) },
			)
		},
	}
}

func (a *app) siteTrust() *cobra.Command {
	var policy, team string
	cmd := &cobra.Command{
		Use:   "trust SITE",
		Short: "Show or set whether kits for a site must be signed, and by whose keys",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			t, err := result(c.GetSiteTrustWithResponse(cmd.Context(), args[0]))
			if err != nil {
				return err
			}
			if policy != "" || cmd.Flags().Changed("team") {
				in := *t
				if policy != "" {
					in.Policy = api.TrustPolicy(policy)
				}
				if cmd.Flags().Changed("team") {
					in.Team = team
				}
				if t, err = result(c.SetSiteTrustWithResponse(cmd.Context(), args[0], in)); err != nil {
					return err
				}
			}
			return a.print(t, func() {
				whose := "any trusted key"
				if t.Team != "" {
					whose = "a key that " + t.Team + " trusts"
				}
				switch t.Policy {
				case "ignore":
					a.say("%s accepts kits whether they are signed or not.", args[0])
				case "warn":
					a.say("%s warns of kits that are not signed by %s.", args[0], whose)
				default:
					a.say("%s accepts only kits that are signed by %s.", args[0], whose)
				}
			})
		},
	}
	cmd.Flags().StringVar(&policy, "policy", "", "`ignore|warn|require`")
	cmd.Flags().StringVar(&team, "team", "", "the `team` whose keys count; empty for all")
	return cmd
}
