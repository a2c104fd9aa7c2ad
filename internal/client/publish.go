package client

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"os"
	"path/filepath"

	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

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
		b, err := body(c.PublishSiteWithResponse(cmd.Context(), args[0], &api.PublishSiteParams{Draft: some(draft)}))
		if err != nil {
			return err
		}
		n, err := unpack(b, args[1])
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
