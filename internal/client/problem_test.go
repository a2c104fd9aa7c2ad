package client

import (
	"encoding/json"
	"testing"

	"compactparcel/core/plan"
	"compactparcel/internal/api"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestEveryProblemHasItsExitCode(t *testing.T) {
	for typ, code := range map[api.ProblemType]int{
		api.ProblemTypeWaitsForDecisions: Waits, api.ProblemTypeStale: Stale, api.ProblemTypeRefused: Refused,
		api.ProblemTypeForbidden: Refused, api.ProblemTypeNotSignedIn: Refused, api.ProblemTypeCheckNotClean: Refused,
		api.ProblemTypeBadInput: Usage, api.ProblemTypeDecisionDoesNotFit: Usage, api.ProblemTypeNotFound: Failed,
		api.ProblemTypeExists: Failed, api.ProblemTypeInternal: Failed, api.ProblemTypeUnavailable: Failed,
	} {
		id := "abc12345"
		p := api.Problem{
			Type: typ, Title: "T", Status: 500, Detail: "what went wrong", RequestId: &id,
			Remedy: &api.Remedy{Code: api.RemedyCodeSealKit, Values: &map[string]string{"kit": "hut@1.0.0"}},
		}
		server, _ := pretend(t, map[string]answer{"GET /api/v1/sites": {500, p}})
		got, out, errOut := run("", "site", "list", "--server", server)
		assert.Equal(t, code, got, typ)
		assert.Empty(t, out, "what failed says nothing on the output")
		for _, want := range []string{
			"what went wrong", "To fix: seal it first: cparcel kit seal hut@1.0.0", "Request: abc12345",
		} {
			assert.Contains(t, errOut, want)
		}
		assert.NotContains(t, errOut, "\x1b[", "colour only on a terminal")
		got, _, errOut = run("", "site", "list", "--server", server, "-o", "json")
		assert.Equal(t, code, got)
		var again api.Problem
		require.NoError(t, json.Unmarshal([]byte(errOut), &again), "for programs the problem is JSON")
		assert.Equal(t, p.Detail, again.Detail)
	}
}

func TestDetailsAreReadByTheProblemsType(t *testing.T) {
	for typ, c := range map[api.ProblemType]struct{ details, want string }{
		api.ProblemTypeWaitsForDecisions: {`[{"key":"menu/main","kind":"item","message":"taken"}]`,
			"menu/main  taken"},
		api.ProblemTypeDecisionDoesNotFit: {`[{"decision":"as","to":"beds","effect":"shows beds"}]`,
			"as:beds  shows beds"},
		api.ProblemTypeCheckNotClean: {
			`[{"address":"page/home","line":3,"message":"a broken link","stops":true}]`,
			"page/home  a broken link (line 3)",
		},
		api.ProblemTypeRefused: {`[{"path":"../x","why":"it leads out"}]`, "../x  it leads out"},
		api.ProblemTypeStale:   {`[{"address":"menu/main","message":"was changed"}]`, "menu/main  was changed"},
	} {
		var details any
		require.NoError(t, json.Unmarshal([]byte(c.details), &details))
		p := problemError{api.Problem{Type: typ, Details: &details}}
		assert.Equal(t, []string{c.want}, p.details(), typ)
		details = []any{"a plain sentence"}
		assert.Equal(t, []string{"a plain sentence"}, p.details(), typ)
		details = 7
		assert.Empty(t, p.details(), "what has another form is left out")
	}
}

func TestEveryRemedyIsSaidInWords(t *testing.T) {
	seen := map[string]api.RemedyCode{}
	for _, code := range remedyCodes(t) {
		text := toFix(api.Remedy{Code: code}, nil)
		require.NotEmpty(t, text, "no sentence for %s", code)
		assert.Empty(t, seen[text], "%s and %s say the same", code, seen[text])
		seen[text] = code
	}
}

// The way out can be pasted: what the problem does not say stands in the command that was given.
func TestTheWayOutCanBePasted(t *testing.T) {
	a := &app{}
	root := a.root()
	cmd, args, err := root.Find([]string{"draft", "steps", "larch-saddle", "it's spring"})
	require.NoError(t, err)
	require.NoError(t, root.PersistentPreRunE(cmd, args))
	for code, want := range map[api.RemedyCode]string{
		api.RemedyCodeShowDrafts:   "cparcel site show larch-saddle",
		api.RemedyCodeCheckName:    "cparcel draft list larch-saddle",
		api.RemedyCodeCheckOptions: "cparcel draft steps --help",
	} {
		p := &problemError{api.Problem{Remedy: &api.Remedy{Code: code}}}
		assert.Contains(t, a.commanded(p, toFix(*p.Remedy, a.named)), want)
	}
	// Open questions are answered behind the command as it was given; a token is not repeated.
	var details any = []plan.Question{{Key: "fill:hut-name"}, {Key: "need:x-strip",
		Choices: []plan.Choice{{Decision: plan.Accept}, {Decision: plan.Leave}}}}
	a.args = []string{"site", "new", "birch", "--kit", "huts", "--token", "cpt_secret", "--token=cpt_secret"}
	open := &problemError{api.Problem{Type: api.ProblemTypeWaitsForDecisions, Details: &details,
		Remedy: &api.Remedy{Code: api.RemedyCodeAnswerHere}}}
	assert.Equal(t, "run it again with your answers: cparcel site new birch --kit huts --fill 'hut-name=…' "+
		"--decide need:x-strip=accept", a.commanded(open, toFix(*open.Remedy, a.named)))
	assert.Equal(t, `'it'\''s spring'`, quoted("it's spring"))
	assert.Equal(t, "hut-basics@2.0.0:page/a", quoted("hut-basics@2.0.0:page/a"))
	assert.Equal(t, []string{"part/top is off", "Made the page /a/", ""},
		[]string{sentence("part/top is off"), sentence("made the page /a/"), sentence("")})
}

// Each command about sites is in a group.
func TestSiteCommandsAreGrouped(t *testing.T) {
	cmd := (&app{}).siteCommands()
	for _, c := range cmd.Commands() {
		assert.NotEmpty(t, c.GroupID, c.Name())
	}
}
