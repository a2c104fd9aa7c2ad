package httpapi

import (
	"image"

	"compactparcel/internal/api"

	"github.com/gin-gonic/gin"
)

// CropMedia leaves an area of a picture.
func (s *Server) CropMedia(c *gin.Context, site string) {
	in, ok := read[api.CropMedia](s, c)
	if !ok {
		return
	}
	left, top := value(in.Left), value(in.Top)
	got, err := s.Desk.CropMedia(c.Request.Context(), person(c), site, value(in.Draft), in.Media,
		image.Rectangle{Min: image.Pt(left, top), Max: image.Pt(left+in.Width, top+in.Height)}, value(in.Copy))
	s.answerEdits(c, site, got, err)
}
