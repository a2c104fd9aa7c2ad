package httpapi

import (
	"context"
	"net/http"

	"compactparcel/core/item"
	"compactparcel/core/plan"
	"compactparcel/internal/api"
	"compactparcel/internal/desk"
	"compactparcel/internal/store"

	"github.com/gin-gonic/gin"
)

func (s *Server) deliveryOut(i *desk.DeliveryInfo) api.Delivery {
	out := api.Delivery{
		Id:           i.ID,
		Kit:          i.Kit,
		Version:      i.Version,
		Site:         i.Site,
		State:        api.DeliveryState(i.State),
		By:           i.ByUser,
		CreatedAt:    i.CreatedAt,
		UpdatedAt:    i.UpdatedAt,
		Decisions:    map[string]string{},
		Fills:        map[string]string{},
		Plan:         i.Planned,
		LivePreview:  s.Previews.Site(i.Site),
		BaseRevision: i.BaseRev,
		LiveRevision: i.LiveRev,
		UndoRevision: i.UndoRev,
	}
	for k, d := range i.Asked.Decisions {
		out.Decisions[k] = d.String()
	}
	asked := i.Asked
	out.Asked = api.DeliveryRequest{
		Policy: asked.Policy,
		Seats:  asked.Seats,
		Only:   list(asked.Only),
		Pages:  asked.Pages,
	}
	if asked.Policy == "" {
		out.Asked.Policy = plan.Policies[0].Policy
	}
	if asked.Seats == "" {
		out.Asked.Seats = plan.SeatsAsk
	}
	if asked.Pages == nil {
		out.Asked.Pages = map[string]plan.PageRequest{}
	}
	out.PlannedPreview, out.BasePreview = s.Previews.Planned(i.ID), s.Previews.Base(i.ID)
	out.KitPreview = some(s.Previews.Kit(i.KitVersionID))
	for k, v := range i.Asked.Fills {
		out.Fills[k] = v
	}
	if i.PlanDigest != "" {
		out.PlanDigest = &i.PlanDigest
	}
	if i.DraftToken != "" {
		p := s.Previews.Draft(i.Site, *i.DraftID, i.DraftToken)
		out.Draft, out.Preview = i.DraftID, &p
	}
	if r := i.Receipted; r != nil {
		fills := r.Fills
		if fills == nil {
			fills = map[string]string{}
		}
		out.Receipt = &api.Receipt{
			Renames:   list(r.Renames),
			Fills:     fills,
			Wrote:     list(r.Wrote),
			Touched:   list(r.Touched),
			Checklist: list(r.Checklist),
			Before:    r.Before,
			After:     r.After,
			By:        r.By,
			At:        r.At,
			Kept:      list(r.Kept),
			Removed:   list(r.Removed),
			Meanwhile: list(r.Meanwhile),
			Undone:    list(r.Undone),
		}
	}
	return out
}

func (s *Server) answerDelivery(c *gin.Context, status int, i *desk.DeliveryInfo, err error) {
	if err != nil {
		s.fail(c, err)
		return
	}
	setETag(c, i.Etag)
	c.JSON(status, s.deliveryOut(i))
}

// decisions reads "take", "both", "map:menu/top" and the like; those of ifFits hold where they fit, and nothing else
// was decided.
func decisions(in, ifFits map[string]string) (map[string]plan.Decided, error) {
	out := map[string]plan.Decided{}
	for _, given := range []struct {
		words  map[string]string
		ifFits bool
	}{{ifFits, true}, {in, false}} {
		for k, v := range given.words {
			d, err := plan.ParseDecided(v)
			if err != nil {
				return nil, &desk.Problem{
					Type:    desk.BadInput,
					What:    k,
					Message: err.Error(),
					Remedy:  desk.Form("take, both or map:menu/main"),
					Err:     err,
				}
			}
			d.IfFits = given.ifFits
			out[k] = d
		}
	}
	return out, nil
}

// ListDeliveries lists the deliveries.
func (s *Server) ListDeliveries(c *gin.Context) {
	rows, err := s.Desk.Deliveries(c.Request.Context(), person(c))
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.DeliveryList{Deliveries: []api.DeliveryRow{}}
	for _, r := range rows {
		out.Deliveries = append(
			out.Deliveries,
			api.DeliveryRow{
				Id:        r.ID,
				Kit:       r.Kit,
				Version:   r.Version,
				Site:      r.Site,
				State:     api.DeliveryState(r.State),
				By:        r.ByUser,
				CreatedAt: r.CreatedAt,
				UpdatedAt: r.UpdatedAt,
			},
		)
	}
	c.JSON(http.StatusOK, out)
}

