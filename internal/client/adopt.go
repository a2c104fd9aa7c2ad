package client

import (
	"archive/zip"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"compactparcel/core/folder"
	"compactparcel/core/item"
	"compactparcel/core/outside"
	"compactparcel/core/says"
	"compactparcel/internal/api"

	"github.com/schollz/progressbar/v3"
	"github.com/spf13/cobra"
	"golang.org/x/term"
)

func (a *app) siteAdopt() *cobra.Command {
	var name, parts, shared string
	var again bool
	cmd := &cobra.Command{
		Use:   "adopt DIR --name SITE",
		Short: "Make a new site from a folder, or bring in later edits of the folder",
		Args:  cobra.ExactArgs(1),
		Long: `Makes a new site from a folder: one in our own layout (with a site.json), or any
static site as somebody left it. Nothing outside the folder is read, and nothing
is fetched. Pages keep their addresses.

What repeats in the pages can become parts and sections that they use:
  --parts auto   takes what is sure, lists the rest
  --parts ask    asks for each; without a terminal it lists them and ends with code 3
  --parts none   looks for nothing (cparcel site proposals looks later)

With --again the folder is compared with what was last adopted from it or published
into it. What somebody changed there comes into a draft, and every edit is listed with
what became of it. An edit of something that several places show, made at some of
them only, is taken as --shared says:
  --shared ask         it is reported, and not taken
  --shared everywhere  it is made for all places
  --shared here        the place gets a copy of its own`,
		RunE: func(cmd *cobra.Command, args []string) error {
			if name == "" {
				return usage("name the site with --name")
			}
			if parts != "auto" && parts != "ask" && parts != "none" {
				return usage("--parts is auto, ask or none, not %q", parts)
			}
			if !slices.Contains(outside.SharedWays, outside.Shared(shared)) {
				return usage("--shared is ask, everywhere or here, not %q", shared)
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
			operation := "adoptSite"
			if again {
				operation = "adoptAgain"
			}
			body, with, err := a.send(cmd.Context(), c, operation, file, size)
			if err != nil {
				return err
			}
			if again {
				return a.adoptAgain(cmd, c, name, args[0], outside.Shared(shared), body, with)
			}
			how := api.AdoptParts(parts)
			got, err := created(
				c.AdoptSiteWithBodyWithResponse(cmd.Context(), name, &api.AdoptSiteParams{Parts: &how},
					"application/zip", body, with),
			)
			if err != nil {
				return err
			}
			if err := a.print(
				got,
				func() { a.adopted(args[0], got) },
			); err != nil || parts != "ask" ||
				len(got.Proposals) == 0 {
				return err
			}
			return a.askProposals(cmd, c, name, got.Proposals)
		},
	}
	cmd.Flags().StringVar(&name, "name", "", "the `site`'s name")
	cmd.Flags().StringVar(&parts, "parts", "none", "what is done with what repeats: auto, ask or none")
	cmd.Flags().StringVar(&shared, "shared", "ask",
		"with --again, what is done with an edit at some of the places that show a source: ask, everywhere or here")
	cmd.Flags().
		BoolVar(&again, "again", false,
			"compare with the site that was made from it, and put what changed into a draft")
	return cmd
}

// adopted prints what adopting took, left and found.
func (a *app) adopted(dir string, got *api.Adopted) {
	name := got.Site.Name
	a.say("%s adopted as %s: %d items, %d pages (%s).", dir, name, got.Site.Items, got.Site.Pages, got.Report.Layout)
	kinds := map[item.Kind]int{}
	for _, t := range got.Report.Taken {
		kinds[t.Kind]++
	}
	var counts []string
	for _, k := range item.Kinds {
		if n := kinds[k.Kind]; n > 0 {
			counts = append(counts, fmt.Sprintf("%d × %s", n, k.Kind))
		}
	}
	a.say("  took     %s", strings.Join(counts, ", "))
	for _, t := range got.Took {
		a.say("  %s     %s", a.good("made"), t)
	}
	for _, n := range got.Notes {
		a.say("  %s     %s: %s", a.mark("note"), n.Address, n.Message)
	}
	a.some("left", got.Report.Left)
	a.some(a.mark("note"), got.Report.Notes)
	for _, h := range got.Report.HeadScripts {
		begins := ""
		if h.Begins != "" {
			begins = " (" + h.Begins + ")"
		}
		a.say("  script   %s%s in the head of %s: site-only until you say otherwise (cparcel site scripts)",
			h.Script, begins, says.Count(h.Pages, "page"))
	}
	if len(got.Proposals) > 0 {
		a.say("")
		a.proposals(got.Proposals)
		a.say("Take them: cparcel site accept %s ITEM…", name)
	}
	a.say("Look at it: %s", got.Site.Preview)
}

// maxListed is how many files of one sort are listed for people; JSON has them all.
const maxListed = 12

func (a *app) some(word string, files []folder.Left) {
	for i, l := range files {
		if i == maxListed {
			a.say("  %s     and %d more (-o json lists all)", word, len(files)-maxListed)
			return
		}
		a.say("  %s     %s: %s", word, l.Path, l.Why)
	}
}

func (a *app) adoptAgain(
	cmd *cobra.Command, c *api.ClientWithResponses, name, dir string, shared outside.Shared, zip io.Reader,
	with api.RequestEditorFn,
) error {
	got, err := result(c.AdoptAgainWithBodyWithResponse(cmd.Context(), name, &api.AdoptAgainParams{Shared: &shared},
		"application/zip", zip, with))
	if err != nil {
		return err
	}
	return a.print(got, func() {
		if len(got.Changes)+len(got.Edits) == 0 {
			a.say("Nothing has changed in %s: %s is up to date with it.", dir, name)
			return
		}
		var rows [][]any
		for _, x := range got.Changes {
			what := string(x.What)
			if x.What == api.FileChangeKindConflict {
				what = a.mark(what)
			}
			about := value(x.Message)
			if x.Address != nil {
				about = strings.TrimSpace(x.Address.String() + "  " + about)
			}
			rows = append(rows, []any{x.Path, what, about})
		}
		if len(rows) > 0 {
			a.table("", []string{"file", "outside", "item"}, rows)
		}
		left := a.outsideEdits(got.Edits)
		if left > 0 {
			a.say("%s not taken. What is shown elsewhere too is taken with --shared everywhere or --shared here.",
				says.Count(left, "edit"))
		}
		if got.Draft == nil {
			a.say("Nothing came into a draft.")
			return
		}
		a.say("The edits are in draft %d: %s", *got.Draft, *got.Preview)
		a.say("Make it live: cparcel site go-live %s %d", name, *got.Draft)
	})
}

// outsideEdits prints what became of the edits within files, and counts those not taken.
func (a *app) outsideEdits(edits []api.OutsideEdit) (left int) {
	words := map[outside.State]string{outside.Taken: a.good("taken"), outside.NotTaken: a.mark("not taken"),
		outside.Told: "note"}
	var rows [][]any
	for _, e := range edits {
		place := e.Path
		if e.Line != nil {
			place += fmt.Sprintf(":%d", *e.Line)
			if value(e.EndLine) > *e.Line {
				place += fmt.Sprintf("-%d", *e.EndLine)
			}
		}
		about := ""
		if e.Address != nil {
			about = e.Address.String()
		}
		if e.Before != nil || e.After != nil {
			about = strings.TrimSpace(about + "  " + value(e.Before) + " → " + value(e.After))
		}
		if e.Message != nil {
			about = strings.TrimSpace(about + "  " + *e.Message)
		}
		if e.State == outside.NotTaken {
			left++
		}
		rows = append(rows, []any{place, words[e.State], about})
	}
	if len(rows) > 0 {
		a.table("", []string{"place", "edit", "item"}, rows)
	}
	return left
}

// zipDir packs a folder into a scratch file; links of the file system are not followed.
func (a *app) zipDir(dir string) (*os.File, int64, error) {
	dir, err := filepath.EvalSymlinks(dir) // a published folder is a link to its release
	if err != nil {
		return nil, 0, fmt.Errorf("the folder cannot be read: %w", err)
	}
	info, err := os.Stat(dir)
	if err != nil {
		return nil, 0, fmt.Errorf("the folder cannot be read: %w", err)
	}
	if !info.IsDir() {
		return nil, 0, usage("%s is not a folder", dir)
	}
	f, err := os.CreateTemp("", "cparcel-adopt-")
	if err != nil {
		return nil, 0, err
	}
	z := zip.NewWriter(f)
	if err := z.SetComment(folder.ZipAsItIs); err != nil {
		return nil, 0, err
	}
	err = filepath.WalkDir(dir, func(p string, d fs.DirEntry, err error) error {
		if err != nil {
			return fmt.Errorf("the folder cannot be read: %w", err)
		}
		if d.IsDir() || !d.Type().IsRegular() {
			if d.Type()&fs.ModeSymlink == 0 {
				return nil
			}
			fmt.Fprintf(a.err, "  left     %s: a symbolic link; links are not followed\n", p)
			return linkEntry(z, dir, p) // what is a link now was not deleted
		}
		if info, err := d.Info(); err == nil && info.Size() > folder.MaxFileBytes {
			fmt.Fprintf(a.err, "  left     %s: it is larger than %d MB\n", p, folder.MaxFileBytes>>20)
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

// linkEntry notes in the zip that something is a symbolic link; not where it leads.
func linkEntry(z *zip.Writer, dir, p string) error {
	rel, err := filepath.Rel(dir, p)
	if err != nil {
		return err
	}
	h := &zip.FileHeader{Name: filepath.ToSlash(rel), Method: zip.Store}
	h.SetMode(fs.ModeSymlink | 0o777)
	_, err = z.CreateHeader(h)
	return err
}

// opened opens a file to be sent, and gives its size in bytes. Of a folder it says what to do instead.
func opened(name, instead string) (*os.File, int64, error) {
	f, err := os.Open(name)
	if err != nil {
		return nil, 0, err
	}
	info, err := f.Stat()
	if err == nil && info.IsDir() {
		err = usage("%s is a folder: %s", name, instead)
	}
	if err != nil {
		f.Close()
		return nil, 0, err
	}
	return f, info.Size(), nil
}

// progress shows how far a long transfer is, on a terminal only.
func (a *app) progress(r io.Reader, size int64, what string) io.Reader {
	bar := a.bar(size, what)
	if bar == nil {
		return r
	}
	p := progressbar.NewReader(r, bar)
	return &p
}

// bar shows how far a transfer is; nil where nobody looks.
func (a *app) bar(size int64, what string) *progressbar.ProgressBar {
	f, ok := a.err.(*os.File)
	if !ok || !term.IsTerminal(int(f.Fd())) || a.output == "json" {
		return nil
	}
	return progressbar.NewOptions64(size, progressbar.OptionSetWriter(a.err), progressbar.OptionSetDescription(what),
		progressbar.OptionShowBytes(true), progressbar.OptionClearOnFinish(), progressbar.OptionSetWidth(30))
}
