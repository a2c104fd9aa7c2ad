package client

import (
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) peopleCommands() *cobra.Command {
	cmd := &cobra.Command{Use: "people", Short: "List, add and change accounts (admins only)"}
	list := &cobra.Command{
		Use:   "list",
		Short: "List all accounts",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			got, err := result(c.ListUsersWithResponse(cmd.Context()))
			if err != nil {
				return err
			}
			return a.print(got, func() {
				var rows [][]any
				for _, u := range got.Users {
					state := "on"
					if u.Disabled {
						state = "switched off"
					}
					rows = append(rows, []any{u.Name, string(u.Role), state, u.CreatedAt.Local().Format("2006-01-02")})
				}
				a.table("There is no account yet.", []string{"name", "role", "account", "since"}, rows)
			})
		},
	}
	var role string
	add := &cobra.Command{
		Use:   "add NAME --role ROLE",
		Short: "Add an account; its password is read from standard input",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			said, err := a.secrets("Password of " + args[0])
			if err != nil {
				return err
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			if _, err := body(
				c.MakeUserWithResponse(cmd.Context(),
					api.NewUser{Name: args[0], Password: said[0], Role: api.Role(role)}),
			); err != nil {
				return err
			}
			return a.print(
				map[string]string{"name": args[0], "role": role},
				func() { a.say("%s: %s can sign in as a %s.", a.good("Done"), args[0], role) },
			)
		},
	}
	add.Flags().StringVar(&role, "role", "viewer", "the `role`: viewer, librarian, keeper or admin")
	cmd.AddCommand(list, add, a.peopleChange())
	return cmd
}

func (a *app) peopleChange() *cobra.Command {
	var role string
	var off, on, password bool
	cmd := &cobra.Command{
		Use:   "change NAME",
		Short: "Change somebody's role or password, or switch their account off or on",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if off && on {
				return usage("say --off or --on, not both")
			}
			var change api.UserChange
			if role != "" {
				r := api.Role(role)
				change.Role = &r
			}
			if off || on {
				change.Disabled = &off
			}
			if password {
				said, err := a.secrets("New password of " + args[0])
				if err != nil {
					return err
				}
				change.Password = &said[0]
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			got, err := result(c.ChangeUserWithResponse(cmd.Context(), args[0], change))
			if err != nil {
				return err
			}
			return a.print(got, func() {
				state := "can sign in"
				if got.Disabled {
					state = "is switched off, and signed out everywhere"
				}
				a.say("%s: %s is a %s and %s.", a.good("Done"), got.Name, got.Role, state)
			})
		},
	}
	f := cmd.Flags()
	f.StringVar(&role, "role", "", "the `role`: viewer, librarian, keeper or admin")
	f.BoolVar(&off, "off", false, "switch the account off; its sign-ins end, its tokens are refused")
	f.BoolVar(&on, "on", false, "switch it on again")
	f.BoolVar(&password, "password", false,
		"a new password, asked for or read from standard input; all sign-ins end")
	return cmd
}
