package client

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"io"
	"net/http"
	"strconv"
	"strings"
	"time"

	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

// event is one of the service's stream: what changed, or that all is to be read anew.
type event struct {
	api.Event
	n     int64
	reset bool
}

// watch reads the service's stream of events and gives each to use, until use is done or the context
// ends. A stream that breaks off is resumed behind what was read; begun is called when it is there.
func (a *app) watch(
	ctx context.Context, site string, kinds []string, begun func() error, use func(event) (done bool, err error),
) error {
	c, err := a.api()
	if err != nil {
		return err
	}
	in := &api.WatchEventsParams{Site: some(site), Kind: some(strings.Join(kinds, ","))}
	started := false // before that nothing is waited for
	for tries := 0; ; tries++ {
		resp, err := c.WatchEvents(ctx, in)
		if err == nil && resp.StatusCode != http.StatusOK {
			b, err := io.ReadAll(io.LimitReader(resp.Body, 1<<20))
			resp.Body.Close()
			if err != nil {
				return err
			}
			if resp.StatusCode < http.StatusInternalServerError || !started {
				return refusal(rawReply{resp.StatusCode, b})
			}
		}
		if err == nil && resp.StatusCode == http.StatusOK {
			if begun != nil {
				if err := begun(); err != nil {
					resp.Body.Close()
					return err
				}
				begun = nil
			}
			done, err := follow(resp.Body, in, use)
			resp.Body.Close()
			if done || err != nil && !errors.Is(err, io.ErrUnexpectedEOF) {
				return err
			}
			started, tries = true, 0
		}
		if err != nil && !started {
			return err // the service was not there at all
		}
		if err := pause(ctx, patience[min(tries, len(patience)-1)]); err != nil {
			return err
		}
	}
}

// follow reads one stream (server-sent events, HTML Living Standard 9.2).
func follow(r io.Reader, in *api.WatchEventsParams, use func(event) (bool, error)) (done bool, err error) {
	lines := bufio.NewScanner(r)
	var e event
	name, data := "", ""
	for lines.Scan() {
		field, v, _ := strings.Cut(lines.Text(), ":")
		v = strings.TrimPrefix(v, " ")
		switch field {
		case "id":
			n, err := strconv.ParseInt(v, 10, 64)
			if err != nil {
				return false, err
			}
			e.n = n
			in.LastEventID = &n
		case "event":
			name = v
		case "data":
			data += v
		case "":
			if lines.Text() != "" || name == "" || name == "begun" {
				name, data = "", ""
				continue // a comment, or nothing yet
			}
			if err := json.Unmarshal([]byte(data), &e.Event); err != nil {
				return false, err
			}
			e.reset = name == "reset"
			if done, err := use(e); done || err != nil {
				return true, err
			}
			e, name, data = event{}, "", ""
		}
	}
	return false, io.ErrUnexpectedEOF // it breaks off, for whatever reason
}

func (a *app) watchCommand() *cobra.Command {
	var kinds []string
	var count int
	cmd := &cobra.Command{
		Use:   "watch [SITE]",
		Short: "Tell what changes, as it does: sites, drafts, the library, kits, deliveries, forms, jobs",
		Example: `  cparcel watch
  cparcel watch kestrel-refuge --kind draft,site -o json`,
		Args: cobra.MaximumNArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			site := ""
			if len(args) > 0 {
				site = args[0]
			}
			seen := 0
			return a.watch(cmd.Context(), site, kinds, nil, func(e event) (bool, error) {
				seen++
				if a.output == "json" {
					b, err := json.Marshal(e.Event)
					if err != nil {
						return true, err
					}
					a.say("%s", b)
				} else {
					a.say("%s", e.line())
				}
				return count > 0 && seen >= count, nil
			})
		},
	}
	cmd.Flags().StringSliceVar(&kinds, "kind", nil,
		"only these `kinds`: site, draft, entry, library, kit, delivery, job")
	cmd.Flags().IntVar(&count, "count", 0, "end after so many (default never)")
	return cmd
}

// line tells of an event in one line.
func (e event) line() string {
	if e.reset {
		return "Too much happened since: look at everything anew."
	}
	parts := []string{e.At.Local().Format("15:04:05"), string(e.Kind)}
	if s := value(e.Site); s != "" {
		parts = append(parts, s)
	}
	if s := value(e.Subject); s != "" {
		parts = append(parts, s)
	}
	return strings.Join(parts, "  ")
}

// watchFlag gives a listing --watch: it is shown again whenever what it is about changes.
func (a *app) watchFlag(cmd *cobra.Command, site func(args []string) string, kinds ...string) {
	var on bool
	cmd.Flags().BoolVar(&on, "watch", false, "show it again whenever it changes, until it is interrupted")
	run := cmd.RunE
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if !on {
			return run(cmd, args)
		}
		show := func() error { return run(cmd, args) }
		return a.watch(cmd.Context(), site(args), kinds, show, func(event) (bool, error) {
			a.say("")
			return false, show()
		})
	}
}

// waitForDraft waits until a draft is open no more, or says why it stays, or until a time is long over.
func (a *app) waitForDraft(ctx context.Context, c *api.ClientWithResponses, site string, id int64, at time.Time) (
	*api.Draft, error,
) {
	ctx, cancel := context.WithDeadline(ctx, at.Add(5*time.Minute))
	defer cancel()
	var out *api.Draft
	look := func() (bool, error) {
		d, err := result(c.GetDraftWithResponse(ctx, site, id))
		if err != nil {
			return true, err
		}
		out = &d.Draft
		return d.Draft.State != api.DraftStateOpen || d.Draft.LiveSays != nil || d.Draft.LiveAt == nil, nil
	}
	done := false
	err := a.watch(ctx, site, []string{"draft"}, func() (err error) {
		if done, err = look(); done && err == nil {
			err = errDone
		}
		return err
	}, func(e event) (bool, error) { return look() })
	if errors.Is(err, errDone) {
		err = nil
	}
	return out, err
}

// errDone ends a stream of which nothing more is wanted.
var errDone = errors.New("done")

// watchable gives the listings that change while one looks at them --watch.
func (a *app) watchable(root *cobra.Command) {
	first := func(args []string) string { return args[0] }
	any := func([]string) string { return "" }
	for path, x := range map[string]struct {
		site  func([]string) string
		kinds []string
	}{
		"site list":     {any, []string{"site", "draft"}},
		"draft list":    {first, []string{"draft"}},
		"draft show":    {first, []string{"draft", "site"}},
		"draft steps":   {first, []string{"draft"}},
		"form list":     {first, []string{"entry", "site"}},
		"form entries":  {first, []string{"entry"}},
		"library list":  {any, []string{"library"}},
		"kit list":      {any, []string{"kit"}},
		"delivery list": {any, []string{"delivery"}},
		"job list":      {any, []string{"job"}},
	} {
		cmd, _, err := root.Find(strings.Fields(path))
		if err != nil {
			panic(err) // it is part of the program
		}
		a.watchFlag(cmd, x.site, x.kinds...)
	}
}
