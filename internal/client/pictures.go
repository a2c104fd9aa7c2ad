package client

import (
	"context"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"time"

	"compactparcel/core/says"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

// picturesWait is how long pictures are waited for, unless it is said.
const picturesWait = 2 * time.Minute

// pictureFile is the name of the file of a page's picture.
func pictureFile(slug string, width int, side string) string {
	name := strings.ReplaceAll(strings.Trim(slug, "/"), "/", "--")
	if name == "" {
		name = "home"
	}
	if side != "" {
		side = "-" + side
	}
	return fmt.Sprintf("%s-%d%s.png", name, width, side)
}

// savePicture writes the file of a picture.
func (a *app) savePicture(ctx context.Context, c *api.ClientWithResponses, key, file string) error {
	got, err := c.GetPictureWithResponse(ctx, key, nil)
	if err != nil {
		return err
	}
	if got.StatusCode() != http.StatusOK {
		return refusal(rawReply{got.StatusCode(), got.Body})
	}
	return os.WriteFile(file, got.Body, 0o644)
}

// rest waits between two looks, longer each time.
func rest(ctx context.Context, pause *time.Duration) error {
	select {
	case <-ctx.Done():
		return ctx.Err()
	case <-time.After(*pause):
		*pause = min(*pause*2, 2*time.Second)
		return nil
	}
}

func (a *app) sitePicture() *cobra.Command {
	var draft int64
	var width int
	var wait time.Duration
	cmd := &cobra.Command{
		Use:   "picture SITE PAGE FILE",
		Short: "Make a picture of a page, live or in a draft, as PNG",
		Example: `  cparcel site picture kestrel-refuge /contact/ contact.png
  cparcel site picture kestrel-refuge / home.png --width 390 --draft spring`,
		Args: cobra.ExactArgs(3),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			page, err := a.pageNamed(cmd.Context(), c, args[0], draft, args[1])
			if err != nil {
				return err
			}
			origin, err := a.previewOf(cmd.Context(), c, args[0], draft)
			if err != nil {
				return err
			}
			px := api.WantedPictureWidth(width)
			in := api.WantPictures{Pictures: []api.WantedPicture{{At: origin + page, Width: &px}}}
			p, err := a.pictureOf(cmd.Context(), c, in, wait)
			if err != nil {
				return err
			}
			if err := a.savePicture(cmd.Context(), c, value(p.Picture), args[2]); err != nil {
				return err
			}
			return a.print(p, func() {
				a.say("%s is in %s, %d × %d px.", page, args[2], width, value(p.Height))
				if value(p.Cut) {
					a.say("The page is higher than what the picture shows.")
				}
			})
		},
	}
	a.draftFlag(cmd, &draft, nil, "the `name or number` of a draft, in the place of the live site")
	cmd.Flags().IntVar(&width, "width", 1280, "the width in `px`: 1280, 768 or 390")
	cmd.Flags().DurationVar(&wait, "wait", picturesWait, "how long it is waited for at most")
	return cmd
}

// previewOf gives the address of a site's preview, live or of a draft.
func (a *app) previewOf(ctx context.Context, c *api.ClientWithResponses, site string, draft int64) (string, error) {
	if draft != 0 {
		d, err := result(c.GetDraftWithResponse(ctx, site, draft))
		if err != nil {
			return "", err
		}
		return d.Draft.Preview, nil
	}
	list, err := result(c.ListItemsWithResponse(ctx, site, nil))
	if err != nil {
		return "", err
	}
	return list.Preview, nil
}

// pictureOf waits until a picture is made.
func (a *app) pictureOf(ctx context.Context, c *api.ClientWithResponses, in api.WantPictures, wait time.Duration) (
	*api.PictureRef, error,
) {
	ctx, cancel := context.WithTimeout(ctx, wait)
	defer cancel()
	pause := 200 * time.Millisecond
	for {
		got, err := result(c.WantPicturesWithResponse(ctx, in))
		if err != nil {
			return nil, err
		}
		p := got.Pictures[0].Picture
		switch {
		case p.State == api.PictureStateMade:
			return &p, nil
		case p.State == api.PictureStateFailed:
			return nil, &exitError{Refused, fmt.Errorf("the picture cannot be made: %s", value(p.Message))}
		case !got.Browser:
			return nil, &exitError{Refused, fmt.Errorf("this service has no browser that makes pictures\n" +
				"  To fix: install Debian's package chromium, and start the service again")}
		case p.State == api.PictureStateNone:
			return nil, &exitError{Refused, fmt.Errorf("nothing is shown at %s", in.Pictures[0].At)}
		}
		if err := rest(ctx, &pause); err != nil {
			return nil, fmt.Errorf("the picture is not made yet: %w", err)
		}
	}
}

// beforeAfterFlags are what the commands for both sides of pages take.
type beforeAfterFlags struct {
	folder string
	wait   time.Duration
}

func (f *beforeAfterFlags) flags(cmd *cobra.Command) {
	cmd.Flags().StringVar(&f.folder, "folder", "", "write the pictures into this `folder`, as PNG")
	cmd.Flags().DurationVar(&f.wait, "wait", picturesWait, "how long pictures are waited for at most")
}

