package httpapi

import (
	"net/http"
	"os"

	"compactparcel/core/item"
	"compactparcel/core/plan"
	"compactparcel/core/render"
	"compactparcel/internal/api"
	"compactparcel/internal/desk"

	"github.com/gin-gonic/gin"
)

func (s *Server) siteOut(p desk.Person, i desk.SiteInfo) api.Site {
	return api.Site{
		Name:       i.Name,
		Title:      i.Title,
		Revision:   i.Revision,
		Digest:     i.Digest,
		Pages:      i.Pages,
		Items:      i.Items,
		OpenDrafts: i.OpenDrafts,
		CreatedAt:  i.CreatedAt,
		Preview:    s.Previews.Site(i.Name),
		Editing:    s.Previews.Editing(i.Name, 0, p.SignedIn()),
	}
}

func itemOut(h item.Head) api.Item {
	return api.Item{
		Address:          h.Address,
		Meta:             h.Meta,
		Sha256:           h.Doc,
		NormalizedDigest: h.NormalizedDigest,
		Bytes:            h.Bytes,
		State:            h.State(),
		Id:               &h.ID,
	}
}

func detailOut(i *desk.ItemInfo) api.ItemDetail {
	out := api.ItemDetail{Item: itemOut(i.Head), Uses: list(i.Uses), UsedBy: list(i.UsedBy)}
	if i.Content != nil {
		text := string(i.Content)
		out.Content = &text
	}
	if i.Origin != nil {
		out.Origin = &api.OriginNote{
			Kit:      i.Origin.Kit,
			Version:  i.Origin.Version,
			Address:  item.Address{Kind: i.Origin.KitKind, Key: i.Origin.KitKey}.String(),
			Delivery: i.Origin.DeliveryID,
		}
	}
	return out
}

func itemsOut(heads []item.Head) []api.Item {
	out := make([]api.Item, len(heads))
	for i, h := range heads {
		out[i] = itemOut(h)
	}
	return out
}

// ListSites lists the sites.
func (s *Server) ListSites(c *gin.Context) {
	rows, err := s.Desk.Sites(c.Request.Context(), person(c))
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.SiteList{Sites: []api.Site{}}
	for _, r := range rows {
		out.Sites = append(out.Sites, s.siteOut(person(c), r))
	}
	c.JSON(http.StatusOK, out)
}

// NewSite makes a site, empty or as a copy of another.
func (s *Server) NewSite(c *gin.Context) {
	in, ok := read[api.NewSite](s, c)
	if !ok {
		return
	}
	decided, err := decisions(value(in.Decisions), nil)
	if err != nil {
		s.fail(c, err)
		return
	}
	i, err := s.Desk.NewSite(c.Request.Context(), person(c), desk.NewSite{Name: in.Name, Title: value(in.Title),
		CopyOf: value(in.CopyOf), Kit: value(in.Kit), Version: value(in.Version),
		Answers: plan.Request{Policy: value(in.Policy), Decisions: decided, Fills: value(in.Fills),
			Seats: value(in.Seats), Pages: value(in.Pages)}})
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusCreated, s.siteOut(person(c), *i))
}

// GetSite gives one site.
func (s *Server) GetSite(c *gin.Context, site string) {
	i, err := s.Desk.Site(c.Request.Context(), person(c), site)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, s.siteOut(person(c), *i))
}

// AdoptSite makes a site from a zipped folder.
func (s *Server) AdoptSite(c *gin.Context, site string, params api.AdoptSiteParams) {
	err := s.spool(c, func(f *os.File, size int64) error {
		folder, err := desk.ZipFolder(f, size)
		if err != nil {
			return err
		}
		got, err := s.Desk.Adopt(c.Request.Context(), person(c), site, folder, desk.Parts(value(params.Parts)))
		if err != nil {
			return err
		}
		c.JSON(
			http.StatusCreated,
			api.Adopted{
				Site:      s.siteOut(person(c), *got.Site),
				Report:    *got.Report,
				Took:      list(got.Took),
				Proposals: list(got.Proposals),
				Notes:     list(got.Notes),
			},
		)
		return nil
	})
	if err != nil {
		s.fail(c, err)
	}
}

