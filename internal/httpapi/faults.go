package httpapi

import (
	"net/http"

	"compactparcel/core/faults"
	"compactparcel/internal/api"

	"github.com/gin-gonic/gin"
)

// GetSiteFaults lists the faults of a site or a draft.
func (s *Server) GetSiteFaults(c *gin.Context, site string, params api.GetSiteFaultsParams) {
	found, err := s.Desk.SiteFaults(c.Request.Context(), person(c), site, value(params.Draft))
	if err != nil || !value(params.Widths) {
		s.answerFaults(c, found, nil, err)
		return
	}
	more, look, err := s.widthFaults(c.Request.Context(), person(c), site, value(params.Draft))
	s.answerFaults(c, faults.Merge(found, more), look, err)
}

// GetKitFaults lists the faults of a kit.
func (s *Server) GetKitFaults(c *gin.Context, name, version string) {
	found, err := s.Desk.KitFaults(c.Request.Context(), person(c), name, version)
	s.answerFaults(c, found, nil, err)
}

func (s *Server) answerFaults(c *gin.Context, found []faults.Fault, look *api.WidthLook, err error) {
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.FaultList{Faults: list(found), Widths: look}
	for _, f := range found {
		if f.Grave {
			out.Grave++
		}
	}
	c.JSON(http.StatusOK, out)
}
