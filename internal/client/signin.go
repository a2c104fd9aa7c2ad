package client

import (
	"bufio"
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"strings"

	"compactparcel/internal/api"

	"github.com/spf13/cobra"
	"golang.org/x/term"
)

func (a *app) signIn() *cobra.Command {
	var user string
	var stdin bool
	cmd := &cobra.Command{
		Use:   "sign-in",
		Short: "Sign in and keep an access token for later commands",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			in := bufio.NewReader(a.in)
			tty, isFile := a.in.(*os.File)
			terminal := isFile && term.IsTerminal(int(tty.Fd()))
			if user == "" {
				if !terminal {
					return usage("name who signs in with --user")
				}
				fmt.Fprint(a.err, "Name: ")
				line, err := in.ReadString('\n')
				if err != nil {
					return err
				}
				user = strings.TrimSpace(line)
			}
			var password string
			switch {
			case stdin:
				line, err := in.ReadString('\n')
				if err != nil && line == "" {
					return usage("standard input had no password")
				}
				password = strings.TrimRight(line, "\r\n")
			case terminal:
				fmt.Fprint(a.err, "Password: ")
				b, err := term.ReadPassword(int(tty.Fd()))
				fmt.Fprintln(a.err)
				if err != nil {
					return err
				}
				password = string(b)
			default:
				return usage("without a terminal, give the password with --password-stdin")
			}
			return a.keepSignIn(cmd.Context(), user, password)
		},
	}
	cmd.Flags().StringVar(&user, "user", "", "`name` to sign in with")
	cmd.Flags().BoolVar(&stdin, "password-stdin", false, "read the password from standard input")
	return cmd
}

func (a *app) keepSignIn(ctx context.Context, user, password string) error {
	if _, err := a.api(); err != nil { // settles a.server
		return err
	}
	c, err := api.NewClientWithResponses(a.server)
	if err != nil {
		return err
	}
	r, err := c.SignInWithResponse(ctx, api.SignIn{Name: user, Password: password})
	if err != nil {
		return err
	}
	session, err := result(r, nil)
	if err != nil {
		return err
	}
	var cookie string
	for _, k := range r.HTTPResponse.Cookies() {
		if k.Value != "" {
			cookie = k.Name + "=" + k.Value
		}
	}
	withCookie := func(_ context.Context, q *http.Request) error { q.Header.Set("Cookie", cookie); return nil }
	host, _ := os.Hostname()
	token, err := created(c.MakeTokenWithResponse(ctx, api.TokenName{Name: "cparcel on " + host}, withCookie))
	if err != nil {
		return err
	}
	if _, err := c.SignOutWithResponse(ctx, withCookie); err != nil {
		return err
	}
	p, err := savedPath()
	if err != nil {
		return err
	}
	if err := os.MkdirAll(filepath.Dir(p), 0o700); err != nil {
		return err
	}
	b, _ := json.MarshalIndent(saved{a.server, token.Token, user}, "", "  ")
	if err := os.WriteFile(p, b, 0o600); err != nil {
		return err
	}
	return a.print(map[string]string{"name": user, "role": string(session.Role), "server": a.server}, func() {
		a.say("Signed in to %s as %s (%s). The access token is kept in %s.", a.server, user, session.Role, p)
	})
}
