package client

import (
	"context"
	"fmt"
	"net/http"
	"os"
	"strings"
	"time"

	"compactparcel/core/item"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) sitePut() *cobra.Command {
	var draft int64
	var slug, role, name string
	cmd := &cobra.Command{
		Use:   "put SITE ADDRESS FILE",
		Short: "Put a new or changed item into a draft",
		Long: `Puts a new or changed item into a draft. A new part gets the role that --role says, else
the one that its element or its name speaks of, and stands where parts of the role stand.`,
		Args: cobra.ExactArgs(3),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			b, err := os.ReadFile(args[2])
			if err != nil {
				return err
			}
			addr, err := item.ParseAddress(args[1])
			if err != nil {
				return usage("%v", err)
			}
			var match *string
			var meta *api.Meta
			old, err := c.GetItemWithResponse(cmd.Context(), args[0],
				&api.GetItemParams{Address: args[1], Draft: some(draft)})
			if err != nil {
				return err
			}
			if err := refusal(old); err != nil && old.StatusCode() != http.StatusNotFound {
				return err
			}
			if old.JSON200 != nil {
				tag := `"` + string(old.JSON200.Item.State) + `"`
				match = &tag
			}
			if slug != "" || role != "" {
				meta = &api.Meta{}
				if old.JSON200 != nil {
					*meta = old.JSON200.Item.Meta
				}
			}
			if slug != "" {
				meta.Slug = slug
			}
			if role != "" {
				meta.Role = item.Role(role)
			}
			var got *api.Edited
			if addr.Kind == item.Media {
				if got, err = a.putMedia(cmd.Context(), c, args[0], args[2],
					&api.EditMediaParams{Address: args[1], Draft: some(draft), IfMatch: match}); err != nil {
					return err
				}
			} else {
				text := string(b)
				if got, err = result(
					c.EditItemWithResponse(cmd.Context(), args[0],
						&api.EditItemParams{Address: args[1], Draft: some(draft), IfMatch: match},
						api.EditItem{Content: &text, Meta: meta}),
				); err != nil {
					return err
				}
			}
			if err := a.nameDraft(cmd.Context(), c, args[0], &got.Draft, name); err != nil {
				return err
			}
			return a.print(got, func() { a.edited(args[0], args[1], got) })
		},
	}
	a.draftFlag(cmd, &draft, &name,
		"the `name or number` of an open draft; a new name makes one (a new one when not given)")
	cmd.Flags().StringVar(&slug, "path", "", "a page's `address` on the site, as /path/")
	cmd.Flags().StringVar(&role, "role", "", "a part's `role`: "+strings.Join(item.RoleNames(), ", "))
	return cmd
}

// putMedia sends a file as media of a site.
func (a *app) putMedia(ctx context.Context, c *api.ClientWithResponses, site, file string, in *api.EditMediaParams) (
	*api.Edited, error,
) {
	f, err := os.Open(file)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil {
		return nil, err
	}
	body, with, err := a.send(ctx, c, "editMedia", f, info.Size())
	if err != nil {
		return nil, err
	}
	return result(c.EditMediaWithBodyWithResponse(ctx, site, in, "application/octet-stream", body, with))
}

// edited prints a change in its draft.
func (a *app) edited(site, address string, got *api.Edited) {
	for _, x := range got.Along {
		a.say("With it: %s", x)
	}
	for _, x := range got.Behind {
		a.say("Scripts of %s may go on naming an address that a page left; it redirects.", x)
	}
	a.say(
		"%s is in draft %d; the live site is as it was.\nLook at it: %s\nGo live:    cparcel site "+
			"go-live %s %d",
		address,
		got.Draft,
		got.Preview,
		site,
		got.Draft,
	)
}

