package httpapi

import (
	"net/http"

	"compactparcel/internal/api"

	"github.com/gin-gonic/gin"
)

// ListMediaTexts lists the alternative texts of a picture.
func (s *Server) ListMediaTexts(c *gin.Context, site string, params api.ListMediaTextsParams) {
	a, err := address(params.Media)
	if err != nil {
		s.fail(c, err)
		return
	}
	got, err := s.Desk.MediaTexts(c.Request.Context(), person(c), site, value(params.Draft), a)
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.MediaTextList{Texts: []api.MediaText{}}
	for _, x := range got {
		out.Texts = append(out.Texts, api.MediaText{Text: x.Text, Missing: some(x.Missing), Items: list(x.Items)})
	}
	c.JSON(http.StatusOK, out)
}

// WriteMediaText writes the alternative text of a picture.
func (s *Server) WriteMediaText(c *gin.Context, site string) {
	in, ok := read[api.WriteMediaText](s, c)
	if !ok {
		return
	}
	got, err := s.Desk.WriteMediaText(c.Request.Context(), person(c), site, value(in.Draft), in.Media, in.Was,
		in.Text)
	s.answerEdits(c, site, got, err)
}
