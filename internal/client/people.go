package client

import (
	"bufio"
	"strings"

	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) peopleCommands() *cobra.Command {
	cmd := &cobra.Command{Use: "people", Short: "List and add accounts (admins only)"}
	list := &cobra.Command{Use: "list", Short: "List all accounts", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
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
				rows = append(rows, []any{u.Name, string(u.Role), u.CreatedAt.Local().Format("2006-01-02")})
			}
			a.table("There is nobody yet.", []string{"name", "role", "since"}, rows)
		})
	}}
	var role string
	add := &cobra.Command{Use: "add NAME --role ROLE", Short: "Add an account; its password is read from the standard input", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		line, err := bufio.NewReader(a.in).ReadString('\n')
		if err != nil && line == "" {
			return usage("there was no password on the standard input")
		}
		c, err := a.api()
		if err != nil {
			return err
		}
		if _, err := body(c.MakeUserWithResponse(cmd.Context(), api.NewUser{Name: args[0], Password: strings.TrimRight(line, "\r\n"), Role: api.Role(role)})); err != nil {
			return err
		}
		return a.print(map[string]string{"name": args[0], "role": role}, func() { a.say("%s: %s can sign in as a %s.", a.good("Done"), args[0], role) })
	}}
	add.Flags().StringVar(&role, "role", "viewer", "the `role`: viewer, librarian, keeper or admin")
	cmd.AddCommand(list, add)
	return cmd
}
