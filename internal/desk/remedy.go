package desk

import "compactparcel/core/kit"

// RemedyCode says what to do about a problem. The set is closed; client and console each
// say it in their own words.
type RemedyCode string

// The remedies, with the values that they carry.
const (
	// Signing in and rights.
	SignInAgain         RemedyCode = "sign-in"
	SignInByPassword    RemedyCode = "sign-in-by-password" // a token is not enough
	CheckAndRetry       RemedyCode = "check-and-retry"     // name or password is wrong
	WaitAMinute         RemedyCode = "wait-a-minute"
	AskAdmin            RemedyCode = "ask-admin"
	AskForRole          RemedyCode = "ask-for-role"          // role
	ChooseSmallerScope  RemedyCode = "choose-smaller-scope"  // role: the most that it may be
	ChooseOtherPassword RemedyCode = "choose-other-password" // least: characters
	MakeOtherAdmin      RemedyCode = "make-other-admin"
	NewSetupLink        RemedyCode = "new-setup-link"
	OpenConsole         RemedyCode = "open-console"
	NameAChange         RemedyCode = "name-a-change"

	// Doing it again.
	Retry             RemedyCode = "retry"
	Redo              RemedyCode = "redo"        // look at it as it is now, then do it again
	ReadAgain         RemedyCode = "read-again"  // for a new ETag
	LookLater         RemedyCode = "look-later"  // it was done; its result cannot be read yet
	LookBeforeRedo    RemedyCode = "look-before" // it may have been done
	NewIdempotencyKey RemedyCode = "new-idempotency-key"

	// Input.
	UseForm             RemedyCode = "use-form"      // form: an example of what fits
	ChooseOneOf         RemedyCode = "choose-one-of" // choices
	CheckName           RemedyCode = "check-name"    // of: kit, where it is the name of one
	ChooseOtherName     RemedyCode = "choose-other-name"
	ImportUnderOther    RemedyCode = "import-under-other-name"
	ChooseOtherAddress  RemedyCode = "choose-other-address"
	Shorten             RemedyCode = "shorten"
	CheckOptions        RemedyCode = "check-options"
	SeeInterface        RemedyCode = "see-interface"
	FixContent          RemedyCode = "fix-content"
	BreakCircle         RemedyCode = "break-circle"
	NameItems           RemedyCode = "name-items"
	NameElement         RemedyCode = "name-element"
	SplitUpload         RemedyCode = "split-upload"
	MakeLighter         RemedyCode = "make-lighter"
	PackFolder          RemedyCode = "pack-folder"
	FixFolder           RemedyCode = "fix-folder"
	GetFileAgain        RemedyCode = "get-file-again"
	ChooseKitFile       RemedyCode = "choose-kit-file"
	ChooseSupportedFile RemedyCode = "choose-supported-file"
	ChooseFontFile      RemedyCode = "choose-font-file"

	// Sites, drafts and outlets.
	ShowItems       RemedyCode = "show-items" // site
	ShowDrafts      RemedyCode = "show-drafts"
	ShowJobs        RemedyCode = "show-jobs"
	MakeDraft       RemedyCode = "make-draft"
	DecideBehind    RemedyCode = "decide-behind" // site, draft
	AdoptAsNew      RemedyCode = "adopt-as-new"
	GivePass        RemedyCode = "give-pass"
	AdoptEdits      RemedyCode = "adopt-edits"      // site
	NameOriginSite  RemedyCode = "name-origin-site" // site
	PublishLiveSite RemedyCode = "publish-live-site"
	ChooseRelease   RemedyCode = "choose-release"
	EnableOutlets   RemedyCode = "enable-outlets"

	// Kits and keys.
	ShowKit            RemedyCode = "show-kit"      // kit
	SealKit            RemedyCode = "seal-kit"      // kit
	BeginNextVersion   RemedyCode = "next-version"  // kit
	RaiseVersion       RemedyCode = "raise-version" // version
	CheckKitAgain      RemedyCode = "check-kit"
	FixFindings        RemedyCode = "fix-findings"
	AskMakerForVersion RemedyCode = "ask-maker"
	SignOrTrust        RemedyCode = "sign-or-trust"   // team
	SignShelfFile      RemedyCode = "sign-shelf-file" // kit
	TrustKeyFirst      RemedyCode = "trust-key"       // team
	GivePublicKey      RemedyCode = "give-public-key"
	ReplaceKeyPair     RemedyCode = "replace-key-pair"

	// Deliveries.
	PlanFirst          RemedyCode = "plan-first"           // delivery
	StageFirst         RemedyCode = "stage-first"          // delivery
	PlanAgain          RemedyCode = "plan-again"           // delivery, where it is known
	GoLiveOrDiscard    RemedyCode = "go-live-or-discard"   // delivery
	UndoDelivered      RemedyCode = "undo-delivered"       // delivery
	OpenNewDelivery    RemedyCode = "open-new-delivery"    //
	ShowDelivery       RemedyCode = "show-delivery"        // delivery
	AnswerQuestions    RemedyCode = "answer-questions"     // delivery
	AnswerHere         RemedyCode = "answer-here"          // with the same command or call
	AnswerOrKeepEdited RemedyCode = "answer-or-keep"       // delivery
	BlendOrKeepEdited  RemedyCode = "blend-or-keep"        // delivery
	KeepEditedOrReset  RemedyCode = "keep-edited-or-reset" // delivery

	// The service itself.
	FreeSpace  RemedyCode = "free-space"
	VerifyData RemedyCode = "verify-data"
	Report     RemedyCode = "report"
)

