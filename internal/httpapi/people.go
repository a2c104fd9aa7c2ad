package httpapi

import (
	"net"
	"net/http"

	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/plan"
	"compactparcel/internal/api"
	"compactparcel/internal/desk"

	"github.com/gin-gonic/gin"
)

func (s *Server) session(p desk.Person) api.Session {
	return api.Session{Name: p.Name, Role: api.Role(p.Role), Previews: s.Previews.Pattern}
}

// GetSession tells who is signed in.
func (s *Server) GetSession(c *gin.Context) { c.JSON(http.StatusOK, s.session(person(c))) }

// SignIn opens a session.
func (s *Server) SignIn(c *gin.Context) {
	in, ok := read[api.SignIn](s, c)
	if !ok {
		return
	}
	place, _, _ := net.SplitHostPort(c.Request.RemoteAddr)
	p, secret, err := s.Desk.SignIn(c.Request.Context(), in.Name, in.Password, place)
	if err != nil {
		s.fail(c, err)
		return
	}
	s.setCookie(c, secret)
	c.JSON(http.StatusOK, s.session(p))
}

// SignOut ends the session.
func (s *Server) SignOut(c *gin.Context) {
	if cookie, err := c.Cookie(CookieName); err == nil {
		if err := s.Desk.SignOut(c.Request.Context(), cookie); err != nil {
			s.fail(c, err)
			return
		}
	}
	s.setCookie(c, "")
	c.Status(http.StatusNoContent)
}

// SetUp makes the first admin.
func (s *Server) SetUp(c *gin.Context) {
	in, ok := read[api.SetUp](s, c)
	if !ok {
		return
	}
	if err := s.Desk.Setup(c.Request.Context(), in.Link, in.Name, in.Password); err != nil {
		s.fail(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}

// ListTokens lists one's own access tokens.
func (s *Server) ListTokens(c *gin.Context) {
	rows, err := s.Desk.Tokens(c.Request.Context(), person(c))
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.TokenList{Tokens: []api.Token{}}
	for _, t := range rows {
		out.Tokens = append(out.Tokens, api.Token{Id: t.ID, Name: t.Name, CreatedAt: t.CreatedAt, UsedAt: t.UsedAt})
	}
	c.JSON(http.StatusOK, out)
}

// MakeToken makes an access token.
func (s *Server) MakeToken(c *gin.Context) {
	in, ok := read[api.TokenName](s, c)
	if !ok {
		return
	}
	text, t, err := s.Desk.NewToken(c.Request.Context(), person(c), in.Name)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusCreated, api.NewToken{Id: t.ID, Name: t.Name, Token: text})
}

// DropToken ends an access token.
func (s *Server) DropToken(c *gin.Context, id int64) {
	if err := s.Desk.DropToken(c.Request.Context(), person(c), id); err != nil {
		s.fail(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}

// ListUsers lists the accounts.
func (s *Server) ListUsers(c *gin.Context) {
	rows, err := s.Desk.Users(c.Request.Context(), person(c))
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.UserList{Users: []api.User{}}
	for _, u := range rows {
		out.Users = append(out.Users, api.User{Name: u.Name, Role: api.Role(u.Role), Disabled: u.Disabled, CreatedAt: u.CreatedAt})
	}
	c.JSON(http.StatusOK, out)
}

// MakeUser makes an account.
func (s *Server) MakeUser(c *gin.Context) {
	in, ok := read[api.NewUser](s, c)
	if !ok {
		return
	}
	if err := s.Desk.NewUser(c.Request.Context(), person(c), in.Name, in.Password, desk.Role(in.Role)); err != nil {
		s.fail(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}

// GetWords gives the words of the product.
func (s *Server) GetWords(c *gin.Context) {
	c.JSON(http.StatusOK, api.Words{Kinds: item.Kinds, Roles: item.Roles, Targets: item.Targets, Settings: item.Settings, Standings: plan.Standings, Decisions: plan.Decisions, Policies: plan.Policies, FillinTypes: kit.FillinTypes})
}
