package httpapi

import (
	"net/http"
	"os"

	"compactparcel/core/capture"
	"compactparcel/core/closure"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/making"
	"compactparcel/internal/api"
	"compactparcel/internal/desk"
	"compactparcel/internal/preview"

	"github.com/gin-gonic/gin"
)

func (s *Server) kitOut(i *desk.KitInfo) api.Kit {
	w := i.Metadata
	out := api.Kit{
		Name:            i.Name,
		Version:         i.Version,
		State:           api.KitState(i.State),
		Title:           w.Title,
		Summary:         w.Summary,
		Changes:         w.Changes,
		Terms:           w.Terms,
		Digest:          i.Digest,
		FileBytes:       i.FileBytes,
		By:              i.ByUser,
		CreatedAt:       i.CreatedAt,
		SealedAt:        i.SealedAt,
		Picks:           list(w.Picks),
		Items:           []api.KitItem{},
		Fillins:         list(i.Packs.Fillins),
		Needs:           list(i.Packs.Needs.Items),
		LeavesOut:       list(i.Packs.LeavesOut),
		Weights:         []capture.Weight{},
		Findings:        list(i.Check),
		Exclusions:      list(w.Exclusions),
		Marks:           list(w.Marks),
		Media:           filled(w.Media),
		Pictures:        []making.Picture{},
		Proposes:        filled(i.Packs.Proposes),
		NeedsKits:       filled(i.Packs.Needs.Kits),
		NeedsComponents: filled(i.Packs.Needs.Components),
		Signers:         signersOut(i.Signers),
	}
	if i.State == desk.Sealed {
		out.Preview = s.Previews.Kit(i.KitVersion.ID)
	} else {
		out.Preview = s.Previews.Making(i.KitVersion.ID)
	}
	out.Face = some(w.Face)
	if i.Packs.Face != w.Face && i.State == desk.Sealed {
		out.Face = some(i.Packs.Face)
	}
	if face, ok := i.Face(); ok {
		out.ShownBy = some(face)
	}
	picked := map[string]bool{}
	for _, p := range w.Picks {
		picked[p.Named().String()] = true
	}
	var reasons map[item.Address][]closure.Reason
	if i.Made != nil {
		reasons = i.Made.Reasons
		out.Weights, out.Pictures = list(i.Made.Weights), list(i.Made.Pictures)
	}
	for _, e := range i.Packs.Items {
		row := api.KitItem{
			Address: e.Address(),
			Bytes:   e.Bytes,
			Path:    e.Path,
			Sha256:  e.SHA256,
			Picked:  picked[e.Address().String()],
			Reasons: list(reasons[e.Address()]),
			Uses:    list(e.Uses),
			Slug:    some(e.Slug),
			Role:    some(e.Role),
		}
		if e.Title != "" {
			row.Title = &e.Title
		}
		if len(e.Variants) > 0 {
			row.Variants = &e.Variants
		}
		for _, t := range e.Place().Where {
			if target, ok := item.ParseTarget(t); ok && target.Word == "records" {
				row.Records = &target.Type
			}
		}
		out.Items = append(out.Items, row)
	}
	return out
}

// filled gives a map that is written as {} when it holds nothing.
func filled[K comparable, V any](m map[K]V) map[K]V {
	if m == nil {
		return map[K]V{}
	}
	return m
}

func (s *Server) answerKit(c *gin.Context, status int, i *desk.KitInfo, err error) {
	if err != nil {
		s.fail(c, err)
		return
	}
	setETag(c, i.Etag)
	c.JSON(status, s.kitOut(i))
}

// ListKits lists all versions of all kits.
func (s *Server) ListKits(c *gin.Context) {
	rows, err := s.Desk.Kits(c.Request.Context(), person(c))
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.KitList{Kits: []api.KitSummary{}}
	for _, r := range rows {
		k := api.KitSummary{
			Name:      r.Name,
			Version:   r.Version,
			State:     api.KitState(r.State),
			Title:     r.Metadata.Title,
			License:   r.Metadata.Terms.License,
			Items:     len(r.Metadata.Picks),
			FileBytes: r.FileBytes,
			Digest:    r.Digest,
			CreatedAt: r.CreatedAt,
			SealedAt:  r.SealedAt,
		}
		if r.Packs != nil {
			k.Items = len(r.Packs.Items)
		}
		if face, ok := r.Face(); ok {
			origin := s.Previews.Making(r.ID)
			if r.State == desk.Sealed {
				origin = s.Previews.Kit(r.ID)
			}
			k.Face = some(origin + preview.Alone(face))
		}
		out.Kits = append(out.Kits, k)
	}
	c.JSON(http.StatusOK, out)
}

// NewKit begins a kit.
func (s *Server) NewKit(c *gin.Context) {
	in, ok := read[api.NewKit](s, c)
	if !ok {
		return
	}
	words := making.Draft{
		Title:   value(in.Title),
		Summary: value(in.Summary),
		Terms:   kit.Terms{License: value(in.License), Credit: value(in.Credit)},
	}
	i, err := s.Desk.NewKit(c.Request.Context(), person(c), in.Name, in.Version, words)
	s.answerKit(c, http.StatusCreated, i, err)
}

// ImportKit takes a file in.
func (s *Server) ImportKit(c *gin.Context, params api.ImportKitParams) {
	in, err := s.Desk.KitUpload(c.Request.Context(), person(c), c.Request.Body, value(params.Name), value(params.As))
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.Intake{What: api.IntakeKind(in.What), Message: in.Message, Report: in.Report, Kits: []api.Kit{}}
	for _, k := range in.Kits {
		out.Kits = append(out.Kits, s.kitOut(k))
	}
	c.JSON(http.StatusCreated, out)
}

