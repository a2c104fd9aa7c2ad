package httpapi

import (
	"net/http"
	"slices"

	"compactparcel/core/item"
	"compactparcel/core/plan"
	"compactparcel/internal/api"
	"compactparcel/internal/pictures"
	"compactparcel/internal/preview"
	"compactparcel/internal/store"

	"github.com/gin-gonic/gin"
)

// standing are kinds of items that can be held against what they are in their kit.
var standing = []item.Kind{item.Section, item.Part, item.Block}

// maxStanding bounds how many pieces are held against their kit's at once.
const maxStanding = 100

// DeliveryStands holds each piece of a delivery against its view in the kit: whether it stands on the site as it
// does there, and if not, which rules of the site's do it.
func (s *Server) DeliveryStands(c *gin.Context, id int64) {
	ctx := c.Request.Context()
	info, err := s.Desk.Delivery(ctx, person(c), id)
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.StandList{Browser: s.Pictures.HasBrowser(), Pieces: []api.Stand{}}
	if info.Planned == nil {
		c.JSON(http.StatusOK, out)
		return
	}
	site := s.Previews.Planned(id)
	switch {
	case info.State == store.Live:
		site = s.Previews.Site(info.Site)
	case info.State == store.Staged && info.DraftID != nil:
		site = s.Previews.Draft(info.Site, *info.DraftID, info.DraftToken)
	}
	var rows []plan.Row
	var wanted []pictures.Wanted
	for _, r := range info.Planned.Rows {
		if r.Kit == nil || r.Becomes.IsZero() || !slices.Contains(standing, r.Address.Kind) ||
			len(rows) == maxStanding {
			continue
		}
		rows = append(rows, r)
		wanted = append(wanted,
			pictures.Wanted{At: s.Previews.Kit(info.KitVersionID) + preview.Alone(r.Address),
				Width: pictures.Widths[0]},
			pictures.Wanted{At: site + preview.Alone(r.Becomes) + "?on=/", Width: pictures.Widths[0]})
	}
	found, err := s.Pictures.Want(ctx, wanted)
	if err != nil {
		s.fail(c, err)
		return
	}
	for i, r := range rows {
		pair, waits := s.pair(ctx, pictures.Widths[0], found[2*i], found[2*i+1])
		out.Waiting += waits
		x := api.Stand{Address: r.Address, Becomes: r.Becomes, Pair: pair, Rules: []plan.StyleOverride{}}
		for _, o := range info.Planned.StyleOverrides {
			if (o.Page == r.Becomes || o.Page == r.Address) && o.Value != o.Kit { // else both say the same
				x.Rules = append(x.Rules, o)
			}
		}
		out.Pieces = append(out.Pieces, x)
	}
	c.JSON(http.StatusOK, out)
}
