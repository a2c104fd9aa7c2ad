package httpapi

import (
	"net/http"

	"compactparcel/internal/api"

	"github.com/gin-gonic/gin"
)

// ListMedia lists media of a site.
func (s *Server) ListMedia(c *gin.Context, site string, params api.ListMediaParams) {
	got, err := s.Desk.Media(c.Request.Context(), person(c), site, value(params.Draft), value(params.Words))
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.MediaList{Media: []api.SiteMedia{}}
	for _, m := range got {
		x := api.SiteMedia{Item: itemOut(m.Head), UsedBy: list(m.UsedBy)}
		if m.Size.Width > 0 {
			x.Width, x.Height = &m.Size.Width, &m.Size.Height
		}
		out.Media = append(out.Media, x)
	}
	c.JSON(http.StatusOK, out)
}

// SizeMedia makes a picture in sizes.
func (s *Server) SizeMedia(c *gin.Context, site string) {
	in, ok := read[api.SizeMedia](s, c)
	if !ok {
		return
	}
	got, err := s.Desk.MediaSizes(c.Request.Context(), person(c), site, value(in.Draft), in.Media, value(in.Widths))
	s.answerEdits(c, site, got, err)
}

// SetIcon makes the site's icon.
func (s *Server) SetIcon(c *gin.Context, site string, params api.SetIconParams) {
	got, err := s.Desk.SiteIcon(c.Request.Context(), person(c), site, value(params.Draft), c.Request.Body)
	s.answerEdits(c, site, got, err)
}
