package httpapi

import (
	"net/http"
	"time"

	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/plan"
	"compactparcel/internal/api"
	"compactparcel/internal/desk"
	"compactparcel/internal/store"

	"github.com/gin-gonic/gin"
)

func (s *Server) session(p desk.Person) api.Session {
	return api.Session{Name: p.Name, Role: api.Role(p.Role), Previews: s.Previews.Pattern}
}

// GetSession tells who is signed in.
func (s *Server) GetSession(c *gin.Context) { c.JSON(http.StatusOK, s.session(person(c))) }

// device says what a request comes from.
func device(c *gin.Context) desk.Device {
	return desk.Device{Place: c.ClientIP(), Agent: c.Request.UserAgent()}
}

// SignIn opens a session.
func (s *Server) SignIn(c *gin.Context) {
	in, ok := read[api.SignIn](s, c)
	if !ok {
		return
	}
	p, secret, err := s.Desk.SignIn(c.Request.Context(), in.Name, in.Password, device(c))
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

// ListTokens lists access tokens: one's own, or for an admin somebody's.
func (s *Server) ListTokens(c *gin.Context, params api.ListTokensParams) {
	rows, err := s.Desk.Tokens(c.Request.Context(), person(c), value(params.User))
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.TokenList{Tokens: []api.Token{}}
	for _, t := range rows {
		out.Tokens = append(
			out.Tokens,
			api.Token{
				Id:        t.ID,
				Name:      t.Name,
				Scope:     role(t.Scope),
				ExpiresAt: t.ExpiresAt,
				CreatedAt: t.CreatedAt,
				UsedAt:    t.UsedAt,
			},
		)
	}
	c.JSON(http.StatusOK, out)
}

// role gives a role that may be left open.
func role(text string) *api.Role {
	if text == "" {
		return nil
	}
	r := api.Role(text)
	return &r
}

// MakeToken makes an access token.
func (s *Server) MakeToken(c *gin.Context) {
	in, ok := read[api.TokenName](s, c)
	if !ok {
		return
	}
	wish := desk.TokenWish{Name: in.Name, Scope: desk.Role(value(in.Scope))}
	if in.Days != nil {
		if wish.Life = time.Duration(*in.Days) * 24 * time.Hour; wish.Life <= 0 || *in.Days > 36_500 {
			wish.Life = -1
		}
	}
	text, t, err := s.Desk.NewToken(c.Request.Context(), person(c), wish)
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

// ChangePassword gives the one who asks another password.
func (s *Server) ChangePassword(c *gin.Context) {
	in, ok := read[api.PasswordChange](s, c)
	if !ok {
		return
	}
	if err := s.Desk.ChangePassword(c.Request.Context(), person(c), in.Old, in.New, device(c)); err != nil {
		s.fail(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}

// ListSessions lists sign-ins.
func (s *Server) ListSessions(c *gin.Context, params api.ListSessionsParams) {
	rows, err := s.Desk.Sessions(c.Request.Context(), person(c), value(params.User))
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.SessionList{Sessions: []api.SignedIn{}}
	for _, r := range rows {
		out.Sessions = append(
			out.Sessions,
			api.SignedIn{
				Id:        r.ID,
				Agent:     r.Agent,
				Place:     r.Place,
				StartedAt: r.StartedAt,
				SeenAt:    r.SeenAt,
				ExpiresAt: r.ExpiresAt,
				Here:      r.Here,
			},
		)
	}
	c.JSON(http.StatusOK, out)
}

// EndSessions ends all sign-ins but the one that asks.
func (s *Server) EndSessions(c *gin.Context, params api.EndSessionsParams) {
	s.endSessions(c, value(params.User), "")
}

// EndSession ends one sign-in.
func (s *Server) EndSession(c *gin.Context, id string, params api.EndSessionParams) {
	s.endSessions(c, value(params.User), id)
}

func (s *Server) endSessions(c *gin.Context, user, id string) {
	if err := s.Desk.EndSession(c.Request.Context(), person(c), user, id); err != nil {
		s.fail(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}

// ChangeUser changes an account.
func (s *Server) ChangeUser(c *gin.Context, user string) {
	in, ok := read[api.UserChange](s, c)
	if !ok {
		return
	}
	change := desk.UserChange{Disabled: in.Disabled, Password: in.Password}
	if in.Role != nil {
		r := desk.Role(*in.Role)
		change.Role = &r
	}
	u, err := s.Desk.ChangeUser(c.Request.Context(), person(c), user, change)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, userOut(*u))
}

func userOut(u store.User) api.User {
	return api.User{Name: u.Name, Role: api.Role(u.Role), Disabled: u.Disabled, CreatedAt: u.CreatedAt}
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
		out.Users = append(out.Users, userOut(u))
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

// GetVocabulary gives the words of the product.
func (s *Server) GetVocabulary(c *gin.Context) {
	c.JSON(
		http.StatusOK,
		api.Vocabulary{
			Kinds:       item.Kinds,
			Roles:       item.Roles,
			Targets:     item.Targets,
			Settings:    item.Settings,
			Standings:   plan.Standings,
			Decisions:   plan.Decisions,
			Policies:    plan.Policies,
			FillinTypes: kit.FillinTypes,
		},
	)
}
