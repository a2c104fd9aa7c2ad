package test

import (
	"fmt"
	"testing"
	"time"

	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Accounts by the client: a password, tokens with a scope and an end, somebody switched off.
func TestAccountsInTheClient(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	signIn := func(name, password string) harness.Ran {
		return s.ClientIn(password+"\n", "sign-in", "--user", name, "--password-stdin")
	}
	as := func(token string, args ...string) harness.Ran { return s.Client(append(args, "--token", token)...) }

	// A token that only looks, for a month.
	var looking api.NewToken
	s.JSON(&looking, "token", "make", "looking", "--scope", "viewer", "--days", "30")
	assert.Zero(t, as(looking.Token, "site", "list").Code)
	r := as(looking.Token, "library", "add", "kestrel-refuge", "section/opening-hours")
	assert.Equal(t, 5, r.Code)
	assert.Contains(t, r.Err, "ida has the role viewer; this needs the role librarian")
	r = as(looking.Token, "token", "make", "another")
	assert.Contains(t, r.Err, "cannot make another", "it cannot make itself a longer life")
	list := s.Must("token", "list")
	assert.Regexp(t, `looking +\W+viewer`, list)
	assert.Contains(t, list, time.Now().AddDate(0, 0, 30).Format("2006-01"))
	s.SQL(t, "UPDATE access_tokens SET expires_at = '2020-01-01' WHERE name = 'looking'")
	assert.Contains(t, as(looking.Token, "site", "list").Err, "has expired")
	for _, bad := range [][]string{{"--scope", "king"}, {"--days", "-1"}, {"--days", "99999"}} {
		r := s.Client(append([]string{"token", "make", "x"}, bad...)...)
		assert.Equal(t, 2, r.Code, "%v: %s", bad, r.Err)
	}
	assert.Contains(t, s.Client("token", "make", "x", "--scope", "admin").Err, "you have the role keeper")

	// One's own password: all other sign-ins end.
	require.Zero(t, signIn("tomas", "highmoor-demo").Code)
	r = s.ClientIn("not this one\na better password\n", "account", "password")
	assert.Equal(t, 2, r.Code)
	assert.Contains(t, r.Err, "the old password is wrong")
	assert.Contains(t, s.ClientIn("highmoor-demo\nshort\n", "account", "password").Err, "at least 10 characters")
	require.Zero(t, s.ClientIn("highmoor-demo\na better password\n", "account", "password").Code)
	assert.NotZero(t, signIn("ida", "highmoor-demo").Code)
	assert.Zero(t, signIn("ida", "a better password").Code)

	// What an admin does.
	warden := adminToken(t, s)
	r = as(warden, "people", "change", "tomas", "--role", "keeper")
	assert.Contains(t, r.Out, "tomas is a keeper", r.Err)
	var tomas api.TokenList
	require.Equal(t, 0, as(warden, "token", "list", "--of", "tomas").Code)
	s.Call("GET", "/api/v1/access-tokens?user=tomas", nil, "Authorization", "Bearer "+warden).Into(t, &tomas)
	require.NotEmpty(t, tomas.Tokens)
	assert.Equal(t, 403, s.Call("GET", "/api/v1/access-tokens?user=tomas", nil).Status,
		"a keeper does not see another's")
	assert.Equal(t, 404, s.Call("DELETE", fmt.Sprintf("/api/v1/access-tokens/%d", tomas.Tokens[0].Id), nil).Status,
		"nor ends it")
	assert.Zero(t, as(warden, "token", "revoke", fmt.Sprint(tomas.Tokens[0].Id)).Code)
	assert.Contains(t, as(warden, "people", "change", "ida", "--off").Out, "switched off")
	assert.Equal(t, 5, s.Client("site", "list").Code, "the token of somebody who is switched off")
	assert.NotZero(t, signIn("ida", "a better password").Code)
	assert.Contains(t, as(warden, "people", "list").Out, "switched off")
	r = as(warden, "people", "change", "warden", "--role", "viewer")
	assert.Contains(t, r.Err, "it is the last admin")
	assert.Contains(t,
		s.ClientIn("yet another one\n", "people", "change", "ida", "--on", "--password", "--token", warden).Out, "ida")
	assert.Zero(t, signIn("ida", "yet another one").Code)
	assert.Equal(t, 2, as(warden, "people", "change", "ida").Code, "nothing to change")
	assert.Equal(t, 2, as(warden, "people", "change", "ida", "--on", "--off").Code)
	assert.NotZero(t, as(warden, "people", "change", "nobody-here", "--off").Code)
	assert.NotContains(t, s.Logged(), "yet another one")
}

// adminToken makes a token for the demo's admin.
func adminToken(t *testing.T, s *harness.Service) string {
	t.Helper()
	return as(t, s, "warden").Token
}

// Accounts in the console: the same, by pointing, and the last admin stays.
func TestAccountsInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	enter := func(b *harness.Browser, name, password string) {
		b.Go(s.Console + "/account")
		b.Type("#name", name)
		b.Type("#password", password)
		b.Press("Sign in")
		b.Sees(name + ",")
	}
	b, other := harness.NewBrowser(t), harness.NewBrowser(t)
	enter(other, "ida", "highmoor-demo")
	enter(b, "warden", "highmoor-demo")
	b.Sees("People")
	b.Sees("this one")

	b.Press("Change tomas")
	b.Choose("#role-tomas", "keeper")
	b.Sees("tomas keeper")
	b.Press("Change ida")
	b.Sees("Chromium, without a screen on Linux")
	b.Press("Switch the account off")
	b.Sees("is signed out everywhere")
	b.Confirm()
	b.Sees("switched off")
	other.Go(s.Console + "/sites")
	other.Sees("Sign in to the template library")
	b.Press("Switch the account on")
	b.Sees("Nobody is signed in with a browser")
	b.Type("#password-ida", "another password")
	b.Press("Give this password")
	b.Press("Change warden")
	b.Choose("#role-warden", "viewer")
	b.Sees("it is the last admin")

	enter(other, "ida", "another password")
	other.Type("#t-name", "a program")
	other.Choose("#t-scope", "librarian")
	other.Press("Make a token")
	other.Sees("Your new token, shown only now")
	other.Sees("a program as librarian")
	third := harness.NewBrowser(t)
	enter(third, "ida", "another password")
	other.Type("#p-old", "another password")
	other.Type("#p-new", "a third password")
	other.Type("#p-again", "not the same one")
	other.Sees("The two new passwords are not the same")
	other.Type("#p-again", "a third password")
	other.Press("Change my password")
	other.Sees("You are signed out everywhere else")
	third.Go(s.Console + "/library")
	third.Sees("Sign in to the template library")
	other.Size(390, 800)
	other.Do(chromedp.WaitVisible("#t-name"))
	assert.LessOrEqual(t, harness.Eval[int](other, "document.documentElement.scrollWidth"), 390, "it fits a phone")
}
