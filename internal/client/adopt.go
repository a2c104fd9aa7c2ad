package client

import (
	"archive/zip"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"

	"github.com/schollz/progressbar/v3"
	"github.com/spf13/cobra"
	"golang.org/x/term"
)

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
		got, err := created(c.AdoptSiteWithBodyWithResponse(cmd.Context(), name, "application/zip", a.progress(file, size, "sending")))
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
