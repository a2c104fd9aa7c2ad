package httpapi

import (
	"net/http"

	"compactparcel/core/item"
	"compactparcel/core/plan"
	"compactparcel/internal/api"
	"compactparcel/internal/desk"

	"github.com/gin-gonic/gin"
)

// UsePiece puts one piece into a draft.
func (s *Server) UsePiece(c *gin.Context, site string) {
	in, ok := read[api.UsePiece](s, c)
	if !ok {
		return
	}
	decided, err := decisions(value(in.Decisions), nil)
	if err != nil {
		s.fail(c, err)
		return
	}
	from := value(in.From)
	if from == "" {
		from = desk.LibraryName
	}
	got, err := s.Desk.Use(c.Request.Context(), person(c), desk.Use{Site: site, Draft: value(in.Draft), From: from,
		Piece: value(in.Piece), Pages: usedPages(value(in.Pages)), Element: value(in.Element), As: value(in.As),
		Page: value(in.Page), Beside: value(in.Beside),
		Place: value(in.Place), Title: value(in.Title), OwnLook: value(in.OwnLook), Dry: value(in.Dry),
		Answers: plan.Request{Policy: value(in.Policy), Decisions: decided, Fills: value(in.Fills),
			Seats: value(in.Seats), Menu: value(in.Menu)}})
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.PieceUsed{Says: list(got.Says), Items: []item.Address{}, Touched: list(got.Touched),
		Piece: got.Piece, OwnLook: some(got.OwnLook),
		Plan: got.Plan}
	if got.Filled {
		out.Filled = &got.Filled
	}
	if got.Draft != nil {
		preview := s.Previews.Draft(site, got.Draft.ID, got.Draft.Token)
		out.Draft, out.Preview = &got.Draft.ID, &preview
	}
	if got.Step > 0 {
		out.Step = &got.Step
	}
	for _, x := range got.Items {
		out.Items = append(out.Items, x.Head.Address)
	}
	c.JSON(http.StatusOK, out)
}

// usedPages gives several pages that come at once.
func usedPages(in []api.UsedPage) []desk.UsedPage {
	var out []desk.UsedPage
	for _, p := range in {
		out = append(out, desk.UsedPage{Piece: p.Piece, Path: value(p.Path), Title: value(p.Title)})
	}
	return out
}

// ListPieceSources lists where the items of a site came from.
func (s *Server) ListPieceSources(c *gin.Context, site string, params api.ListPieceSourcesParams) {
	got, err := s.Desk.PieceSources(c.Request.Context(), person(c), site, value(params.Draft))
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.PieceSourceList{Sources: []api.PieceSource{}}
	for _, x := range got {
		out.Sources = append(out.Sources, api.PieceSource{Item: x.Item, From: x.From, Source: x.Source,
			State: api.SourceState(x.State), Now: some(x.Now)})
	}
	c.JSON(http.StatusOK, out)
}
