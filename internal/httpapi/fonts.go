package httpapi

import (
	"net/http"

	"compactparcel/internal/api"

	"github.com/gin-gonic/gin"
)

// ListFonts lists the fonts of a site, and those that could come.
func (s *Server) ListFonts(c *gin.Context, site string, params api.ListFontsParams) {
	got, err := s.Desk.Fonts(c.Request.Context(), person(c), site, value(params.Draft))
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.FontList{Sources: []api.FontSource{}}
	for _, x := range got {
		source := api.FontSource{From: some(x.From), Families: []api.FontFamily{}, Chosen: []api.FontChoice{}}
		for _, f := range x.Families {
			family := api.FontFamily{Name: f.Name, Faces: []api.FontFace{}}
			for _, face := range f.Faces {
				one := api.FontFace{Weight: face.Weight, Italic: some(face.Italic)}
				if len(face.Files) > 0 {
					one.Files = &face.Files
				}
				family.Faces = append(family.Faces, one)
			}
			source.Families = append(source.Families, family)
		}
		for _, t := range x.Chosen {
			source.Chosen = append(source.Chosen, api.FontChoice{Token: t.Path, Value: t.CSS})
		}
		out.Sources = append(out.Sources, source)
	}
	c.JSON(http.StatusOK, out)
}

// TakeFont brings a family, or a pair, into a draft.
func (s *Server) TakeFont(c *gin.Context, site string) {
	in, ok := read[api.TakeFont](s, c)
	if !ok {
		return
	}
	got, err := s.Desk.TakeFont(c.Request.Context(), person(c), site, value(in.Draft), value(in.From),
		value(in.Family), value(in.Token), value(in.Pair))
	s.answerEdits(c, site, got, err)
}

// AddFont lays a font file into a draft.
func (s *Server) AddFont(c *gin.Context, site string, params api.AddFontParams) {
	got, err := s.Desk.AddFont(c.Request.Context(), person(c), site, value(params.Draft), params.Name,
		value(params.Token), c.Request.Body)
	s.answerEdits(c, site, got, err)
}