func (a *app) siteGoLive() *cobra.Command {
	var at string
	var wait bool
	cmd := &cobra.Command{
		Use:   "go-live SITE DRAFT",
		Short: "Put a draft live, now or at a time",
		Long: "Puts a draft live, now or at a time. If it cannot be done cleanly at that time, since the same was\n" +
			"changed meanwhile, nothing is done, and the draft says why.",
		Example: `  cparcel site go-live larch-saddle spring
  cparcel site go-live larch-saddle spring --at "2027-05-01 06:00"
  cparcel site go-live larch-saddle spring --at never`,
		Args: cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			id, err := a.draftNumber(cmd, args[0], args[1], false)
			if err != nil {
				return err
			}
			if at != "" {
				return a.timeDraft(cmd, c, args[0], id, at, wait)
			}
			detail, err := result(c.GetDraftWithResponse(cmd.Context(), args[0], id))
			if err != nil {
				return err
			}
			if a.output != "json" {
				a.endedBy(detail)
			}
			got, err := result(c.GoLiveWithResponse(cmd.Context(), args[0], id))
			if err != nil {
				return err
			}
			return a.print(got, func() {
				a.say("%s: draft %d of %s is live as revision %d, digest %s.", a.good("Done"), id, args[0],
					got.Revision, short(string(got.Digest)))
				for _, u := range got.Unshown {
					a.say("%s cannot be shown, and is left out: %s", u.Path, u.Message)
				}
			})
		},
	}
	cmd.Flags().BoolVar(&wait, "wait", false, "with --at: wait until it is live, or stays")
	cmd.Flags().StringVar(&at, "at", "",
		"a `time` to come, as \"2027-05-01 06:00\" here or 2027-05-01T06:00:00Z; never takes it back")
	return cmd
}

// timeDraft says when a draft goes live by itself.
func (a *app) timeDraft(cmd *cobra.Command, c *api.ClientWithResponses, site string, id int64, at string,
	wait bool,
) error {
	if at == "never" {
		d, err := result(c.UntimeDraftWithResponse(cmd.Context(), site, id))
		if err != nil {
			return err
		}
		return a.print(d, func() { a.say("Draft %d of %s goes live only when somebody says so.", id, site) })
	}
	when, err := time.Parse(time.RFC3339, at)
	if err != nil {
		if when, err = time.ParseInLocation("2006-01-02 15:04", at, time.Local); err != nil {
			return usage("%q is no time; write it as \"2027-05-01 06:00\" or 2027-05-01T06:00:00Z", at)
		}
	}
	d, err := result(c.TimeDraftWithResponse(cmd.Context(), site, id, api.DraftTime{At: when}))
	if err != nil {
		return err
	}
	if wait {
		return a.untilLive(cmd, c, site, id, when)
	}
	return a.print(d, func() {
		a.say("Draft %d of %s goes live on %s. Take it back: cparcel site go-live %s %d --at never", id, site,
			d.LiveAt.Local().Format("2006-01-02 at 15:04"), site, id)
	})
}

// untilLive waits until a draft is live at its time, or tells why it stays.
func (a *app) untilLive(cmd *cobra.Command, c *api.ClientWithResponses, site string, id int64, at time.Time) error {
	d, err := a.waitForDraft(cmd.Context(), c, site, id, at)
	if err != nil {
		return err
	}
	if d.State == api.DraftStateLive {
		return a.print(d, func() { a.say("%s: draft %d of %s is live.", a.good("Done"), id, site) })
	}
	if err := a.print(d, nil); err != nil && a.output == "json" {
		return err
	}
	return &exitError{Stale, fmt.Errorf("draft %d of %s stays: %s\n  To fix: cparcel draft rebase %s %d", id, site,
		value(d.LiveSays), site, id)}
}

func (a *app) siteDiscard() *cobra.Command {
	return &cobra.Command{
		Use:   "discard SITE DRAFT",
		Short: "Discard an open draft; the live site stays as it is",
		Args:  cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			id, err := a.draftNumber(cmd, args[0], args[1], false)
			if err != nil {
				return err
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			if _, err := body(c.DiscardDraftWithResponse(cmd.Context(), args[0], id)); err != nil {
				return err
			}
			return a.print(
				map[string]any{"site": args[0], "discarded": id},
				func() { a.say("%s: draft %d of %s is discarded.", a.good("Done"), id, args[0]) },
			)
		},
	}
}
