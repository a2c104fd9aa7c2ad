package httpapi_test

import (
	"fmt"
	"net/http"
	"strings"
	"testing"

	"compactparcel/internal/api"
	"compactparcel/internal/desk"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestAccountsAreMadeChangedAndSwitchedOff(t *testing.T) {
	srv := harness.Serve(t, harness.Records(t), nil)
	const users = "/api/v1/users"
	harness.JSON[any](srv, desk.Admin, 204, "POST", users,
		api.NewUser{Name: "brena", Password: "a long password", Role: "keeper"})
	harness.JSON[api.Problem](srv, desk.Admin, 409, "POST", users,
		api.NewUser{Name: "brena", Password: "a long password", Role: "keeper"})
	p := harness.JSON[api.Problem](srv, desk.Admin, 400, "POST", users,
		api.NewUser{Name: "tomas", Password: "short", Role: "keeper"})
	assert.Equal(t, api.RemedyCodeChooseOtherPassword, p.Remedy.Code)
	assert.Equal(t, "10", (*p.Remedy.Values)["least"])
	list := harness.JSON[api.UserList](srv, desk.Admin, 200, "GET", users, nil)
	assert.Len(t, list.Users, len(desk.Roles)+1)

	off, role := true, api.Role("viewer")
	changed := harness.JSON[api.User](srv, desk.Admin, 200, "PATCH", users+"/brena",
		api.UserChange{Disabled: &off, Role: &role})
	assert.True(t, changed.Disabled)
	assert.Equal(t, role, changed.Role)
	harness.JSON[api.Problem](srv, "", 401, "POST", "/api/v1/session",
		api.SignIn{Name: "brena", Password: "a long password"})
	p = harness.JSON[api.Problem](srv, desk.Admin, 409, "PATCH", users+"/the-admin", api.UserChange{Role: &role})
	assert.Equal(t, api.RemedyCodeMakeOtherAdmin, p.Remedy.Code)
	p = harness.JSON[api.Problem](srv, desk.Admin, 400, "PATCH", users+"/brena", api.UserChange{})
	assert.Equal(t, api.RemedyCodeNameAChange, p.Remedy.Code)
	harness.JSON[api.Problem](srv, desk.Admin, 404, "PATCH", users+"/nobody", api.UserChange{Disabled: &off})
}

func TestTokensAreMadeWithinTheirOwnersRole(t *testing.T) {
	srv := harness.Serve(t, harness.Records(t), nil)
	const tokens = "/api/v1/access-tokens"
	viewer, admin, days := api.Role("viewer"), api.Role("admin"), 3
	made := harness.JSON[api.NewToken](srv, desk.Keeper, 201, "POST", tokens,
		api.TokenName{Name: "ci", Scope: &viewer, Days: &days})
	assert.NotEmpty(t, made.Token)
	list := harness.JSON[api.TokenList](srv, desk.Keeper, 200, "GET", tokens, nil)
	require.Len(t, list.Tokens, 2)
	p := harness.JSON[api.Problem](srv, desk.Keeper, 403, "POST", tokens, api.TokenName{Name: "ci", Scope: &admin})
	assert.Equal(t, api.RemedyCodeChooseSmallerScope, p.Remedy.Code)
	assert.Equal(t, "keeper", (*p.Remedy.Values)["role"])

	by := func(r *http.Request) { r.Header.Set("Authorization", "Bearer "+made.Token) }
	me := harness.JSON[api.Session](srv, "", 200, "GET", "/api/v1/session", nil, by)
	assert.Equal(t, viewer, me.Role, "no more than its scope")
	p = harness.JSON[api.Problem](srv, "", 403, "POST", tokens, api.TokenName{Name: "more"}, by)
	assert.Equal(t, api.RemedyCodeSignInByPassword, p.Remedy.Code, "a limited token makes no other")
	harness.JSON[any](srv, desk.Keeper, 204, "DELETE", fmt.Sprintf("%s/%d", tokens, made.Id), nil)
	harness.JSON[api.Problem](srv, "", 401, "GET", "/api/v1/session", nil, by)
	harness.JSON[api.Problem](srv, desk.Keeper, 404, "DELETE", fmt.Sprintf("%s/%d", tokens, made.Id), nil)
	harness.JSON[api.Problem](srv, desk.Keeper, 403, "GET", tokens+"?user=the-admin", nil)
	assert.Len(t, harness.JSON[api.TokenList](srv, desk.Admin, 200, "GET", tokens+"?user=the-keeper", nil).Tokens, 1)
}

func TestSignInsAreListedAndEnded(t *testing.T) {
	srv := harness.Serve(t, harness.Records(t), nil)
	session := func() func(*http.Request) {
		r := srv.Do("", "GET", "/api/v1/session", nil)
		require.Equal(t, 401, r.StatusCode)
		r = signIn(t, srv, "the-viewer", "a long password")
		cookies := r.Cookies()
		require.NotEmpty(t, cookies)
		for _, c := range cookies {
			assert.True(t, c.HttpOnly, c.Name)
			assert.Equal(t, http.SameSiteStrictMode, c.SameSite, c.Name)
		}
		return func(q *http.Request) {
			for _, c := range cookies {
				q.AddCookie(c)
			}
			q.Header.Set("Origin", srv.URL)
		}
	}
	one, two := session(), session()
	list := harness.JSON[api.SessionList](srv, "", 200, "GET", "/api/v1/sessions", nil, one)
	require.GreaterOrEqual(t, len(list.Sessions), 2)
	here := 0
	other := ""
	for _, s := range list.Sessions {
		if s.Here {
			here++
		} else {
			other = s.Id
		}
	}
	assert.Equal(t, 1, here, "one of them is this browser")
	require.NotEmpty(t, other)
	harness.JSON[api.Problem](srv, "", 400, "PUT", "/api/v1/account/password",
		map[string]string{"old": "wrong", "new": "another password"}, one)
	harness.JSON[any](srv, "", 204, "PUT", "/api/v1/account/password",
		map[string]string{"old": "a long password", "new": "another password"}, one)
	harness.JSON[api.Problem](srv, "", 401, "GET", "/api/v1/session", nil, two)
	harness.JSON[api.Session](srv, "", 200, "GET", "/api/v1/session", nil, one)
	harness.JSON[any](srv, "", 204, "DELETE", "/api/v1/session", nil, one)
	harness.JSON[api.Problem](srv, "", 401, "GET", "/api/v1/session", nil, one)
	harness.JSON[api.Problem](srv, desk.Viewer, 401, "DELETE", "/api/v1/sessions/"+other, nil) // the tokens, too
}

func signIn(t *testing.T, srv *harness.Served, name, password string) *http.Response {
	t.Helper()
	r := srv.Do("", "POST", "/api/v1/session",
		strings.NewReader(fmt.Sprintf(`{"name":%q,"password":%q}`, name, password)),
		func(q *http.Request) { q.Header.Set("Content-Type", "application/json") })
	require.Equal(t, 200, r.StatusCode, harness.Text(t, r))
	return r
}
