package client

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strconv"
	"strings"

	"compactparcel/core/item"
	"compactparcel/internal/api"

	"github.com/schollz/progressbar/v3"
	"github.com/spf13/cobra"
	"golang.org/x/term"
)

func (a *app) siteCommands() *cobra.Command {
	cmd := &cobra.Command{Use: "site", Short: "Look at sites, adopt, publish, go live"}
	cmd.AddCommand(a.siteList(), a.siteAdopt(), a.siteShow(), a.sitePut(), a.siteSurround(), a.sitePublish(), a.siteGoLive(), a.siteDiscard(), a.siteHistory())
	return cmd
}

func (a *app) siteList() *cobra.Command {
	return &cobra.Command{Use: "list", Short: "List the sites", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		c, err := a.api()
		if err != nil {
			return err
		}
		r, err := c.ListSitesWithResponse(cmd.Context())
		if err != nil {
			return err
		}
		list, err := answered(r.JSON200, r.StatusCode(), r.Body, nil)
		if err != nil {
			return err
		}
		return a.print(list, func() {
			var rows [][]any
			for _, s := range list.Sites {
				rows = append(rows, []any{s.Name, s.Title, s.Pages, s.Items, s.OpenDrafts, s.Revision, short(string(s.Digest)), s.Preview})
			}
			a.table("There is no site yet. Adopt one: cparcel site adopt DIR --name SITE", []string{"site", "title", "pages", "items", "drafts", "revision", "digest", "look at it"}, rows)
		})
	}}
}

func (a *app) siteShow() *cobra.Command {
	var draft int64
	cmd := &cobra.Command{Use: "show SITE [ADDRESS]", Short: "Show a site with its items, or one item with what leans on what", Args: cobra.RangeArgs(1, 2), RunE: func(cmd *cobra.Command, args []string) error {
		c, err := a.api()
		if err != nil {
			return err
		}
		if len(args) == 2 {
			return a.showItem(cmd.Context(), c, args[0], args[1])
		}
		r, err := c.ListItemsWithResponse(cmd.Context(), args[0], &api.ListItemsParams{Draft: some(draft)})
		if err != nil {
			return err
		}
		list, err := answered(r.JSON200, r.StatusCode(), r.Body, nil)
		if err != nil {
			return err
		}
		d, err := c.ListDraftsWithResponse(cmd.Context(), args[0])
		if err != nil {
			return err
		}
		return a.print(list, func() {
			a.say("%s, revision %d, digest %s, %s", args[0], list.Revision, list.Digest, list.Preview)
			a.items(list.Items)
			if d.JSON200 != nil {
				for _, x := range d.JSON200.Drafts {
					a.say("Draft %d “%s” by %s: %s", x.Id, x.Name, x.By, x.Preview)
				}
			}
		})
	}}
	cmd.Flags().Int64Var(&draft, "draft", 0, "lay the draft with this `number` over the live state")
	return cmd
}

func (a *app) items(items []api.Item) {
	var rows [][]any
	for _, i := range items {
		var about []string
		m := i.Meta
		for _, s := range []string{m.Slug, string(m.Role), m.Type, m.Version} {
			if s != "" {
				about = append(about, s)
			}
		}
		if i.Address.Kind == item.Part {
			about = append(about, "on "+strings.Join(m.Place().On, ", "))
		}
		rows = append(rows, []any{i.Address.String(), m.Title, weight(i.Bytes), strings.Join(about, " · ")})
	}
	a.table("There are no items.", []string{"address", "title", "weight", "about"}, rows)
}

func (a *app) showItem(ctx context.Context, c *api.ClientWithResponses, site, address string) error {
	r, err := c.GetItemWithResponse(ctx, site, &api.GetItemParams{Address: address})
	if err != nil {
		return err
	}
	d, err := answered(r.JSON200, r.StatusCode(), r.Body, nil)
	if err != nil {
		return err
	}
	return a.printItem(site, d)
}

