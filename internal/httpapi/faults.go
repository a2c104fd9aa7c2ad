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
	s.answerFaults(c, found, err)
}

// GetKitFaults lists the faults of a kit.
func (s *Server) GetKitFaults(c *gin.Context, name, version string) {
	found, err := s.Desk.KitFaults(c.Request.Context(), person(c), name, version)
	s.answerFaults(c, found, err)
}

func (s *Server) answerFaults(c *gin.Context, found []faults.Fault, err error) {
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.FaultList{Faults: list(found)}
	for _, f := range found {
		if f.Grave {
			out.Grave++
		}
	}
	c.JSON(http.StatusOK, out)
}
