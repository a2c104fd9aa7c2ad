package client

import (
	"fmt"

	"compactparcel/internal/api"
)

// toFix says in one sentence what to do about a problem, with the command that does it
// where there is one.
func toFix(r api.Remedy) string {
	v := func(name string) string {
		if r.Values == nil {
			return ""
		}
		return (*r.Values)[name]
	}
	switch r.Code {
	case api.RemedyCodeSignIn:
		return "sign in: cparcel sign-in"
	case api.RemedyCodeSignInByPassword:
		return "sign in with your name and password: cparcel sign-in"
	case api.RemedyCodeCheckAndRetry:
		return "check name and password, and try again"
	case api.RemedyCodeWaitAMinute:
		return "wait a minute, then try again"
	case api.RemedyCodeAskAdmin:
		return "ask an admin"
	case api.RemedyCodeAskForRole:
		return fmt.Sprintf("ask an admin for the role %s, or somebody who has it to do this", v("role"))
	case api.RemedyCodeChooseSmallerScope:
		return fmt.Sprintf("choose a scope of at most %s", v("role"))
	case api.RemedyCodeChooseOtherPassword:
		return fmt.Sprintf("choose another password, of at least %s characters", v("least"))
	case api.RemedyCodeMakeOtherAdmin:
		return "make somebody else an admin first: cparcel user change NAME --role admin"
	case api.RemedyCodeNewSetupLink:
		return "start the service again; it prints a new link while there is no user"
	case api.RemedyCodeOpenConsole:
		return "send an access token, and no Origin"
	case api.RemedyCodeNameAChange:
		return "give a role or a password, or switch the account on or off"
	case api.RemedyCodeRetry:
		return "try again in a few seconds; nothing was changed"
	case api.RemedyCodeRedo:
		return "look at it again, then repeat the command"
	case api.RemedyCodeReadAgain:
		return "read it again, and make the change to what is there now"
	case api.RemedyCodeLookLater:
		return "look at the result in a few seconds; do not repeat the command"
	case api.RemedyCodeLookBefore:
		return "check whether it happened before you repeat the command"
	case api.RemedyCodeNewIdempotencyKey:
		return "use a new Idempotency-Key for each request, such as a UUID"
	case api.RemedyCodeUseForm:
		return fmt.Sprintf("write it like this: %s", v("form"))
	case api.RemedyCodeChooseOneOf:
		return fmt.Sprintf("choose one of: %s", v("choices"))
	case api.RemedyCodeCheckName:
		return "check the name; the list command shows what there is"
	case api.RemedyCodeChooseOtherName:
		return "choose another name"
	case api.RemedyCodeChooseOtherAddress:
		return "choose another address"
	case api.RemedyCodeShorten:
		return "make it shorter; nothing was kept"
	case api.RemedyCodeCheckOptions:
		return "check the options with --help"
	case api.RemedyCodeSeeInterface:
		return "see the description of the interface at /api/v1/openapi.yaml"
	case api.RemedyCodeFixContent:
		return "correct it; nothing was kept"
	case api.RemedyCodeBreakCircle:
		return "remove one of these uses from its source"
	case api.RemedyCodeNameItems:
		return "name the items: cparcel kit add NAME@VERSION ADDRESS…"
	case api.RemedyCodeNameElement:
		return "name one element with --element SELECTOR, and what it becomes with --as block/NAME"
	case api.RemedyCodeSplitUpload:
		return "leave out large files, or send it in parts"
	case api.RemedyCodeMakeLighter:
		return "make its pictures lighter: cparcel kit media NAME@VERSION --lighter"
	case api.RemedyCodePackFolder:
		return "pack the site's folder as a zip with plain paths"
	case api.RemedyCodeFixFolder:
		return "correct the folder and adopt it again; nothing was changed"
	case api.RemedyCodeGetFileAgain:
		return "get the file again from whoever made it; nothing of it was kept"
	case api.RemedyCodeChooseKitFile:
		return "choose a .cpkit file"
	case api.RemedyCodeChooseSupportedFile:
		return "send a .cpkit file, a ZIP of HTML, CSS and pictures, or one such file; nothing was kept"
	case api.RemedyCodeShowItems:
		return fmt.Sprintf("look at what there is: cparcel site show %s", v("site"))
	case api.RemedyCodeShowDrafts:
		return "look at the open drafts: cparcel site drafts SITE"
	case api.RemedyCodeMakeDraft:
		return "leave --draft out to make a new draft"
	case api.RemedyCodeAdoptAsNew:
		return "adopt the folder as a new site: cparcel site adopt FOLDER --name NAME"
	case api.RemedyCodeAdoptEdits:
		return fmt.Sprintf("bring the edits in with cparcel site adopt FOLDER --name %s --again, or overwrite them "+
			"with --over", v("site"))
	case api.RemedyCodeNameOriginSite:
		return fmt.Sprintf("name the site that the folder was published from: --name %s", v("site"))
	case api.RemedyCodePublishLiveSite:
		return "publish the live site to the folder, and edit that"
	case api.RemedyCodeChooseRelease:
		return "choose a release that is still kept"
	case api.RemedyCodeEnableOutlets:
		return "start the service with --outlets FOLDER"
	default:
		return toFixKits(r.Code, v)
	}
}

