package client

import (
	"fmt"
	"os"
	"strings"

	"compactparcel/internal/api"

	"github.com/spf13/cobra"
	"golang.org/x/term"
)

// secrets asks for secrets on a terminal, or reads a line for each from the standard input.
func (a *app) secrets(names ...string) ([]string, error) {
	var out []string
	tty, isFile := a.in.(*os.File)
	for _, name := range names {
		if isFile && term.IsTerminal(int(tty.Fd())) {
			fmt.Fprint(a.err, name+": ")
			b, err := term.ReadPassword(int(tty.Fd()))
			fmt.Fprintln(a.err)
			if err != nil {
				return nil, err
			}
			out = append(out, string(b))
			continue
		}
		line, err := a.readLine()
		if err != nil && line == "" {
			return nil, usage("standard input had no line for “%s”", strings.ToLower(name))
		}
		out = append(out, strings.TrimRight(line, "\r\n"))
	}
	return out, nil
}

func (a *app) accountCommands() *cobra.Command {
	cmd := &cobra.Command{Use: "account", Short: "Your password, and where you are signed in"}
	password := &cobra.Command{
		Use:   "password",
		Short: "Change your password; your other sign-ins end",
		Args:  cobra.NoArgs,
		Long: `Change your password. On a terminal you are asked for both; else the old one and
the new one are read as two lines from standard input.`,
		RunE: func(cmd *cobra.Command, _ []string) error {
			said, err := a.secrets("Password now", "New password")
			if err != nil {
				return err
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			if _, err := body(
				c.ChangePasswordWithResponse(cmd.Context(), api.PasswordChange{Old: said[0], New: said[1]}),
			); err != nil {
				return err
			}
			return a.print(
				map[string]bool{"changed": true},
				func() { a.say("%s: your password is changed. Your other sign-ins have ended.", a.good("Done")) },
			)
		},
	}
	cmd.AddCommand(password, a.signIns(), a.endSignIn())
	return cmd
}

func (a *app) signIns() *cobra.Command {
	var of string
	cmd := &cobra.Command{
		Use:   "sign-ins",
		Short: "List where you are signed in with a browser",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			got, err := result(c.ListSessionsWithResponse(cmd.Context(), &api.ListSessionsParams{User: some(of)}))
			if err != nil {
				return err
			}
			return a.print(got, func() {
				var rows [][]any
				for _, s := range got.Sessions {
					rows = append(
						rows,
						[]any{
							s.Id,
							s.Agent,
							s.Place,
							s.StartedAt.Local().Format("2006-01-02 15:04"),
							s.SeenAt.Local().Format("2006-01-02 15:04"),
						},
					)
				}
				a.table("Nobody is signed in with a browser.",
					[]string{"sign-in", "browser", "from", "since", "last seen"}, rows)
			})
		},
	}
	cmd.Flags().StringVar(&of, "of", "", "somebody else's, by `name` (admins only)")
	return cmd
}

func (a *app) endSignIn() *cobra.Command {
	var of string
	var all bool
	cmd := &cobra.Command{
		Use:   "end-sign-in [SIGN-IN]",
		Short: "End one sign-in of a browser, or all",
		Args:  cobra.MaximumNArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if all == (len(args) == 1) {
				return usage("name one sign-in, or say --all")
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			if all {
				_, err = body(c.EndSessionsWithResponse(cmd.Context(), &api.EndSessionsParams{User: some(of)}))
			} else {
				_, err = body(c.EndSessionWithResponse(cmd.Context(), args[0], &api.EndSessionParams{User: some(of)}))
			}
			if err != nil {
				return err
			}
			return a.print(map[string]bool{"ended": true}, func() { a.say("%s: signed out there.", a.good("Done")) })
		},
	}
	cmd.Flags().StringVar(&of, "of", "", "somebody else's, by `name` (admins only)")
	cmd.Flags().BoolVar(&all, "all", false, "all of them")
	return cmd
}

func (a *app) tokenCommands() *cobra.Command {
	cmd := &cobra.Command{Use: "token", Short: "List, make and revoke access tokens"}
	cmd.AddCommand(a.tokenList(), a.tokenMake(), a.tokenRevoke())
	return cmd
}

func (a *app) tokenList() *cobra.Command {
	var of string
	cmd := &cobra.Command{
		Use:   "list",
		Short: "List access tokens",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			got, err := result(c.ListTokensWithResponse(cmd.Context(), &api.ListTokensParams{User: some(of)}))
			if err != nil {
				return err
			}
			return a.print(got, func() {
				var rows [][]any
				for _, t := range got.Tokens {
					scope, until, used := "all", "no end", "never"
					if t.Scope != nil {
						scope = string(*t.Scope)
					}
					if t.ExpiresAt != nil {
						until = t.ExpiresAt.Local().Format("2006-01-02")
					}
					if t.UsedAt != nil {
						used = t.UsedAt.Local().Format("2006-01-02 15:04")
					}
					rows = append(rows,
						[]any{t.Id, t.Name, scope, t.CreatedAt.Local().Format("2006-01-02"), until, used})
				}
				a.table("There is no access token.",
					[]string{"number", "name", "may do", "made", "good until", "last used"}, rows)
			})
		},
	}
	cmd.Flags().StringVar(&of, "of", "", "somebody else's, by `name` (admins only)")
	return cmd
}

func (a *app) tokenMake() *cobra.Command {
	var scope string
	var days int
	cmd := &cobra.Command{
		Use:   "make NAME",
		Short: "Make an access token; its text is shown only now",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			wish := api.TokenName{Name: args[0], Days: some(days)}
			if scope != "" {
				role := api.Role(scope)
				wish.Scope = &role
			}
			got, err := created(c.MakeTokenWithResponse(cmd.Context(), wish))
			if err != nil {
				return err
			}
			return a.print(got, func() {
				a.say("%s\n%s has the number %d. Keep it safe: it is not shown again.", got.Token, got.Name, got.Id)
			})
		},
	}
	cmd.Flags().StringVar(&scope, "scope", "", "the most it may do, as a `role`: viewer, librarian, keeper or admin")
	cmd.Flags().IntVar(&days, "days", 0, "how many `days` it is valid (default: until it is revoked)")
	return cmd
}

func (a *app) tokenRevoke() *cobra.Command {
	return &cobra.Command{
		Use:   "revoke NUMBER",
		Short: "End an access token: your own, or as an admin anybody's",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			var id int64
			if _, err := fmt.Sscanf(args[0], "%d", &id); err != nil {
				return usage("%q is not a token's number: see cparcel token list", args[0])
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			if _, err := body(c.DropTokenWithResponse(cmd.Context(), id)); err != nil {
				return err
			}
			return a.print(
				map[string]int64{"revoked": id},
				func() { a.say("%s: whatever uses it is signed out.", a.good("Revoked")) },
			)
		},
	}
}
