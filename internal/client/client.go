// Package client is the command line: Cobra commands over the generated client.
//
// Exit codes: 0 done, 1 failed, 2 wrong use, 3 waits for decisions, 4 stale (plan
// again), 5 refused.
package client

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"strings"

	"compactparcel/core/says"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
	"golang.org/x/term"
)

// Exit codes.
const (
	Done    = 0
	Failed  = 1
	Usage   = 2
	Waits   = 3
	Stale   = 4
	Refused = 5
)

// app is one run of the client.
type app struct {
	in       io.Reader
	lines    *bufio.Reader // of in, once somebody was asked
	out, err io.Writer
	server   string
	token    string
	output   string
	colour   bool
	// command is what runs, and named its arguments by the words that its use has for them: for the way out of
	// a problem.
	command   *cobra.Command
	named     map[string]string
	args      []string // all that were given
	writtenAs string   // how what was asked for is written, where the command's help says that of many
}

// exitError carries an exit code.
type exitError struct {
	code int
	err  error
}

func (e *exitError) Error() string { return e.err.Error() }
func (e *exitError) Unwrap() error { return e.err }

func usage(format string, args ...any) error {
	return &exitError{Usage, fmt.Errorf(format, args...)}
}

// Run runs the client and gives its exit code.
func Run(ctx context.Context, args []string, in io.Reader, out, errOut io.Writer) int {
	a := &app{in: in, out: out, err: errOut, args: args}
	if f, ok := out.(*os.File); ok {
		a.colour = term.IsTerminal(int(f.Fd())) && os.Getenv("NO_COLOR") == ""
	}
	root := a.root()
	root.SetArgs(args)
	root.SetIn(in)
	root.SetOut(out)
	root.SetErr(errOut)
	err := root.ExecuteContext(ctx)
	if err == nil {
		return Done
	}
	var x *exitError
	var p *problemError
	switch {
	case errors.As(err, &p):
		p.print(a)
		return p.code()
	case errors.As(err, &x):
		fmt.Fprintln(errOut, a.bad("cparcel: ")+x.err.Error())
		return x.code
	}
	var garbled *json.SyntaxError
	if errors.As(err, &garbled) {
		err = fmt.Errorf("the answer of %s cannot be read (%w): is the address right?", a.server, err)
	}
	fmt.Fprintln(errOut, a.bad("cparcel: ")+err.Error())
	if strings.Contains(err.Error(), "connection refused") {
		fmt.Fprintf(errOut,
			"  To fix: is the service running at %s? Start it with cparceld serve, or name another with --server.\n",
			a.server)
	}
	return Failed
}

func (a *app) root() *cobra.Command {
	root := &cobra.Command{
		Use:   "cparcel",
		Short: "Pack pieces of websites into kits, and bring kits into sites",
		Long: `Pack reusable pieces of websites into kits, and bring kits into sites that exist.

Server and access token come from --server and --token, from CPARCEL_SERVER and
CPARCEL_TOKEN, or from the saved sign-in. Exit codes: 0 done, 1 failed, 2 wrong
use, 3 waits for decisions, 4 stale (plan again), 5 refused.`,
		SilenceUsage: true, SilenceErrors: true, Args: cobra.ArbitraryArgs,
		RunE: func(c *cobra.Command, args []string) error {
			if len(args) > 0 {
				return noCommand(c, args[0])
			}
			return c.Help()
		},
		PersistentPreRunE: func(cmd *cobra.Command, args []string) error {
			a.command, a.named = cmd, namedArguments(cmd, args)
			if a.output != "table" && a.output != "json" {
				return usage("--output: %q is neither table nor json", a.output)
			}
			return nil
		},
	}
	f := root.PersistentFlags()
	f.StringVar(&a.server, "server", os.Getenv("CPARCEL_SERVER"), "`address` of the service")
	f.StringVar(&a.token, "token", "", "access `token`")
	f.StringVarP(&a.output, "output", "o", "table", "`form` of the output: table or json")
	root.SetFlagErrorFunc(func(c *cobra.Command, err error) error {
		if _, rest, found := c.Root().Find(a.args); found == nil && c.HasSubCommands() && len(rest) > 0 &&
			!strings.HasPrefix(rest[0], "-") {
			return noCommand(c, rest[0]) // whose flags cannot be known
		}
		return usage("%v\n  To fix: %s --help", err, c.CommandPath())
	})
	root.AddCommand(a.signIn(), a.siteCommands(), a.form(), a.draftCommands(), a.libraryCommands(), a.kitCommands(),
		a.fileCommands(), a.deliver(),
		a.deliveryCommands(), a.trustCommands(), a.accountCommands(), a.tokenCommands(), a.peopleCommands(),
		a.watchCommand(), a.jobCommands(), a.versionCommand())
	a.watchable(root)
	strict(root)
	return root
}