func (a *app) printItem(site string, d *api.ItemDetail) error {
	return a.print(d, func() {
		a.say("%s “%s” in %s, %s, state %s", d.Item.Address, d.Item.Meta.Title, site, weight(d.Item.Bytes), short(string(d.Item.State)))
		if d.Origin != nil {
			a.say("It came from %s@%s, %s (delivery %d).", d.Origin.Kit, d.Origin.Version, d.Origin.Address, d.Origin.Delivery)
		}
		var rows [][]any
		for _, u := range d.Uses {
			to, found := u.To.String(), "yes"
			if u.To.IsZero() {
				to = u.Slug
			}
			if !u.Found {
				found = a.mark("no")
			}
			rows = append(rows, []any{to, found, u.Line, u.Why})
		}
		a.table("It leans on nothing.", []string{"leans on", "there", "line", "how"}, rows)
		if len(d.UsedBy) > 0 {
			var by []string
			for _, u := range d.UsedBy {
				by = append(by, u.String())
			}
			a.say("Used by %s.", strings.Join(by, ", "))
		}
		if d.Content != nil {
			a.say("\n%s", strings.TrimRight(*d.Content, "\n"))
		}
	})
}

func (a *app) siteSurround() *cobra.Command {
	return &cobra.Command{Use: "surround SITE PATH", Short: "Say which parts surround a page, and why", Args: cobra.ExactArgs(2), RunE: func(cmd *cobra.Command, args []string) error {
		c, err := a.api()
		if err != nil {
			return err
		}
		r, err := c.GetSurroundWithResponse(cmd.Context(), args[0], &api.GetSurroundParams{Path: args[1]})
		if err != nil {
			return err
		}
		s, err := answered(r.JSON200, r.StatusCode(), r.Body, nil)
		if err != nil {
			return err
		}
		return a.print(s, func() {
			var rows [][]any
			for _, p := range s.Parts {
				part := "–"
				if !p.Part.IsZero() {
					part = p.Part.String()
				}
				rows = append(rows, []any{string(p.Role), part, p.Why})
			}
			a.table("Nothing surrounds it.", []string{"role", "part", "why"}, rows)
		})
	}}
}

func (a *app) siteAdopt() *cobra.Command {
	var name string
	cmd := &cobra.Command{Use: "adopt DIR --name SITE", Short: "Make a new site from a folder", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		if name == "" {
			return usage("name the new site with --name")
		}
		c, err := a.api()
		if err != nil {
			return err
		}
		file, size, err := a.zipDir(args[0])
		if err != nil {
			return err
		}
		defer os.Remove(file.Name())
		defer file.Close()
		r, err := c.AdoptSiteWithBodyWithResponse(cmd.Context(), name, "application/zip", a.progress(file, size, "sending"))
		if err != nil {
			return err
		}
		got, err := answered(r.JSON201, r.StatusCode(), r.Body, nil)
		if err != nil {
			return err
		}
		return a.print(got, func() {
			a.say("%s adopted as %s: %d items, %d pages (%s).", args[0], name, got.Site.Items, got.Site.Pages, got.Report.Layout)
			for _, l := range got.Report.Left {
				a.say("  left     %s: %s", l.Path, l.Why)
			}
			for _, l := range got.Report.Notes {
				a.say("  %s    %s: %s", a.mark("note"), l.Path, l.Why)
			}
			a.say("Look at it: %s", got.Site.Preview)
		})
	}}
	cmd.Flags().StringVar(&name, "name", "", "the new `site`'s name")
	return cmd
}

// zipDir packs a folder into a scratch file; links of the file system are not followed.
func (a *app) zipDir(dir string) (*os.File, int64, error) {
	info, err := os.Stat(dir)
	if err != nil {
		return nil, 0, fmt.Errorf("the folder cannot be read: %w", err)
	}
	if !info.IsDir() {
		return nil, 0, usage("%s is no folder", dir)
	}
	f, err := os.CreateTemp("", "cparcel-adopt-")
	if err != nil {
		return nil, 0, err
	}
	z := zip.NewWriter(f)
	err = filepath.WalkDir(dir, func(p string, d fs.DirEntry, err error) error {
		if err != nil {
			return fmt.Errorf("the folder cannot be read: %w", err)
		}
		if d.IsDir() || !d.Type().IsRegular() {
			if d.Type()&fs.ModeSymlink != 0 {
				fmt.Fprintf(a.err, "  left     %s: a symbolic link; links are not followed\n", p)
			}
			return nil
		}
		rel, err := filepath.Rel(dir, p)
		if err != nil {
			return err
		}
		src, err := os.Open(p)
		if err != nil {
			return fmt.Errorf("the folder cannot be read: %w", err)
		}
		defer src.Close()
		w, err := z.CreateHeader(&zip.FileHeader{Name: filepath.ToSlash(rel), Method: zip.Store})
		if err != nil {
			return err
		}
		_, err = io.Copy(w, src)
		return err
	})
	if err == nil {
		err = z.Close()
	}
	var size int64
	if err == nil {
		size, err = f.Seek(0, io.SeekCurrent)
	}
	if err == nil {
		_, err = f.Seek(0, io.SeekStart)
	}
	if err != nil {
		f.Close()
		os.Remove(f.Name())
		return nil, 0, err
	}
	return f, size, nil
}