// OpenDelivery opens and plans a delivery.
func (s *Server) OpenDelivery(c *gin.Context) {
	in, ok := read[api.OpenDelivery](s, c)
	if !ok {
		return
	}
	d, err := decisions(value(in.Decisions), value(in.IfFits))
	if err != nil {
		s.fail(c, err)
		return
	}
	ask := plan.Request{
		Policy:    value(in.Policy),
		Decisions: d,
		Fills:     value(in.Fills),
		Seats:     value(in.Seats),
		Only:      value(in.Only),
		Pages:     value(in.Pages),
		Next:      value(in.Next),
		Menu:      value(in.Menu),
	}
	i, err := s.Desk.DeliveryOpen(c.Request.Context(), person(c), in.Kit, in.Version, in.Site, ask)
	s.answerDelivery(c, http.StatusCreated, i, err)
}

// GetDelivery gives one delivery.
func (s *Server) GetDelivery(c *gin.Context, id int64) {
	i, err := s.Desk.Delivery(c.Request.Context(), person(c), id)
	s.answerDelivery(c, http.StatusOK, i, err)
}

// DecideDelivery takes decisions and fill-ins.
func (s *Server) DecideDelivery(c *gin.Context, id int64, params api.DecideDeliveryParams) {
	in, ok := read[api.Answers](s, c)
	if !ok {
		return
	}
	etag, err := etagNumber(params.IfMatch)
	if err != nil {
		s.fail(c, err)
		return
	}
	d, err := decisions(value(in.Decisions), value(in.IfFits))
	if err != nil {
		s.fail(c, err)
		return
	}
	i, err := s.Desk.DeliveryDecide(
		c.Request.Context(),
		person(c),
		id,
		etag,
		&desk.Answer{
			Decisions: d,
			Fills:     value(in.Fills),
			Policy:    value(in.Policy),
			Seats:     value(in.Seats),
			Only:      value(in.Only),
			Pages:     value(in.Pages),
		},
	)
	s.answerDelivery(c, http.StatusOK, i, err)
}

func (s *Server) act(c *gin.Context, f func(context.Context, desk.Person) (*desk.DeliveryInfo, error)) {
	i, err := f(c.Request.Context(), person(c))
	s.answerDelivery(c, http.StatusOK, i, err)
}

// PlanDelivery plans anew.
func (s *Server) PlanDelivery(c *gin.Context, id int64) {
	s.act(c, func(ctx context.Context, p desk.Person) (*desk.DeliveryInfo, error) { return s.Desk.Replan(ctx, p, id) })
}

// StageDelivery writes the draft.
func (s *Server) StageDelivery(c *gin.Context, id int64, params api.StageDeliveryParams) {
	s.act(c, func(ctx context.Context, p desk.Person) (*desk.DeliveryInfo, error) {
		info, err := s.Desk.DeliveryStage(ctx, p, id, item.Digest(value(params.Plan)))
		if err == nil {
			s.Desk.GoOn(func(ctx context.Context) { s.pictureDelivery(ctx, p, id) })
		}
		return info, err
	})
}

// GoLiveDelivery goes live.
func (s *Server) GoLiveDelivery(c *gin.Context, id int64) {
	if err := s.Desk.MayGoLive(person(c), id); err != nil {
		s.fail(c, err)
		return
	}
	in, ok := readIfAny[api.GoLiveRequest](s, c)
	if !ok {
		return
	}
	s.act(c, func(ctx context.Context, p desk.Person) (*desk.DeliveryInfo, error) {
		s.pictureInTime(store.Unkeyed(ctx), p, id)
		return s.Desk.DeliveryGoLive(ctx, p, id, value(in.Decisions))
	})
}

// UndoDelivery takes it back.
func (s *Server) UndoDelivery(c *gin.Context, id int64) {
	in, ok := readIfAny[api.UndoRequest](s, c)
	if !ok {
		return
	}
	s.act(c, func(ctx context.Context, p desk.Person) (*desk.DeliveryInfo, error) {
		return s.Desk.DeliveryUndo(
			ctx,
			p,
			id,
			desk.Undo{
				Items:      value(in.Items),
				KeepEdited: value(in.KeepEdited),
				Blend:      value(in.Blend),
				Decisions:  value(in.Decisions),
			},
		)
	})
}

// CompareDelivery gives the texts of one item's sides.
func (s *Server) CompareDelivery(c *gin.Context, id int64, kind, key string) {
	x, err := s.Desk.DeliveryCompare(c.Request.Context(), person(c), id, item.Address{Kind: item.Kind(kind), Key: key})
	if err != nil {
		s.fail(c, err)
		return
	}
	text := func(b []byte) *string {
		if b == nil {
			return nil
		}
		t := string(b)
		return &t
	}
	out := api.ItemComparison{
		Address: x.Address,
		Base:    text(x.Base),
		Site:    text(x.Site),
		Kit:     text(x.Kit),
		Becomes: text(x.Becomes),
	}
	if !x.BecomesAt.IsZero() {
		out.BecomesAt = &x.BecomesAt
	}
	if len(x.Conflicts) > 0 {
		out.Conflicts = &x.Conflicts
	}
	c.JSON(http.StatusOK, out)
}
