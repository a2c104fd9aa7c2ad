package client

import (
	"archive/zip"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"net/http"
	"os"
	"slices"
	"strconv"
	"strings"

	"compactparcel/core/folder"
	"compactparcel/core/item"
	"compactparcel/core/render"
	"compactparcel/internal/api"
	"compactparcel/internal/outlet"

	"github.com/spf13/cobra"
)

func (a *app) sitePublish() *cobra.Command {
	var draft int64
	var base, links string
	var over bool
	var back int
	cmd := &cobra.Command{Use: "publish SITE DIR", Short: "Write the complete static site into a folder, as one atomic switch", Args: cobra.ExactArgs(2),
		Long: `Writes the complete static site into DIR. DIR becomes a link to a release in
DIR.releases; the next publication is written beside it, only what changed is
written, and the link is switched in one act, so that no visitor sees a mixture.
Older releases stay by their number: --back NUMBER shows one again.

What somebody changed in DIR since is noticed and not written over: bring it in
with cparcel site adopt DIR --name SITE --again, or write over it with --over.`,
		RunE: func(cmd *cobra.Command, args []string) error {
			f, err := outlet.Open(args[1])
			if err != nil {
				return err
			}
			if back != 0 {
				if err := f.Back(back); err != nil {
					return &exitError{Refused, err}
				}
				return a.print(map[string]any{"folder": args[1], "number": back}, func() { a.say("%s shows release %d again.", args[1], back) })
			}
			if _, _, err := f.Current(); err != nil {
				return folderProblem(err)
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			r, notes, err := a.publishInto(cmd, c, f, folder.Options{Site: args[0], Base: base, Links: links}, draft, over)
			var edited *outlet.EditedError
			switch {
			case errors.As(err, &edited):
				return &exitError{Refused, fmt.Errorf("%w\n  Way out: bring the edits in with cparcel site adopt %s --name %s --again, or write over them with --over", err, args[1], args[0])}
			case err != nil:
				return err
			}
			return a.print(r, func() {
				if r.Same {
					a.say("%s is level with %s already: release %d, %d files.", args[1], args[0], r.Number, r.Files)
					return
				}
				a.say("%s is written to %s as release %d: %d files, %d of them new or changed, %d gone.", args[0], args[1], r.Number, r.Files, r.Written, r.Removed)
				for _, n := range notes {
					a.say("  %s     %s", a.mark("note"), n)
				}
			})
		}}
	cmd.Flags().Int64Var(&draft, "draft", 0, "lay the draft with this `number` over the live state")
	cmd.Flags().StringVar(&base, "base", "/", "the `path` below which the site will stand, as /huts/")
	cmd.Flags().StringVar(&links, "links", folder.RootedLinks, "how links are written: rooted or relative")
	cmd.Flags().BoolVar(&over, "over", false, "write over what somebody changed in the folder")
	cmd.Flags().IntVar(&back, "back", 0, "show the older release with this `number` again")
	return cmd
}

// publishInto brings a folder up to the site, asking the service only for contents
// that the folder does not have.
func (a *app) publishInto(cmd *cobra.Command, c *api.ClientWithResponses, f *outlet.Folder, o folder.Options, draft int64, over bool) (*outlet.Result, []string, error) {
	if err := o.Check(); err != nil {
		return nil, nil, usage("%s", err)
	}
	site, err := result(c.GetSiteWithResponse(cmd.Context(), o.Site))
	if err != nil {
		return nil, nil, err
	}
	if o.Digest = site.Digest; draft == 0 {
		if same, err := f.Unchanged(o, render.Engine); err != nil || same != nil {
			return same, nil, folderProblem(err)
		}
	}
	have := []item.Digest{}
	_, old, err := f.Current()
	if err != nil {
		return nil, nil, folderProblem(err)
	}
	edits, err := f.Edited()
	if err != nil {
		return nil, nil, folderProblem(err)
	}
	touched := map[string]bool{}
	for _, e := range edits {
		touched[e.Path] = true
	}
	if old != nil {
		for p, x := range old.Files {
			if !touched[p] {
				have = append(have, x.Digest)
			}
		}
	}
	ways := api.PublishChangesLinks(o.Links)
	resp, err := c.PublishChanges(cmd.Context(), o.Site, api.PublishChanges{Draft: some(draft), Base: &o.Base, Links: &ways, Have: have})
	if err != nil {
		return nil, nil, err
	}
	defer resp.Body.Close()
	if resp.StatusCode != http.StatusOK {
		b, _ := io.ReadAll(io.LimitReader(resp.Body, 1<<20))
		return nil, nil, refusal(rawReply{resp.StatusCode, b})
	}
	spool, err := os.CreateTemp("", "cparcel-publish-")
	if err != nil {
		return nil, nil, err
	}
	defer func() { spool.Close(); os.Remove(spool.Name()) }()
	size, err := io.Copy(spool, a.progress(resp.Body, resp.ContentLength, "receiving"))
	if err != nil {
		return nil, nil, fmt.Errorf("receiving the site: %w", err)
	}
	z, err := zip.NewReader(spool, size)
	if err != nil {
		return nil, nil, fmt.Errorf("what the service sent cannot be read: %w", err)
	}
	r, err := f.Publish(over, func(out folder.Out) (*folder.Release, error) { return fromZip(z, out) })
	var notes []string
	for _, w := range resp.Header.Values("Warning") {
		if text, err := strconv.Unquote(strings.TrimPrefix(w, "299 - ")); err == nil {
			notes = append(notes, text)
		}
	}
	return r, notes, folderProblem(err)
}

// folderProblem lets errors about the folder end with the code for refusals.
func folderProblem(err error) error {
	var edited *outlet.EditedError
	if err == nil || errors.As(err, &edited) {
		return err
	}
	return &exitError{Refused, err}
}

// rawReply is an answer that was not read by the generated client.
type rawReply struct {
	status int
	body   []byte
}

func (r rawReply) StatusCode() int { return r.status }
func (r rawReply) GetBody() []byte { return r.body }

// fromZip puts all files of a release; those that the zip leaves out are there already.
func fromZip(z *zip.Reader, out folder.Out) (*folder.Release, error) {
	b, err := readZip(z, folder.ReleaseFile)
	if err != nil {
		return nil, err
	}
	rel := &folder.Release{}
	if err := json.Unmarshal(b, rel); err != nil {
		return nil, fmt.Errorf("the list of what was sent cannot be read: %w", err)
	}
	files := map[string]*zip.File{}
	for _, f := range z.File {
		files[f.Name] = f
	}
	for _, p := range slices.Sorted(maps.Keys(rel.Files)) {
		x := rel.Files[p]
		open := func() (io.ReadCloser, error) {
			f, ok := files[p]
			if !ok {
				return nil, fmt.Errorf("the service did not send %s", p)
			}
			return f.Open()
		}
		if err := out(p, x, open); err != nil {
			return nil, err
		}
	}
	return rel, out(folder.ReleaseFile, folder.Published{Digest: item.DigestOf(b), Bytes: int64(len(b))}, files[folder.ReleaseFile].Open)
}

func readZip(z *zip.Reader, name string) ([]byte, error) {
	f, err := z.Open(name)
	if err != nil {
		return nil, fmt.Errorf("the service sent no list of the files: %w", err)
	}
	defer f.Close()
	return io.ReadAll(f)
}
