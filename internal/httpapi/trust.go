package httpapi

import (
	"net/http"

	"compactparcel/core/kit"
	"compactparcel/internal/api"
	"compactparcel/internal/desk"
	"compactparcel/internal/store"

	"github.com/gin-gonic/gin"
)

func trustKeyOut(r store.TrustKey) api.TrustKey {
	key := kit.TrustedKey{Name: r.Name, Key: r.PublicKey}
	return api.TrustKey{
		Id:        r.ID,
		Team:      r.Team,
		Name:      r.Name,
		Key:       r.PublicKey,
		KeyId:     key.ID(),
		CreatedAt: r.CreatedAt,
	}
}

func siteTrustOut(t *desk.SiteTrust) api.SiteTrust {
	return api.SiteTrust{Policy: api.TrustPolicy(t.Policy), Team: t.Team}
}

func signersOut(in []desk.Signer) []api.Signer {
	out := []api.Signer{}
	for _, s := range in {
		out = append(out, api.Signer{KeyID: s.KeyID, Name: some(s.Name), Team: some(s.Team), Trusted: s.Trusted})
	}
	return out
}

// ListTrustKeys lists the keys that teams trust.
func (s *Server) ListTrustKeys(c *gin.Context) {
	rows, err := s.Desk.TrustKeys(c.Request.Context(), person(c))
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.TrustKeyList{Keys: []api.TrustKey{}}
	for _, r := range rows {
		out.Keys = append(out.Keys, trustKeyOut(r))
	}
	c.JSON(http.StatusOK, out)
}

// TrustKey trusts a key.
func (s *Server) TrustKey(c *gin.Context) {
	in, ok := read[api.NewTrustKey](s, c)
	if !ok {
		return
	}
	row, err := s.Desk.TrustAdd(c.Request.Context(), person(c), in.Team, value(in.Name), in.Key)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusCreated, trustKeyOut(*row))
}

// DistrustKey trusts a key no more.
func (s *Server) DistrustKey(c *gin.Context, id int64) {
	if err := s.Desk.TrustDrop(c.Request.Context(), person(c), id); err != nil {
		s.fail(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}

// GetSiteTrust gives a site's policy.
func (s *Server) GetSiteTrust(c *gin.Context, site string) {
	t, err := s.Desk.Trust(c.Request.Context(), person(c), site)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, siteTrustOut(t))
}

// SetSiteTrust sets a site's policy.
func (s *Server) SetSiteTrust(c *gin.Context, site string) {
	in, ok := read[api.SiteTrust](s, c)
	if !ok {
		return
	}
	t, err := s.Desk.SetTrust(c.Request.Context(), person(c), site,
		desk.SiteTrust{Policy: store.TrustPolicy(in.Policy), Team: in.Team})
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, siteTrustOut(t))
}
