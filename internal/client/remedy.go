package client

import (
	"regexp"
	"slices"
	"strings"

	"compactparcel/core/plan"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

// toFix says in one sentence what to do about a problem, with the command that does it where
// there is one; empty for a code that a newer service sends.
//
// What the problem does not say, the command says that was given: so that the way out can be pasted. named are its
// arguments by the words of its use.
func toFix(r api.Remedy, named map[string]string) string {
	text := placeholder.ReplaceAllStringFunc(remedies[r.Code], func(p string) string {
		name := p[1 : len(p)-1]
		if r.Values != nil && (*r.Values)[name] != "" {
			return (*r.Values)[name]
		}
		return strings.ToUpper(name)
	})
	before, command, ok := strings.Cut(text, "cparcel ")
	if !ok {
		return text
	}
	words := strings.Split(command, " ")
	for i, w := range words {
		if v := named[w]; v != "" && i > 0 {
			words[i] = quoted(v)
		}
	}
	return before + "cparcel " + strings.Join(words, " ")
}

// namedArguments gives the arguments of a command by the words that its use has for them.
func namedArguments(cmd *cobra.Command, args []string) map[string]string {
	out := map[string]string{}
	for i, word := range strings.Fields(cmd.Use)[1:] {
		word = strings.ReplaceAll(word, "[@VERSION]", "@VERSION")
		if word = strings.Trim(word, "[]….,"); i < len(args) && word == strings.ToUpper(word) {
			out[word] = args[i]
		}
	}
	return out
}

// quoted writes an argument as a shell takes it.
func quoted(s string) string {
	if s != "" && strings.Trim(s, "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789-_./@:+=") == "" {
		return s
	}
	return "'" + strings.ReplaceAll(s, "'", `'\''`) + "'"
}

var placeholder = regexp.MustCompile(`\{[a-z]+\}`)

// remedies words every code; {NAME} stands for one of its values.
var remedies = map[api.RemedyCode]string{
	api.RemedyCodeSignIn:               "sign in: cparcel sign-in",
	api.RemedyCodeSignInByPassword:     "sign in with your name and password: cparcel sign-in",
	api.RemedyCodeCheckAndRetry:        "check name and password, and try again",
	api.RemedyCodeWaitAMinute:          "wait a minute, then try again",
	api.RemedyCodeAskAdmin:             "ask an admin",
	api.RemedyCodeAskForRole:           "ask an admin for the role {role}, or somebody who has it to do this",
	api.RemedyCodeChooseSmallerScope:   "choose a scope of at most {role}",
	api.RemedyCodeChooseOtherPassword:  "choose another password, of at least {least} characters",
	api.RemedyCodeMakeOtherAdmin:       "make somebody else an admin first: cparcel people change NAME --role admin",
	api.RemedyCodeNewSetupLink:         "start the service again; it prints a new link while there is no user",
	api.RemedyCodeOpenConsole:          "send an access token, and no Origin",
	api.RemedyCodeNameAChange:          "give a role or a password, or switch the account on or off",
	api.RemedyCodeRetry:                "try again in a few seconds; nothing was changed",
	api.RemedyCodeRedo:                 "look at it again, then repeat the command",
	api.RemedyCodeReadAgain:            "read it again, and make the change to what is there now",
	api.RemedyCodeLookLater:            "look at the result in a few seconds; do not repeat the command",
	api.RemedyCodeLookBefore:           "check whether it happened before you repeat the command",
	api.RemedyCodeNewIdempotencyKey:    "use a new Idempotency-Key for each request, such as a UUID",
	api.RemedyCodeUseForm:              "write it like this: {form}",
	api.RemedyCodeChooseOneOf:          "choose one of: {choices}",
	api.RemedyCodeCheckName:            "check the name",
	api.RemedyCodeChooseOtherName:      "choose another name",
	api.RemedyCodeImportUnderOtherName: "import it under another name or version: --as NAME@VERSION",
	api.RemedyCodeChooseOtherAddress:   "choose another address",
	api.RemedyCodeShorten:              "make it shorter; nothing was kept",
	api.RemedyCodeCheckOptions:         "check the options",
	api.RemedyCodeSeeInterface:         "see the description of the interface at /api/v1/openapi.yaml",
	api.RemedyCodeFixContent:           "correct it; nothing was kept",
	api.RemedyCodeBreakCircle:          "remove one of these uses from its source",
	api.RemedyCodeNameItems:            "name the items: cparcel kit add NAME@VERSION ADDRESS…",
	api.RemedyCodeNameElement: "name one element with --element SELECTOR, and what it becomes with --as " +
		"block/NAME",
	api.RemedyCodeSplitUpload:    "leave out large files, or send it in parts",
	api.RemedyCodeMakeLighter:    "make its pictures lighter: cparcel kit media NAME@VERSION --lighter",
	api.RemedyCodePackFolder:     "pack the site's folder as a zip with plain paths",
	api.RemedyCodeFixFolder:      "correct the folder and adopt it again; nothing was changed",
	api.RemedyCodeGetFileAgain:   "get the file again from whoever made it; nothing of it was kept",
	api.RemedyCodeChooseKitFile:  "choose a .cpkit file",
	api.RemedyCodeChooseFontFile: "choose a WOFF2, WOFF, TrueType or OpenType file of up to 20 MB",
	api.RemedyCodeChooseSupportedFile: "send a .cpkit file, a ZIP of HTML, CSS and pictures, or one such file; " +
		"nothing was kept",
	api.RemedyCodeShowItems:    "look at what there is: cparcel site show {site}",
	api.RemedyCodeDecideBehind: "decide whose side is taken: cparcel draft rebase {site} {draft}",
	api.RemedyCodeShowDrafts:   "look at the open drafts: cparcel site show SITE",
	api.RemedyCodeShowJobs:     "look at the jobs: cparcel job list --ended",
	api.RemedyCodeMakeDraft:    "leave --draft out to make a new draft",
	api.RemedyCodeAdoptAsNew:   "adopt the folder as a new site: cparcel site adopt FOLDER --name NAME",
	api.RemedyCodeGivePass:     "give it with --passphrase-file FILE, or leave that out with --without-own",
	api.RemedyCodeAdoptEdits: "bring the edits in with cparcel site adopt FOLDER --name {site} --again, " +
		"or overwrite them with --over",
	api.RemedyCodeNameOriginSite:  "name the site that the folder was published from: --name {site}",
	api.RemedyCodePublishLiveSite: "publish the live site to the folder, and edit that",
	api.RemedyCodeChooseRelease:   "choose a release that is still kept",
	api.RemedyCodeEnableOutlets:   "start the service with --outlets FOLDER",
	api.RemedyCodeShowKit:         "look at what the kit holds: cparcel kit show {kit}",
	api.RemedyCodeSealKit:         "seal it first: cparcel kit seal {kit}",
	api.RemedyCodeNextVersion:     "begin the next version: cparcel kit new {kit}@VERSION",
	api.RemedyCodeRaiseVersion:    "call it {version}, or say with --force why this number is right",
	api.RemedyCodeCheckKit:        "check it again: cparcel kit check NAME@VERSION",
	api.RemedyCodeFixFindings:     "correct what the check found, then seal it",
	api.RemedyCodeAskMaker:        "ask whoever made it for a new version number",
	api.RemedyCodeSignOrTrust: "have it signed with cparcel kit sign NAME@VERSION --key FILE, or trust its " +
		"key with cparcel trust add",
	api.RemedyCodeSignShelfFile: "sign the kit on the shelf: cparcel kit sign NAME@VERSION --key FILE",
	api.RemedyCodeTrustKey:      "trust a key first: cparcel trust add KEYFILE --team {team}",
	api.RemedyCodeGivePublicKey: "give the .pub file that cparcel file keys new wrote",
	api.RemedyCodeReplaceKeyPair: "make a new pair with cparcel file keys new, since this private key has " +
		"been shown; give its .pub file",
	api.RemedyCodePlanFirst:  "plan it first: cparcel delivery plan {delivery}",
	api.RemedyCodeStageFirst: "stage it first: cparcel delivery decide {delivery}",
	api.RemedyCodePlanAgain:  "plan again and look at what changed: cparcel delivery plan {delivery}",
	api.RemedyCodeGoLiveOrDiscard: "go live with cparcel delivery go-live {delivery}, or discard its draft to " +
		"plan again",
	api.RemedyCodeUndoDelivered:   "undo it with cparcel delivery undo {delivery}, or open a new delivery",
	api.RemedyCodeOpenNewDelivery: "open a new delivery: cparcel deliver NAME@VERSION SITE",
	api.RemedyCodeShowDelivery:    "look at the delivery: cparcel delivery show {delivery}",
	api.RemedyCodeAnswerHere:      "run it again with your answers",
	api.RemedyCodeAnswerQuestions: "answer them with --decide, or discard the draft and plan again: cparcel " +
		"delivery show {delivery}",
	api.RemedyCodeAnswerOrKeep: "answer them with --decide, or leave what was edited with --keep-edited",
	api.RemedyCodeBlendOrKeep: "undo with --blend to take only the delivery's changes out, or with " +
		"--keep-edited to leave these as they are",
	api.RemedyCodeKeepEditedOrReset: "leave these as they are with --blend --keep-edited, or set them back first",
	api.RemedyCodeFreeSpace:         "make room on the service's disk, then try again; nothing was changed",
	api.RemedyCodeVerifyData: "run cparceld verify where the service runs; it names what is damaged and " +
		"repairs what it can",
	api.RemedyCodeReport: "try again; if it stays, report it with the request's number",
}

// again is the command as it was given, without what is nobody's business.
func (a *app) again(more ...string) string {
	words := []string{"cparcel"}
	for i := 0; i < len(a.args); i++ {
		switch {
		case a.args[i] == "--token":
			i++
		case !strings.HasPrefix(a.args[i], "--token="):
			words = append(words, quoted(a.args[i]))
		}
	}
	for _, option := range more {
		if !slices.Contains(a.args, option) {
			words = append(words, option)
		}
	}
	return strings.Join(words, " ")
}

// answers are the options that answer the open questions of a problem, to be changed.
func (p *problemError) answers() []string { return lines(p, answerTo) }

// answerTo is the option that answers an open question, to be changed.
func answerTo(q plan.Question) string {
	if name, fill := strings.CutPrefix(q.Key, "fill:"); fill {
		return "--fill " + quoted(name+"=…")
	}
	for _, c := range q.Choices {
		if c.Decision != plan.Map { // which wants a name
			return "--decide " + quoted(q.Key+"="+c.Written())
		}
	}
	return "--decide " + quoted(q.Key+"=DECISION")
}

// commanded gives the way out with the command that shows it, where what runs says which that is.
func (a *app) commanded(p *problemError, text string) string {
	if a.command == nil || strings.Contains(text, "cparcel ") {
		return text
	}
	switch p.Remedy.Code { //nolint:exhaustive // the other ways out are no command
	case api.RemedyCodeCheckOptions, api.RemedyCodeUseForm, api.RemedyCodeChooseOneOf:
		if a.writtenAs != "" {
			return text + ": " + a.writtenAs
		}
		return text + ": " + a.command.CommandPath() + " --help"
	case api.RemedyCodeAnswerHere:
		return text + ": " + a.again(p.answers()...)
	case api.RemedyCodeAnswerOrKeep:
		return text + ": " + a.again("--keep-edited")
	case api.RemedyCodeKeepEditedOrReset:
		return text + ": " + a.again("--blend", "--keep-edited")
	case api.RemedyCodeBlendOrKeep:
		return text + ": " + a.again("--blend")
	case api.RemedyCodeCheckName:
		if p.Remedy.Values != nil && (*p.Remedy.Values)["of"] == "kit" {
			return text + ": cparcel kit list"
		}
		for up := a.command.Parent(); up != nil; up = up.Parent() {
			for _, c := range up.Commands() {
				if c.Name() == "list" {
					return text + ": " + strings.Join(append([]string{c.CommandPath()}, a.listed(c)...), " ")
				}
			}
		}
	}
	return text
}

// listed are the arguments of a list command that are known.
func (a *app) listed(list *cobra.Command) []string {
	var out []string
	for _, word := range strings.Fields(list.Use)[1:] {
		if v := a.named[strings.Trim(word, "[]…")]; v != "" {
			word = quoted(v)
		}
		out = append(out, word)
	}
	return out
}