// progress shows how far a long transfer is, on a terminal only.
func (a *app) progress(r io.Reader, size int64, what string) io.Reader {
	f, ok := a.err.(*os.File)
	if !ok || !term.IsTerminal(int(f.Fd())) || a.output == "json" {
		return r
	}
	bar := progressbar.NewOptions64(size, progressbar.OptionSetWriter(a.err), progressbar.OptionSetDescription(what), progressbar.OptionShowBytes(true), progressbar.OptionClearOnFinish(), progressbar.OptionSetWidth(30))
	p := progressbar.NewReader(r, bar)
	return &p
}

func (a *app) sitePut() *cobra.Command {
	var draft int64
	var slug string
	cmd := &cobra.Command{Use: "put SITE ADDRESS FILE", Short: "Lay a new or changed item into a draft", Args: cobra.ExactArgs(3), RunE: func(cmd *cobra.Command, args []string) error {
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
		old, err := c.GetItemWithResponse(cmd.Context(), args[0], &api.GetItemParams{Address: args[1]})
		if err != nil {
			return err
		}
		if old.JSON200 != nil {
			tag := `"` + string(old.JSON200.Item.State) + `"`
			match = &tag
		}
		if slug != "" {
			meta = &api.Meta{}
			if old.JSON200 != nil {
				*meta = old.JSON200.Item.Meta
			}
			meta.Slug = slug
		}
		var got *api.Edited
		if addr.Kind == item.Media {
			r, err := c.EditMediaWithBodyWithResponse(cmd.Context(), args[0], &api.EditMediaParams{Address: args[1], Draft: some(draft), IfMatch: match}, "application/octet-stream", bytes.NewReader(b))
			if err != nil {
				return err
			}
			if got, err = answered(r.JSON200, r.StatusCode(), r.Body, nil); err != nil {
				return err
			}
		} else {
			text := string(b)
			r, err := c.EditItemWithResponse(cmd.Context(), args[0], &api.EditItemParams{Address: args[1], Draft: some(draft), IfMatch: match}, api.EditItem{Content: &text, Meta: meta})
			if err != nil {
				return err
			}
			if got, err = answered(r.JSON200, r.StatusCode(), r.Body, nil); err != nil {
				return err
			}
		}
		return a.print(got, func() {
			a.say("%s is in draft %d; the live site is as it was.\nLook at it: %s\nGo live:    cparcel site go-live %s %d", args[1], got.Draft, got.Preview, args[0], got.Draft)
		})
	}}
	cmd.Flags().Int64Var(&draft, "draft", 0, "the `number` of an open draft (a new one when not given)")
	cmd.Flags().StringVar(&slug, "path", "", "a page's `address` on the site, as /path/")
	return cmd
}

func (a *app) sitePublish() *cobra.Command {
	var draft int64
	cmd := &cobra.Command{Use: "publish SITE DIR", Short: "Write the complete static site into a folder that is empty or not there", Args: cobra.ExactArgs(2), RunE: func(cmd *cobra.Command, args []string) error {
		c, err := a.api()
		if err != nil {
			return err
		}
		if entries, err := os.ReadDir(args[1]); err == nil && len(entries) > 0 {
			return &exitError{Refused, fmt.Errorf("%s is not empty, and nothing in it is overwritten\n  Way out: name a folder that is empty or not there", args[1])}
		}
		r, err := c.PublishSiteWithResponse(cmd.Context(), args[0], &api.PublishSiteParams{Draft: some(draft)})
		if err != nil {
			return err
		}
		if _, err := answered(&r.Body, r.StatusCode(), r.Body, nil); err != nil {
			return err
		}
		n, err := unpack(r.Body, args[1])
		if err != nil {
			return err
		}
		return a.print(map[string]any{"site": args[0], "folder": args[1], "files": n}, func() { a.say("%s is written to %s: %d files.", args[0], args[1], n) })
	}}
	cmd.Flags().Int64Var(&draft, "draft", 0, "lay the draft with this `number` over the live state")
	return cmd
}

