package httpapi

import (
	"bufio"
	"fmt"
	"net/http"
	"os"

	"compactparcel/core/item"
	"compactparcel/core/outside"
	"compactparcel/internal/api"
	"compactparcel/internal/desk"
	"compactparcel/internal/store"

	"github.com/gin-gonic/gin"
)

// PublishSite gives the complete static site as a zip.
func (s *Server) PublishSite(c *gin.Context, site string, params api.PublishSiteParams) {
	in := desk.Publication{
		Site:  site,
		Draft: value(params.Draft),
		Base:  value(params.Base),
		Links: string(value(params.Links)),
		Forms: value(params.Forms),
	}
	err := s.Desk.Scratch.With(func(f *os.File) error {
		w := bufio.NewWriterSize(f, 1<<18)
		if _, _, err := s.Desk.PublishZip(c.Request.Context(), person(c), in, w); err != nil {
			return err
		}
		if err := w.Flush(); err != nil {
			return desk.Explain("site "+site, err)
		}
		s.sendFile(c, f, "application/zip", site+".zip")
		return nil
	})
	if err != nil {
		s.fail(c, err)
	}
}

// PublishChanges streams the site without what the receiver has. When something fails
// behind the first bytes, the stream breaks off, and the receiver misses its list.
func (s *Server) PublishChanges(c *gin.Context, site string) {
	in, ok := read[api.PublishChanges](s, c)
	if !ok {
		return
	}
	p := desk.Publication{
		Site:  site,
		Draft: value(in.Draft),
		Base:  value(in.Base),
		Links: string(value(in.Links)),
		Forms: value(in.Forms),
		Have:  map[item.Digest]bool{},
	}
	for _, d := range in.Have {
		p.Have[d] = true
	}
	c.Header("Content-Type", "application/x-tar")
	w := bufio.NewWriterSize(c.Writer, 1<<18)
	err := s.Desk.PublishStream(c.Request.Context(), person(c), p, w)
	if err == nil {
		err = w.Flush()
	}
	switch {
	case err == nil:
	case c.Writer.Written():
		s.Log.Error("publishing broke off", "site", site, "error", err)
		panic(http.ErrAbortHandler)
	default:
		c.Writer.Header().Del("Content-Type")
		s.fail(c, err)
	}
}

func (s *Server) sendFile(c *gin.Context, f *os.File, mediaType, name string) {
	info, err := f.Stat()
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Content-Type", mediaType)
	c.Header("Content-Disposition", fmt.Sprintf("attachment; filename=%q", name))
	http.ServeContent(c.Writer, c.Request, "", info.ModTime(), f)
}

func outletOut(o store.Outlet, live item.Digest) api.Outlet {
	out := api.Outlet{
		Name:        o.Name,
		Folder:      o.Folder,
		Base:        o.Base,
		Links:       api.LinkForm(o.Links),
		Forms:       some(o.Forms),
		Release:     o.ReleaseNumber,
		PublishedAt: o.PublishedAt,
		Message:     o.Message,
		Behind:      o.Message != "" || o.SiteDigest != live,
	}
	if o.Attempts > 0 {
		out.Attempts, out.TryAt = &o.Attempts, o.TryAt
	}
	return out
}

// outlets gives a function that shows outlets of a site as it is now.
func (s *Server) outlets(c *gin.Context, site string) (func(store.Outlet) api.Outlet, error) {
	i, err := s.Desk.Site(c.Request.Context(), person(c), site)
	if err != nil {
		return nil, err
	}
	return func(o store.Outlet) api.Outlet { return outletOut(o, i.Digest) }, nil
}

// ListOutlets lists where a site is published by itself.
func (s *Server) ListOutlets(c *gin.Context, site string) {
	rows, err := s.Desk.Outlets(c.Request.Context(), person(c), site)
	if err != nil {
		s.fail(c, err)
		return
	}
	show, err := s.outlets(c, site)
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.OutletList{Outlets: []api.Outlet{}}
	for _, r := range rows {
		out.Outlets = append(out.Outlets, show(r))
	}
	c.JSON(http.StatusOK, out)
}

