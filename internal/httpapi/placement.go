package httpapi

import (
	"net/http"

	"compactparcel/core/render"
	"compactparcel/internal/api"

	"github.com/gin-gonic/gin"
)

// GetPlacement tells where a part appears, and what another placement would change.
func (s *Server) GetPlacement(c *gin.Context, site string, params api.GetPlacementParams) {
	part, err := address(params.Part)
	if err != nil {
		s.fail(c, err)
		return
	}
	got, err := s.Desk.PartPages(c.Request.Context(), person(c), site, part, value(params.Draft), params.Where)
	if err != nil {
		s.fail(c, err)
		return
	}
	each := func(in []render.PlacedPage) []api.PlacedPage {
		out := []api.PlacedPage{}
		for _, a := range in {
			x := api.PlacedPage{Path: a.Slug, Title: some(a.Title), Why: a.Why}
			if len(a.Ties) > 0 {
				x.Ties = &a.Ties
			}
			if !a.Part.IsZero() {
				x.Part, x.PartTitle = &a.Part, some(got.Titles[a.Part])
			}
			out = append(out, x)
		}
		return out
	}
	place := got.Part.Meta.Place()
	c.JSON(http.StatusOK, api.PartPlacement{Part: got.Part.Address, Title: some(got.Part.Meta.Title),
		Role: got.Part.Meta.Role, Where: list(place.Where), Unless: list(place.Unless), Off: got.Part.Meta.Off,
		Pages: each(got.Pages), Gains: each(got.Gains), Losses: each(got.Losses)})
}