// unpack writes a zip into a folder: beside it first, then in one move.
func unpack(body []byte, dir string) (int, error) {
	z, err := zip.NewReader(bytes.NewReader(body), int64(len(body)))
	if err != nil {
		return 0, err
	}
	dir = filepath.Clean(dir)
	half := dir + ".new"
	if err := os.RemoveAll(half); err != nil {
		return 0, err
	}
	defer os.RemoveAll(half)
	if err := os.MkdirAll(half, 0o755); err != nil {
		return 0, err
	}
	for _, f := range z.File {
		if !filepath.IsLocal(filepath.FromSlash(f.Name)) {
			return 0, fmt.Errorf("the server sent the path %q, which leaves the folder", f.Name)
		}
		p := filepath.Join(half, filepath.FromSlash(f.Name))
		if err := os.MkdirAll(filepath.Dir(p), 0o755); err != nil {
			return 0, err
		}
		r, err := f.Open()
		if err != nil {
			return 0, err
		}
		w, err := os.Create(p)
		if err == nil {
			_, err = io.Copy(w, r)
			if e := w.Close(); err == nil {
				err = e
			}
		}
		r.Close()
		if err != nil {
			return 0, err
		}
	}
	if err := os.Remove(dir); err != nil && !os.IsNotExist(err) {
		return 0, err
	}
	return len(z.File), os.Rename(half, dir)
}

func (a *app) siteGoLive() *cobra.Command {
	return &cobra.Command{Use: "go-live SITE DRAFT", Short: "Put a draft live", Args: cobra.ExactArgs(2), RunE: func(cmd *cobra.Command, args []string) error {
		c, err := a.api()
		if err != nil {
			return err
		}
		id, err := strconv.ParseInt(args[1], 10, 64)
		if err != nil {
			return usage("%q is not the number of a draft", args[1])
		}
		r, err := c.GoLiveWithResponse(cmd.Context(), args[0], id)
		if err != nil {
			return err
		}
		got, err := answered(r.JSON200, r.StatusCode(), r.Body, nil)
		if err != nil {
			return err
		}
		return a.print(got, func() {
			a.say("%s: draft %d of %s is live as revision %d, digest %s.", a.good("Done"), id, args[0], got.Revision, short(string(got.Digest)))
		})
	}}
}

func (a *app) siteDiscard() *cobra.Command {
	return &cobra.Command{Use: "discard SITE DRAFT", Short: "Throw an open draft away; the live site stays as it is", Args: cobra.ExactArgs(2), RunE: func(cmd *cobra.Command, args []string) error {
		id, err := strconv.ParseInt(args[1], 10, 64)
		if err != nil {
			return usage("%q is not the number of a draft", args[1])
		}
		c, err := a.api()
		if err != nil {
			return err
		}
		r, err := c.DiscardDraftWithResponse(cmd.Context(), args[0], id)
		if err != nil {
			return err
		}
		if _, err := answered(&r.Body, r.StatusCode(), r.Body, nil); err != nil {
			return err
		}
		return a.print(map[string]any{"site": args[0], "discarded": id}, func() { a.say("%s: draft %d of %s is discarded.", a.good("Done"), id, args[0]) })
	}}
}

func (a *app) siteHistory() *cobra.Command {
	return &cobra.Command{Use: "history SITE", Short: "List what changed a site, the newest first", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		c, err := a.api()
		if err != nil {
			return err
		}
		r, err := c.ListRevisionsWithResponse(cmd.Context(), args[0])
		if err != nil {
			return err
		}
		list, err := answered(r.JSON200, r.StatusCode(), r.Body, nil)
		if err != nil {
			return err
		}
		return a.print(list, func() {
			var rows [][]any
			for _, x := range list.Revisions {
				rows = append(rows, []any{x.Revision, x.At.Local().Format("2006-01-02 15:04"), x.By, x.Changed, short(string(x.Digest)), x.Says})
			}
			a.table("Nothing has changed it yet.", []string{"revision", "when", "by", "items", "digest", "what"}, rows)
		})
	}}
}

func some[T comparable](v T) *T {
	var zero T
	if v == zero {
		return nil
	}
	return &v
}