// AddOutlet adds an outlet.
func (s *Server) AddOutlet(c *gin.Context, site, outlet string) {
	in, ok := read[api.NewOutlet](s, c)
	if !ok {
		return
	}
	o, err := s.Desk.AddOutlet(c.Request.Context(), person(c), site,
		desk.NewOutlet{Name: outlet, Folder: value(in.Folder), Base: value(in.Base), Links: string(value(in.Links)),
			Forms: value(in.Forms)})
	if err != nil {
		s.fail(c, err)
		return
	}
	show, err := s.outlets(c, site)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusCreated, show(*o))
}

// PublishOutlet publishes into an outlet now.
func (s *Server) PublishOutlet(c *gin.Context, site, outlet string) {
	in, ok := read[api.PublishOutlet](s, c)
	if !ok {
		return
	}
	o, r, err := s.Desk.PublishOutlet(c.Request.Context(), person(c), site, outlet, value(in.Over), value(in.Back))
	if err != nil {
		s.fail(c, err)
		return
	}
	show, err := s.outlets(c, site)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(
		http.StatusOK,
		api.OutletPublished{
			Outlet:  show(*o),
			Number:  r.Number,
			Files:   r.Files,
			Written: r.Written,
			Removed: r.Removed,
			Same:    r.Same,
		},
	)
}

// RemoveOutlet forgets an outlet.
func (s *Server) RemoveOutlet(c *gin.Context, site, outlet string) {
	if err := s.Desk.RemoveOutlet(c.Request.Context(), person(c), site, outlet); err != nil {
		s.fail(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}

// AdoptAgain compares a folder with its site.
func (s *Server) AdoptAgain(c *gin.Context, site string, params api.AdoptAgainParams) {
	err := s.spool(c, func(f *os.File, size int64) error {
		fsys, err := desk.ZipFolder(f, size)
		if err != nil {
			return err
		}
		got, err := s.Desk.AdoptAgain(c.Request.Context(), person(c), site, fsys, value(params.Shared))
		if err != nil {
			return err
		}
		out := api.AdoptedAgain{Changes: []api.FolderChange{}, Edits: []api.OutsideEdit{}}
		for _, l := range got.Edits {
			out.Edits = append(out.Edits, outsideEdit(l))
		}
		for _, x := range got.Changes {
			change := api.FolderChange{Path: x.Path, What: api.FileChangeKind(x.What), Message: some(x.Says)}
			if !x.Address.IsZero() {
				change.Address = &x.Address
			}
			out.Changes = append(out.Changes, change)
		}
		if got.Draft != nil {
			preview := s.Previews.Draft(site, got.Draft.ID, got.Draft.Token)
			out.Draft, out.Preview = &got.Draft.ID, &preview
		}
		c.JSON(http.StatusOK, out)
		return nil
	})
	if err != nil {
		s.fail(c, err)
	}
}

func outsideEdit(l outside.Line) api.OutsideEdit {
	out := api.OutsideEdit{Path: l.Path, State: l.State, Before: some(l.Before), After: some(l.After),
		Message: some(l.Why)}
	if l.Line > 0 {
		out.Line, out.EndLine = &l.Line, &l.End
	}
	if !l.Item.IsZero() {
		out.Address = &l.Item
	}
	return out
}

// ListProposals says what repeats on a site.
func (s *Server) ListProposals(c *gin.Context, site string, params api.ListProposalsParams) {
	found, err := s.Desk.Proposals(c.Request.Context(), person(c), site, value(params.Draft))
	if err != nil {
		s.fail(c, err)
		return
	}
	copies, err := s.Desk.Copies(c.Request.Context(), person(c), site, value(params.Draft))
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.ProposalList{Proposals: list(found)}
	if len(copies) > 0 {
		out.Copies = &copies
	}
	c.JSON(http.StatusOK, out)
}

// AcceptProposals puts accepted proposals into a draft.
func (s *Server) AcceptProposals(c *gin.Context, site string) {
	in, ok := read[api.AcceptProposals](s, c)
	if !ok {
		return
	}
	took, err := s.Desk.AcceptProposals(c.Request.Context(), person(c), site, value(in.Draft), value(in.Accept),
		value(in.Sure))
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.AcceptedProposals{Took: list(took.Took), Notes: list(took.Notes), Items: took.Items}
	if took.Draft != nil {
		preview := s.Previews.Draft(site, took.Draft.ID, took.Draft.Token)
		out.Draft, out.Preview = &took.Draft.ID, &preview
	}
	c.JSON(http.StatusOK, out)
}