// draftPictures and deliveryPictures show pages before and after.
func (a *app) draftPictures() *cobra.Command {
	var f beforeAfterFlags
	cmd := a.onDraft("pictures SITE DRAFT", "Show the pages that a draft touches before and after, in pictures", 0,
		func(cmd *cobra.Command, c *api.ClientWithResponses, args []string, id int64) error {
			return a.beforeAfter(cmd.Context(), c, f, func(ctx context.Context, from int) (*api.BeforeAfter, error) {
				return result(c.DraftBeforeAfterWithResponse(ctx, args[0], id,
					&api.DraftBeforeAfterParams{From: &from}))
			})
		})
	f.flags(cmd)
	return cmd
}

func (a *app) deliveryPictures() *cobra.Command {
	var f beforeAfterFlags
	cmd := a.onDelivery("pictures ID",
		"Show the pages that a delivery touches before and after, in pictures",
		func(ctx context.Context, c *api.ClientWithResponses, id int64) error {
			return a.beforeAfter(ctx, c, f, func(ctx context.Context, from int) (*api.BeforeAfter, error) {
				return result(c.DeliveryBeforeAfterWithResponse(ctx, id, &api.DeliveryBeforeAfterParams{From: &from}))
			})
		})
	f.flags(cmd)
	return cmd
}

// beforeAfter reads pages on both sides, waits for their pictures, and prints what differs.
func (a *app) beforeAfter(ctx context.Context, c *api.ClientWithResponses, f beforeAfterFlags,
	read func(context.Context, int) (*api.BeforeAfter, error)) error {
	if f.folder != "" {
		if err := os.MkdirAll(f.folder, 0o755); err != nil {
			return err
		}
	}
	end := time.Now().Add(f.wait)
	all := &api.BeforeAfter{Pages: []api.PictureSides{}}
	for from, pause := 0, 200*time.Millisecond; ; {
		got, err := read(ctx, from)
		if err != nil {
			return err
		}
		if got.Waiting > 0 && got.Browser && time.Now().Before(end) {
			if err := rest(ctx, &pause); err != nil {
				return err
			}
			continue
		}
		all.Pages, all.Browser, all.Count, all.Others = append(all.Pages, got.Pages...), got.Browser, got.Count,
			got.Others
		all.Waiting += got.Waiting
		if got.More == nil {
			break
		}
		from, pause = *got.More, 200*time.Millisecond
	}
	if f.folder != "" {
		if err := a.saveSides(ctx, c, f.folder, all); err != nil {
			return err
		}
	}
	return a.print(all, func() { a.sides(all, f.folder) })
}

func (a *app) saveSides(ctx context.Context, c *api.ClientWithResponses, folder string, all *api.BeforeAfter) error {
	for _, p := range all.Pages {
		for _, pair := range p.Pairs {
			for _, x := range []struct {
				of   api.PictureRef
				side string
			}{{pair.Before, "before"}, {pair.After, "after"}} {
				if x.of.State != api.PictureStateMade {
					continue
				}
				file := filepath.Join(folder, pictureFile(p.Slug, pair.Width, x.side))
				if err := a.savePicture(ctx, c, value(x.of.Picture), file); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

func (a *app) sides(all *api.BeforeAfter, folder string) {
	var rows [][]any
	for _, p := range all.Pages {
		for _, pair := range p.Pairs {
			mark := ""
			if !p.Expected {
				mark = a.bad("! should be the same")
			}
			rows = append(rows, []any{p.Slug, pair.Width, differs(pair), mark})
		}
	}
	a.table("No page looks different.", []string{"Page", "Width", "Differs", ""}, rows)
	switch {
	case !all.Browser && len(all.Pages) > 0:
		a.say("This service has no browser that makes pictures: install Debian's package chromium.")
	case all.Waiting > 0:
		a.say("%s not made yet: ask again.", says.Count(all.Waiting, "picture"))
	case folder != "" && len(all.Pages) > 0:
		a.say("The pictures are in %s.", folder)
	}
	if n := value(all.Others); n > 0 {
		a.say("%s beside these held against each other.", says.Count(n, "page"))
	}
}

// differs says in words whether a page looks different at a width.
func differs(p api.PicturePair) string {
	switch {
	case p.Differs != nil && !*p.Differs:
		return "no"
	case p.Differs != nil && p.Areas != nil:
		return fmt.Sprintf("%.1f %%, %s", 100*value(p.Share), says.Count(len(*p.Areas), "area"))
	case p.Before.State == api.PictureStateFailed || p.After.State == api.PictureStateFailed:
		return "cannot be shown: " + value(p.Before.Message) + value(p.After.Message)
	case p.Before.State == api.PictureStateNone && p.After.State == api.PictureStateMade:
		return "new"
	case p.After.State == api.PictureStateNone && p.Before.State == api.PictureStateMade:
		return "gone"
	}
	return "no picture"
}