// strict makes wrong arguments a usage error everywhere.
func strict(c *cobra.Command) {
	if check := c.Args; check != nil {
		c.Args = func(c *cobra.Command, args []string) error {
			if check(c, args) != nil {
				return usage("%s cannot be used with %s\n  To fix: %s", c.CommandPath(),
					says.Count(len(args), "argument"),
					c.UseLine())
			}
			return nil
		}
	}
	if c.HasSubCommands() && c.HasParent() && c.RunE == nil {
		c.RunE = func(c *cobra.Command, args []string) error {
			if len(args) > 0 {
				return noCommand(c, args[0])
			}
			return c.Help()
		}
	}
	for _, s := range c.Commands() {
		strict(s)
	}
}

// saved is the sign-in that is kept for later runs.
type saved struct {
	Server string `json:"server"`
	Token  string `json:"token"`
	Name   string `json:"name"`
}

func savedPath() (string, error) {
	dir, err := os.UserConfigDir()
	if err != nil {
		return "", err
	}
	return filepath.Join(dir, "compact-parcel", "sign-in.json"), nil
}

// api gives the client for the server at hand.
func (a *app) api() (*api.ClientWithResponses, error) {
	server, token := a.server, a.token
	if token == "" {
		token = os.Getenv("CPARCEL_TOKEN")
	}
	if server == "" || token == "" {
		if p, err := savedPath(); err == nil {
			if b, err := os.ReadFile(p); err == nil {
				var s saved
				if json.Unmarshal(b, &s) == nil {
					if server == "" {
						server = s.Server
					}
					if token == "" && strings.TrimRight(server, "/") == s.Server {
						token = s.Token
					}
				}
			}
		}
	}
	if server == "" {
		server = "http://127.0.0.1:8460"
	}
	a.server = strings.TrimRight(server, "/")
	return api.NewClientWithResponses(
		a.server,
		api.WithHTTPClient(&http.Client{Transport: patient{http.DefaultTransport}}),
		api.WithRequestEditorFn(func(_ context.Context, r *http.Request) error {
			if token != "" {
				r.Header.Set("Authorization", "Bearer "+token)
			}
			return nil
		}),
	)
}

// reply is what the generated client gives for a call.
type reply interface {
	StatusCode() int
	GetBody() []byte
}

type reply200[T any] interface {
	reply
	GetJSON200() *T
}

type reply201[T any] interface {
	reply
	GetJSON201() *T
}

// result gives what a call answers with 200, or the problem it answered with.
func result[T any](r reply200[T], err error) (*T, error) {
	if err == nil {
		err = refusal(r)
	}
	if err != nil {
		return nil, err
	}
	return r.GetJSON200(), nil
}

// created is result for calls that answer 201.
func created[T any](r reply201[T], err error) (*T, error) {
	if err == nil {
		err = refusal(r)
	}
	if err != nil {
		return nil, err
	}
	return r.GetJSON201(), nil
}

// body is result for calls whose answer is no JSON; it gives the body.
func body(r reply, err error) ([]byte, error) {
	if err == nil {
		err = refusal(r)
	}
	if err != nil {
		return nil, err
	}
	return r.GetBody(), nil
}

// refusal gives the problem that a call was answered with; nil when it was not.
func refusal(r reply) error {
	status := r.StatusCode()
	if status >= 200 && status < 300 {
		return nil
	}
	var p api.Problem
	if json.Unmarshal(r.GetBody(), &p) != nil || p.Status == 0 {
		return fmt.Errorf("the server answered %d, but not as Compact Parcel does: is the address right?", status)
	}
	return &problemError{p}
}