// ListItems lists a site's items.
func (s *Server) ListItems(c *gin.Context, site string, params api.ListItemsParams) {
	v, err := s.Desk.Look(c.Request.Context(), person(c), site, value(params.Draft))
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.ItemList{
		Items:    itemsOut(v.Heads()),
		Revision: v.Rev,
		Digest:   v.Digest(),
		Preview:  s.Previews.Site(site),
	}
	if site == desk.LibraryName {
		out.Preview = s.Previews.Library()
	}
	draft := int64(0)
	if v.Draft != nil {
		draft = v.Draft.ID
		out.Preview = s.Previews.Draft(site, v.Draft.ID, v.Draft.Token)
	}
	if site != desk.LibraryName {
		editing := s.Previews.Editing(site, draft, person(c).SignedIn())
		out.Editing = &editing
		home, named, err := render.HomeOf(v)
		if err != nil {
			s.fail(c, err)
			return
		}
		if at, ok := v.PageAt("/"); named {
			out.Home = &home.Address
		} else if ok {
			out.Home = &at
		}
	}
	c.JSON(http.StatusOK, out)
}

// GetItem gives one item.
func (s *Server) GetItem(c *gin.Context, site string, params api.GetItemParams) {
	a, err := address(params.Address)
	if err != nil {
		s.fail(c, err)
		return
	}
	if params.Revision != nil && params.Draft != nil {
		s.fail(c, &desk.Problem{Type: desk.BadInput, What: params.Address, Remedy: desk.To(desk.SeeInterface),
			Message: "name a draft or a revision, not both"})
		return
	}
	var i *desk.ItemInfo
	if params.Revision != nil {
		i, err = s.Desk.ItemAt(c.Request.Context(), person(c), site, a, *params.Revision)
	} else {
		i, err = s.Desk.Item(c.Request.Context(), person(c), site, a, value(params.Draft))
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	setETag(c, i.Head.State())
	c.JSON(http.StatusOK, detailOut(i))
}

func (s *Server) edited(c *gin.Context, e desk.Edit) {
	got, err := s.Desk.EditItem(c.Request.Context(), person(c), e)
	if err != nil {
		s.fail(c, err)
		return
	}
	setETag(c, got.State)
	c.JSON(http.StatusOK, api.Edited{
		Draft:   got.Draft.ID,
		State:   got.State,
		Preview: s.Previews.Draft(e.Site, got.Draft.ID, got.Draft.Token),
		Along:   list(got.Along),
		Behind:  list(got.Behind),
	})
}

// EditItem lays a change of an item into a draft.
func (s *Server) EditItem(c *gin.Context, site string, params api.EditItemParams) {
	in, ok := read[api.EditItem](s, c)
	if !ok {
		return
	}
	a, err := address(params.Address)
	if err != nil {
		s.fail(c, err)
		return
	}
	e := desk.Edit{
		Site:    site,
		Draft:   value(params.Draft),
		Address: a,
		Meta:    in.Meta,
		IfMatch: etagDigest(params.IfMatch),
	}
	if in.Content != nil {
		e.Content = []byte(*in.Content)
	}
	s.edited(c, e)
}

// EditMedia lays a file into a draft.
func (s *Server) EditMedia(c *gin.Context, site string, params api.EditMediaParams) {
	a, err := address(params.Address)
	if err == nil && a.Kind != item.Media {
		err = &desk.Problem{
			Type:    desk.BadInput,
			What:    params.Address,
			Message: "only media are sent as files",
			Remedy:  desk.To(desk.SeeInterface),
		}
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	s.edited(
		c,
		desk.Edit{
			Site:    site,
			Draft:   value(params.Draft),
			Address: a,
			File:    c.Request.Body,
			IfMatch: etagDigest(params.IfMatch),
		},
	)
}

// DeleteItem lays the deletion of an item into a draft.
func (s *Server) DeleteItem(c *gin.Context, site string, params api.DeleteItemParams) {
	a, err := address(params.Address)
	if err != nil {
		s.fail(c, err)
		return
	}
	s.edited(
		c,
		desk.Edit{
			Site:    site,
			Draft:   value(params.Draft),
			Address: a,
			Delete:  true,
			IfMatch: etagDigest(params.IfMatch),
		},
	)
}

// GetSurround tells which parts surround a page.
func (s *Server) GetSurround(c *gin.Context, site string, params api.GetSurroundParams) {
	parts, err := s.Desk.Surround(c.Request.Context(), person(c), site, params.Path, value(params.Draft))
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, api.Surround{Path: params.Path, Parts: list(parts)})
}

// GetOutline lists the elements of a page.
func (s *Server) GetOutline(c *gin.Context, site string, params api.GetOutlineParams) {
	got, err := s.Desk.Outline(c.Request.Context(), person(c), site, params.Path, value(params.Draft))
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.PageOutline{
		Path:     params.Path,
		Digest:   got.Digest,
		Step:     got.Seen.Step,
		Seen:     got.Seen.String(),
		Elements: got.Elements,
		Items:    []api.OutlineItem{},
	}
	if !got.Of.IsZero() {
		out.Page = &got.Of
	}
	for _, i := range got.Items {
		out.Items = append(out.Items, api.OutlineItem{Address: i.Head.Address, Title: i.Head.Meta.Title,
			Role: some(string(i.Head.Meta.Role)), Pages: i.Pages})
	}
	c.JSON(http.StatusOK, out)
}

// GetPageSource says where a place of a page comes from.
func (s *Server) GetPageSource(c *gin.Context, site string, params api.GetPageSourceParams) {
	found, err := s.Desk.PageSource(c.Request.Context(), person(c), site, desk.SourceAsk{Slug: params.Path,
		Draft: value(params.Draft), Line: value(params.Line), Element: value(params.Element)})
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.PageSource{Path: params.Path, Places: []api.SourcePlace{}}
	for _, x := range found {
		p := api.SourcePlace{Text: x.Text, Line: x.Line, Kind: x.Kind, Field: some(x.Field), Reason: some(x.Reason)}
		if !x.Item.IsZero() {
			p.Address, p.SourceLine, p.Pages, p.Through = &x.Item, &x.SourceLine, &x.Pages, &x.Through
		}
		if len(x.Inputs) > 0 {
			p.Inputs = &x.Inputs
		}
		out.Places = append(out.Places, p)
	}
	c.JSON(http.StatusOK, out)
}

// ListRevisions gives a site's history.
func (s *Server) ListRevisions(c *gin.Context, site string, params api.ListRevisionsParams) {
	rows, err := s.Desk.History(c.Request.Context(), person(c), site, value(params.Before))
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.RevisionList{Revisions: []api.Revision{}}
	for _, r := range rows {
		out.Revisions = append(
			out.Revisions,
			api.Revision{
				Revision: r.Rev,
				At:       r.At,
				By:       r.ByUser,
				Act:      api.Act(r.Act),
				Message:  r.Message,
				Digest:   r.Digest,
				Changed:  r.Changed,
				Delivery: r.DeliveryID,
				Preview:  s.Previews.Revision(site, r.Rev),
			},
		)
	}
	c.JSON(http.StatusOK, out)
}

// GoLive puts a draft live.
func (s *Server) GoLive(c *gin.Context, site string, id int64) {
	got, err := s.Desk.GoLive(c.Request.Context(), person(c), site, id)
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.GoLiveResponse{Revision: got.Revision, Digest: got.Digest, Unshown: []api.UnshownPage{}}
	for _, u := range got.Unshown {
		out.Unshown = append(out.Unshown, api.UnshownPage{Path: u.Slug, Message: u.Message})
	}
	c.JSON(http.StatusOK, out)
}

// ListLibrary lists the library.
func (s *Server) ListLibrary(c *gin.Context, params api.ListLibraryParams) {
	heads, v, err := s.Desk.Library(c.Request.Context(), person(c),
		desk.LibraryQuery{Words: value(params.Q), Kind: value(params.Kind)})
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(
		http.StatusOK,
		api.ItemList{
			Items:    itemsOut(heads),
			Revision: v.Rev,
			Digest:   v.Collection.Digest,
			Preview:  s.Previews.Library(),
		},
	)
}

// AddToLibrary saves items into the library.
func (s *Server) AddToLibrary(c *gin.Context) {
	in, ok := read[api.AddToLibrary](s, c)
	if !ok {
		return
	}
	saved, err := s.Desk.LibraryAdd(c.Request.Context(), person(c), in.From, in.Addresses)
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.Saved{Added: list(saved.Added), Had: list(saved.Had), Moved: []api.Rename{}}
	for from, to := range saved.Moved {
		out.Moved = append(out.Moved, api.Rename{From: from, To: to})
	}
	c.JSON(http.StatusOK, out)
}
