package httpapi

import (
	"net/http"

	"compactparcel/core/steps"
	"compactparcel/internal/api"
	"compactparcel/internal/desk"

	"github.com/gin-gonic/gin"
)

// EditSite does a list of operations in a draft.
func (s *Server) EditSite(c *gin.Context, site string) {
	in, ok := read[api.SiteEdits](s, c)
	if !ok {
		return
	}
	edits := desk.Edits{Site: site, Draft: value(in.Draft), List: in.Operations, Dry: value(in.Dry),
		Done: value(in.Done)}
	if in.Seen != nil {
		seen, err := steps.ParseSeen(*in.Seen)
		if err != nil {
			s.fail(c, desk.BadSeen(site, err))
			return
		}
		edits.Seen = &seen
	}
	got, err := s.Desk.Edit(c.Request.Context(), person(c), edits)
	s.answerEdits(c, site, got, err)
}

// answerEdits answers with what a step did, or would do.
func (s *Server) answerEdits(c *gin.Context, site string, got *desk.EditsDone, err error) {
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.SiteEdited{Says: list(got.Says), Items: []api.EditedItem{}, Touched: list(got.Touched)}
	if got.Draft != nil {
		preview := s.Previews.Draft(site, got.Draft.ID, got.Draft.Token)
		out.Draft, out.Preview = &got.Draft.ID, &preview
	}
	if got.Step > 0 {
		out.Step = &got.Step
	}
	for _, x := range got.Items {
		e := api.EditedItem{Address: x.Head.Address, State: x.Head.State(), After: string(x.After)}
		if x.Gone {
			e.Gone = &x.Gone
		}
		if x.Before != nil {
			before := string(x.Before)
			e.Before = &before
		}
		out.Items = append(out.Items, e)
	}
	c.JSON(http.StatusOK, out)
}