// RemedyCodes lists all of them.
var RemedyCodes = []RemedyCode{
	SignInAgain, SignInByPassword, CheckAndRetry, WaitAMinute, AskAdmin, AskForRole, ChooseSmallerScope,
	ChooseOtherPassword, MakeOtherAdmin, NewSetupLink, OpenConsole, NameAChange, Retry, Redo, ReadAgain, LookLater,
	LookBeforeRedo, NewIdempotencyKey, UseForm, ChooseOneOf, CheckName, ChooseOtherName, ImportUnderOther,
	ChooseOtherAddress, Shorten,
	CheckOptions, SeeInterface, FixContent, BreakCircle, NameItems, NameElement, SplitUpload, MakeLighter, PackFolder,
	FixFolder, GetFileAgain, ChooseKitFile, ChooseSupportedFile,
	ChooseFontFile, ShowItems, ShowDrafts, ShowJobs, MakeDraft,
	DecideBehind,
	AdoptAsNew, GivePass,
	AdoptEdits, NameOriginSite, PublishLiveSite, ChooseRelease, EnableOutlets, ShowKit, SealKit, BeginNextVersion,
	RaiseVersion, CheckKitAgain, FixFindings, AskMakerForVersion, SignOrTrust, SignShelfFile, TrustKeyFirst,
	GivePublicKey, ReplaceKeyPair, PlanFirst, StageFirst, PlanAgain, GoLiveOrDiscard, UndoDelivered, OpenNewDelivery,
	ShowDelivery, AnswerQuestions, AnswerHere, AnswerOrKeepEdited, BlendOrKeepEdited, KeepEditedOrReset, FreeSpace,
	VerifyData,
	Report,
}

// Remedy is what to do about a problem, with the values that its sentence needs.
type Remedy struct {
	Code   RemedyCode
	Values map[string]string
}

// To makes a remedy from its code and pairs of a value's name and the value.
func To(code RemedyCode, pairs ...string) Remedy {
	r := Remedy{Code: code}
	for i := 0; i+1 < len(pairs); i += 2 {
		if r.Values == nil {
			r.Values = map[string]string{}
		}
		r.Values[pairs[i]] = pairs[i+1]
	}
	return r
}

// Form is the remedy for input of the wrong form: an example of the right one.
func Form(example string) Remedy { return To(UseForm, "form", example) }

// OneOf is the remedy for a word that is none of a closed set.
func OneOf[T ~string](choices ...T) Remedy {
	text := ""
	for i, c := range choices {
		if i > 0 {
			text += ", "
		}
		text += string(c)
	}
	return To(ChooseOneOf, "choices", text)
}

// oneOfFillinTypes is OneOf for what can be filled in.
func oneOfFillinTypes() Remedy { return OneOf(kit.FillinTypes...) }