// toFixKits is toFix for kits, deliveries and the service.
func toFixKits(code api.RemedyCode, v func(string) string) string {
	switch code {
	case api.RemedyCodeShowKit:
		return fmt.Sprintf("look at what the kit holds: cparcel kit show %s", v("kit"))
	case api.RemedyCodeSealKit:
		return fmt.Sprintf("seal it first: cparcel kit seal %s", v("kit"))
	case api.RemedyCodeNextVersion:
		return fmt.Sprintf("begin the next version: cparcel kit new %s@VERSION", v("kit"))
	case api.RemedyCodeRaiseVersion:
		return fmt.Sprintf("call it %s, or say with --force why this number is right", v("version"))
	case api.RemedyCodeCheckKit:
		return "check it again: cparcel kit check NAME@VERSION"
	case api.RemedyCodeFixFindings:
		return "correct what the check found, then seal it"
	case api.RemedyCodeAskMaker:
		return "ask whoever made it for a new version number"
	case api.RemedyCodeSignOrTrust:
		return "have it signed with cparcel kit sign NAME@VERSION --key FILE, or trust its key with cparcel trust add"
	case api.RemedyCodeSignShelfFile:
		return "sign the kit on the shelf: cparcel kit sign NAME@VERSION --key FILE"
	case api.RemedyCodeTrustKey:
		return fmt.Sprintf("trust a key first: cparcel trust add KEYFILE --team %s", v("team"))
	case api.RemedyCodeGivePublicKey:
		return "give the .pub file that cparcel file keys new wrote"
	case api.RemedyCodeReplaceKeyPair:
		return "make a new pair with cparcel file keys new, since this private key has been shown; give its .pub file"
	case api.RemedyCodePlanFirst:
		return fmt.Sprintf("plan it first: cparcel delivery plan %s", v("delivery"))
	case api.RemedyCodeStageFirst:
		return fmt.Sprintf("stage it first: cparcel delivery decide %s", v("delivery"))
	case api.RemedyCodePlanAgain:
		return fmt.Sprintf("plan again and look at what changed: cparcel delivery plan %s", or(v("delivery"), "ID"))
	case api.RemedyCodeGoLiveOrDiscard:
		return fmt.Sprintf("go live with cparcel delivery go-live %s, or discard its draft to plan again",
			v("delivery"))
	case api.RemedyCodeUndoDelivered:
		return fmt.Sprintf("undo it with cparcel delivery undo %s, or open a new delivery", v("delivery"))
	case api.RemedyCodeOpenNewDelivery:
		return "open a new delivery: cparcel deliver NAME@VERSION SITE"
	case api.RemedyCodeShowDelivery:
		return fmt.Sprintf("look at the delivery: cparcel delivery show %s", v("delivery"))
	case api.RemedyCodeAnswerQuestions:
		return fmt.Sprintf("answer them with --decide, or discard the draft and plan again: cparcel delivery show %s",
			v("delivery"))
	case api.RemedyCodeAnswerOrKeep:
		return "answer them with --decide, or leave what was edited with --keep-edited"
	case api.RemedyCodeBlendOrKeep:
		return "undo with --blend to take only the delivery's changes out, or with --keep-edited to leave these " +
			"as they are"
	case api.RemedyCodeKeepEditedOrReset:
		return "leave these as they are with --blend --keep-edited, or set them back first"
	case api.RemedyCodeFreeSpace:
		return "make room on the service's disk, then try again; nothing was changed"
	case api.RemedyCodeVerifyData:
		return "run cparceld verify where the service runs; it names what is damaged and repairs what it can"
	case api.RemedyCodeReport:
		return "try again; if it stays, report it with the request's number"
	default:
		return ""
	}
}

// or gives the second text where the first is empty.
func or(text, otherwise string) string {
	if text == "" {
		return otherwise
	}
	return text
}
