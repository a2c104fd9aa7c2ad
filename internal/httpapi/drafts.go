package httpapi

import (
	"net/http"
	"time"

	"compactparcel/core/item"
	"compactparcel/internal/api"
	"compactparcel/internal/desk"
	"compactparcel/internal/store"

	"github.com/gin-gonic/gin"
)

func (s *Server) draftOut(p desk.Person, site string, d store.Draft) api.Draft {
	return api.Draft{
		LiveAt:       d.LiveAt,
		LiveFor:      some(d.LiveFor),
		LiveSays:     some(d.LiveSays),
		Id:           d.ID,
		Name:         d.Name,
		State:        api.DraftState(d.State),
		BaseRevision: d.BaseRev,
		By:           d.ByUser,
		CreatedAt:    d.CreatedAt,
		Preview:      s.Previews.Draft(site, d.ID, d.Token),
		Editing:      s.Previews.Editing(site, d.ID, p.SignedIn()),
	}
}

// ListDrafts lists a site's open drafts.
func (s *Server) ListDrafts(c *gin.Context, site string) {
	rows, err := s.Desk.Drafts(c.Request.Context(), person(c), site)
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.DraftList{Drafts: []api.Draft{}}
	for _, d := range rows.List {
		one := s.draftOut(person(c), site, d)
		if of, ok := rows.Deliveries[d.ID]; ok {
			one.Delivery = &of
		}
		out.Drafts = append(out.Drafts, one)
	}
	c.JSON(http.StatusOK, out)
}

// GetDraft gives a draft with what differs from live.
func (s *Server) GetDraft(c *gin.Context, site string, id int64) {
	info, err := s.Desk.DraftShown(c.Request.Context(), person(c), site, id)
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.DraftDetail{Draft: s.draftOut(person(c), site, info.Draft), Changes: []api.DraftChange{},
		Behind:  list(info.Behind),
		Ended:   []api.EndedAddress{},
		CanUndo: info.CanUndo, CanRedo: info.CanRedo}
	for _, ch := range info.Changes {
		out.Changes = append(out.Changes, api.DraftChange{Address: ch.Address, Was: some(ch.Was), Gone: ch.Gone})
	}
	for _, x := range info.Ended {
		out.Ended = append(out.Ended, api.EndedAddress{Path: x.Path, LinkedFrom: list(x.LinkedFrom)})
	}
	c.JSON(http.StatusOK, out)
}

// RenameDraft gives a draft another name.
func (s *Server) RenameDraft(c *gin.Context, site string, id int64) {
	in, ok := read[api.RenameDraft](s, c)
	if !ok {
		return
	}
	d, err := s.Desk.RenameDraft(c.Request.Context(), person(c), site, id, in.Name)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, s.draftOut(person(c), site, *d))
}

// TimeDraft says when a draft goes live by itself.
func (s *Server) TimeDraft(c *gin.Context, site string, id int64) {
	in, ok := read[api.DraftTime](s, c)
	if !ok {
		return
	}
	s.timed(c, site, id, &in.At)
}

// UntimeDraft takes the time back.
func (s *Server) UntimeDraft(c *gin.Context, site string, id int64) { s.timed(c, site, id, nil) }

func (s *Server) timed(c *gin.Context, site string, id int64, at *time.Time) {
	d, err := s.Desk.TimeDraft(c.Request.Context(), person(c), site, id, at)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, s.draftOut(person(c), site, *d))
}

// ListDraftSteps lists what was done in a draft.
func (s *Server) ListDraftSteps(c *gin.Context, site string, id int64) {
	rows, err := s.Desk.DraftSteps(c.Request.Context(), person(c), site, id)
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.DraftStepList{Steps: []api.DraftStep{}}
	for _, r := range rows {
		step, err := r.Step()
		if err != nil {
			s.fail(c, err)
			return
		}
		x := api.DraftStep{N: r.N, Kind: r.Kind, By: r.ByUser, At: r.At, Message: r.Message, Items: []item.Address{}}
		if r.OfStep > 0 {
			x.Of = &r.OfStep
		}
		for _, e := range step.Edits {
			x.Items = append(x.Items, e.Address())
		}
		out.Steps = append(out.Steps, x)
	}
	c.JSON(http.StatusOK, out)
}

// UndoDraftStep takes back the last step of the user who asks.
func (s *Server) UndoDraftStep(c *gin.Context, site string, id int64) {
	got, err := s.Desk.DraftUndo(c.Request.Context(), person(c), site, id)
	s.answerStepped(c, got, err)
}

// RedoDraftStep does again what the user who asks took back last.
func (s *Server) RedoDraftStep(c *gin.Context, site string, id int64) {
	got, err := s.Desk.DraftRedo(c.Request.Context(), person(c), site, id)
	s.answerStepped(c, got, err)
}

func (s *Server) answerStepped(c *gin.Context, got *desk.Stepped, err error) {
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, api.DraftStepped{Step: got.Step, Of: got.Of, Items: list(got.Items)})
}

// DiscardDraft throws a draft away.
func (s *Server) DiscardDraft(c *gin.Context, site string, id int64) {
	if err := s.Desk.Discard(c.Request.Context(), person(c), site, id); err != nil {
		s.fail(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}

// RebaseDraft brings what went live into a draft.
func (s *Server) RebaseDraft(c *gin.Context, site string, id int64) {
	in, ok := read[api.RebaseDraft](s, c)
	if !ok {
		return
	}
	decisions := map[string]desk.Side{}
	for key, side := range value(in.Decisions) {
		decisions[key] = desk.Side(side)
	}
	got, err := s.Desk.DraftRebase(c.Request.Context(), person(c), site, id, decisions)
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.DraftRebased{Merged: list(got.Merged), Behind: []api.BehindItem{}}
	if got.Step > 0 {
		out.Step = &got.Step
	}
	for _, b := range got.Behind {
		x := api.BehindItem{Address: b.Address, Why: b.Why, Conflicts: []api.BehindConflict{}}
		for _, k := range b.Conflicts {
			x.Conflicts = append(x.Conflicts, api.BehindConflict{Key: b.Key(k), Where: k.Where, Draft: k.Site,
				Live: k.Kit})
		}
		out.Behind = append(out.Behind, x)
	}
	c.JSON(http.StatusOK, out)
}

// OpenDraft makes a draft, or continues the user's own.
func (s *Server) OpenDraft(c *gin.Context, site string) {
	in, ok := read[api.OpenDraft](s, c)
	if !ok {
		return
	}
	dr, err := s.Desk.OpenDraft(c.Request.Context(), person(c), site, value(in.Name))
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, s.draftOut(person(c), site, *dr))
}