// GetKit gives one version.
func (s *Server) GetKit(c *gin.Context, name, version string) {
	i, err := s.Desk.Kit(c.Request.Context(), person(c), name, version)
	s.answerKit(c, http.StatusOK, i, err)
}

// EditKit changes what is said of a kit in the making.
func (s *Server) EditKit(c *gin.Context, name, version string, params api.EditKitParams) {
	in, ok := read[api.KitMetadata](s, c)
	if !ok {
		return
	}
	etag, err := etagNumber(params.IfMatch)
	if err != nil {
		s.fail(c, err)
		return
	}
	var face *item.Address
	if in.Face != nil {
		face = &item.Address{}
		if *in.Face != "" {
			if *face, err = address(*in.Face); err != nil {
				s.fail(c, err)
				return
			}
		}
	}
	i, err := s.Desk.KitDescribe(c.Request.Context(), person(c), name, version, etag, func(w *making.Draft) {
		give(&w.Title, in.Title)
		give(&w.Summary, in.Summary)
		give(&w.Changes, in.Changes)
		give(&w.Terms, in.Terms)
		give(&w.Authors, in.Authors)
		give(&w.Face, face)
		give(&w.Fillins, in.Fillins)
		give(&w.Exclusions, in.Exclusions)
		give(&w.Marks, in.Marks)
		give(&w.Media, in.Media)
		give(&w.Proposes, in.Proposes)
		give(&w.Kits, in.NeedsKits)
		give(&w.Components, in.NeedsComponents)
	})
	s.answerKit(c, http.StatusOK, i, err)
}

// give puts a value in its place when there is one.
func give[T any](to *T, from *T) {
	if from != nil {
		*to = *from
	}
}

// AddToKit puts items into a kit in the making.
func (s *Server) AddToKit(c *gin.Context, name, version string) {
	in, ok := read[api.Picks](s, c)
	if !ok {
		return
	}
	var i *desk.KitInfo
	var err error
	if site := value(in.PlacedParts); site != "" {
		i, err = s.Desk.KitPutPlaced(c.Request.Context(), person(c), name, version, site)
	} else if from := value(in.Styles); from != "" {
		i, err = s.Desk.KitPutStyles(c.Request.Context(), person(c), name, version, from)
	} else {
		i, err = s.Desk.KitAdd(c.Request.Context(), person(c), name, version, value(in.Picks))
	}
	s.answerKit(c, http.StatusOK, i, err)
}

// ExcludeFromKit takes an item out of a kit in the making.
func (s *Server) ExcludeFromKit(c *gin.Context, name, version string, params api.ExcludeFromKitParams) {
	a, err := address(params.Address)
	if err != nil {
		s.fail(c, err)
		return
	}
	i, err := s.Desk.KitExclude(c.Request.Context(), person(c), name, version, a, value(params.Optional))
	s.answerKit(c, http.StatusOK, i, err)
}

// SealKit makes a version final.
func (s *Server) SealKit(c *gin.Context, name, version string, params api.SealKitParams) {
	etag, err := etagNumber(params.IfMatch)
	if err != nil {
		s.fail(c, err)
		return
	}
	i, err := s.Desk.KitSeal(c.Request.Context(), person(c), name, version, etag, value(params.Because))
	s.answerKit(c, http.StatusOK, i, err)
}

// GetNextVersion says which version number a kit's changes ask for.
func (s *Server) GetNextVersion(c *gin.Context, name, version string) {
	a, err := s.Desk.KitNextVersion(c.Request.Context(), person(c), name, version)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, a)
}

// ResolveKit says which other kits must be there with a kit on a site.
func (s *Server) ResolveKit(c *gin.Context, name, version string, params api.ResolveKitParams) {
	choice, err := s.Desk.KitResolve(c.Request.Context(), person(c), name, version, params.Site)
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.KitResolution{Fits: choice.Fits, Kits: []api.ResolvedKit{}, Unmet: choice.Unmet, Chain: choice.Chain}
	for _, k := range choice.Kits {
		out.Kits = append(out.Kits, api.ResolvedKit{Kit: k.Kit, Version: k.Version, Here: k.Here})
	}
	c.JSON(http.StatusOK, out)
}

// GetKitPieces gives a ZIP with one kit for each piece.
func (s *Server) GetKitPieces(c *gin.Context, name, version string) {
	err := s.Desk.KitPieces(c.Request.Context(), person(c), name, version, func(f *os.File) error {
		s.sendFile(c, f, "application/zip", name+"-"+version+"-pieces.zip")
		return nil
	})
	if err != nil {
		s.fail(c, err)
	}
}

// GetKitFile gives the .cpkit file.
func (s *Server) GetKitFile(c *gin.Context, name, version string) {
	f, v, err := s.Desk.KitFile(c.Request.Context(), person(c), name, version)
	if err != nil {
		s.fail(c, err)
		return
	}
	defer f.Close()
	setETag(c, v.File)
	s.sendFile(c, f, kit.MediaType, name+"-"+version+".cpkit")
}

// GetKitItem gives one item of a sealed kit.
func (s *Server) GetKitItem(c *gin.Context, name, version string, params api.GetKitItemParams) {
	a, err := address(params.Address)
	if err != nil {
		s.fail(c, err)
		return
	}
	i, err := s.Desk.KitItem(c.Request.Context(), person(c), name, version, a)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, detailOut(i))
}
