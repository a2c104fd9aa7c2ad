package client

import (
	"archive/tar"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"net/http"
	"slices"

	"compactparcel/core/folder"
	"compactparcel/core/item"
	"compactparcel/core/render"
	"compactparcel/internal/api"
	"compactparcel/internal/outlet"

	"github.com/spf13/cobra"
)

func (a *app) sitePublish() *cobra.Command {
	var draft int64
	var base, links, forms string
	var over bool
	var back int
	cmd := &cobra.Command{
		Use:   "publish SITE DIR",
		Short: "Write the complete static site into a folder, as one atomic switch",
		Args:  cobra.ExactArgs(2),
		Long: `Writes the complete static site into DIR. DIR becomes a link to a release in
DIR.releases; the next publication is written beside it, only what changed is
written, and the link is switched in one act, so that no visitor sees a mixture.
Older releases stay by their number: --back NUMBER shows one again.

What somebody has changed in DIR since is noticed and not overwritten: bring it in
with cparcel site adopt DIR --name SITE --again, or overwrite it with --over.`,
		RunE: func(cmd *cobra.Command, args []string) error {
			f, err := outlet.Open(args[1])
			if err != nil {
				return err
			}
			if back != 0 {
				if err := f.Back(back); err != nil {
					return &exitError{Refused, err}
				}
				return a.print(
					map[string]any{"folder": args[1], "number": back},
					func() { a.say("%s shows release %d again.", args[1], back) },
				)
			}
			if _, _, err := f.Current(); err != nil {
				return folderProblem(err)
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			r, notes, err := a.publishInto(cmd, c, f, folder.Options{Site: args[0], Base: base, Links: links,
				Forms: forms}, draft,
				over)
			var edited *outlet.EditedError
			switch {
			case errors.As(err, &edited):
				return &exitError{
					Refused,
					fmt.Errorf(
						"%w\n  To fix: bring the edits in with cparcel site adopt %s --name %s --again, or "+
							"write over them with --over",
						err,
						args[1],
						args[0],
					),
				}
			case err != nil:
				return err
			}
			return a.print(r, func() {
				if r.Same {
					a.say("%s is already up to date with %s: release %d, %d files.", args[1], args[0], r.Number,
						r.Files)
					return
				}
				a.say("%s is written to %s as release %d: %d files, %d of them new or changed, %d gone.", args[0],
					args[1], r.Number, r.Files, r.Written, r.Removed)
				for _, n := range notes {
					a.say("  %s     %s", a.mark("note"), n)
				}
			})
		},
	}
	a.draftFlag(cmd, &draft, nil, "show the draft with this `name or number` instead of the live site")
	cmd.Flags().StringVar(&base, "base", "/", "the `path` below which the site will stand, as /huts/")
	cmd.Flags().StringVar(&links, "links", folder.RootedLinks,
		"how links are written: rooted, relative, or file (opened from disk)")
	cmd.Flags().StringVar(&forms, "forms", "",
		"where forms are sent: `here` to this service, or an address with {form} in it (default nowhere)")
	cmd.Flags().BoolVar(&over, "over", false, "overwrite what somebody changed in the folder")
	cmd.Flags().IntVar(&back, "back", 0, "show the older release with this `number` again")
	return cmd
}

// publishInto brings a folder up to the site, asking the service only for contents
// that the folder does not have.
func (a *app) publishInto(
	cmd *cobra.Command,
	c *api.ClientWithResponses,
	f *outlet.Folder,
	o folder.Options,
	draft int64,
	over bool,
) (*outlet.Result, []string, error) {
	forms := o.Forms
	if forms == "here" {
		o.Forms = "" // the service knows the address
	}
	if err := o.Check(); err != nil {
		return nil, nil, usage("%s", err)
	}
	site, err := result(c.GetSiteWithResponse(cmd.Context(), o.Site))
	if err != nil {
		return nil, nil, err
	}
	if o.Digest = site.Digest; draft == 0 && !over && forms != "here" {
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
	if old != nil && !over { // over writes all anew
		for p, x := range old.Files {
			if !touched[p] {
				have = append(have, x.Digest)
			}
		}
	}
	ways := api.LinkForm(o.Links)
	resp, err := c.PublishChanges(cmd.Context(), o.Site,
		api.PublishChanges{Draft: some(draft), Base: &o.Base, Links: &ways, Forms: some(forms), Have: have})
	if err != nil {
		return nil, nil, err
	}
	defer resp.Body.Close()
	if resp.StatusCode != http.StatusOK {
		b, _ := io.ReadAll(io.LimitReader(resp.Body, 1<<20))
		return nil, nil, refusal(rawReply{resp.StatusCode, b})
	}
	var notes []string
	r, err := f.Publish(over, func(out folder.Out) (*folder.Release, error) {
		rel, said, err := fromStream(a.progress(resp.Body, -1, "receiving"), out)
		for _, n := range said {
			notes = append(notes, n.Path+": "+n.Why)
		}
		return rel, err
	})
	return r, notes, err
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

// fromStream puts down the files of a release as they come; those that the service
// left out are there already. It gives nothing without the list at the stream's end.
func fromStream(r io.Reader, out folder.Out) (*folder.Release, []folder.Left, error) {
	t := tar.NewReader(r)
	var rel *folder.Release
	var list []byte
	var notes []folder.Left
	came := map[string]bool{}
	for {
		h, err := t.Next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, nil, fmt.Errorf("receiving the site: %w", err)
		}
		switch h.Name {
		case folder.ReleaseFile:
			if list, err = io.ReadAll(t); err == nil {
				err = json.Unmarshal(list, &rel)
			}
		case folder.NotesEntry:
			err = json.NewDecoder(t).Decode(&notes)
		default:
			came[h.Name] = true
			err = out(h.Name, folder.Published{}, func() (io.ReadCloser, error) { return io.NopCloser(t), nil })
		}
		if err != nil {
			return nil, nil, fmt.Errorf("receiving the site: %w", err)
		}
	}
	if rel == nil {
		return nil, nil, fmt.Errorf("receiving the site: the connection ended before everything had arrived")
	}
	for _, p := range slices.Sorted(maps.Keys(rel.Files)) {
		if came[p] {
			continue
		}
		if err := out(
			p,
			rel.Files[p],
			func() (io.ReadCloser, error) { return nil, fmt.Errorf("the service did not send %s", p) },
		); err != nil {
			return nil, nil, err
		}
	}
	return rel, notes, out(
		folder.ReleaseFile,
		folder.Published{Digest: item.DigestOf(list), Bytes: int64(len(list))},
		func() (io.ReadCloser, error) { return io.NopCloser(bytes.NewReader(list)), nil },
	)
}
