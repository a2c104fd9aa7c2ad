package httpapi

import (
	"net/http"

	"compactparcel/core/item"
	"compactparcel/core/plan"
	"compactparcel/internal/api"
	"compactparcel/internal/desk"

	"github.com/gin-gonic/gin"
)

// CompareRevisions lists what differs between two revisions.
func (s *Server) CompareRevisions(c *gin.Context, site string, params api.CompareRevisionsParams) {
	list, touched, err := s.Desk.Compare(c.Request.Context(), person(c), site, params.From, value(params.To))
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.RevisionDifferenceList{Differences: []api.RevisionDifference{}, Touched: touched}
	for _, x := range list {
		out.Differences = append(out.Differences,
			api.RevisionDifference{Before: some(x.Before), After: some(x.After)})
	}
	c.JSON(http.StatusOK, out)
}

// BringBack makes items as a revision had them, in a draft.
func (s *Server) BringBack(c *gin.Context, site string) {
	in, ok := read[api.BringBack](s, c)
	if !ok {
		return
	}
	decided := map[string]plan.Decision{}
	for key, word := range value(in.Decisions) {
		decided[key] = plan.Decision(word)
	}
	got, err := s.Desk.BringBack(c.Request.Context(), person(c), desk.BringBack{Site: site, Revision: in.Revision,
		Since: value(in.Since), Items: value(in.Items), Draft: value(in.Draft), Decisions: decided})
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.BroughtBack{Draft: got.Draft.ID, Preview: s.Previews.Draft(site, got.Draft.ID, got.Draft.Token),
		Items: []item.Address{}}
	if got.Step > 0 {
		out.Step = &got.Step
	}
	for _, x := range got.Items {
		out.Items = append(out.Items, x.Head.Address)
	}
	c.JSON(http.StatusOK, out)
}
