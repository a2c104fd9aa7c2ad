import type { Schemas } from "./client"

export type Remedy = Schemas["Remedy"]
export type RemedyCode = Schemas["RemedyCode"]

type Values = Record<string, string>
type Sentence = string | ((v: Values) => string)

/** What to do about a problem, in the console's own words: what to press, never what to type. */
const sentences: Record<RemedyCode, Sentence> = {
  "sign-in": "Sign in again.",
  "sign-in-by-password": "Sign in with your name and password to do this.",
  "check-and-retry": "Check name and password, and try again.",
  "wait-a-minute": "Wait a minute, then try again.",
  "ask-admin": "Ask an admin.",
  "ask-for-role": (v) => `Ask an admin for the role ${v.role}, or somebody who has it to do this.`,
  "choose-smaller-scope": (v) => `Choose ${v.role} or less.`,
  "choose-other-password": (v) => `Choose another password, of at least ${v.least} characters.`,
  "make-other-admin": "Make somebody else an admin first.",
  "new-setup-link": "Ask whoever runs the service to start it again; it gives a new link.",
  "open-console": "Open the console in a window of its own.",
  "name-a-change": "Change the role or the password, or switch the account on or off.",
  retry: "Try again in a few seconds. Nothing was changed.",
  redo: "Look at it as it is now, then do it again.",
  "read-again": "Reload the page, and make the change to what is there now.",
  "look-later": "Reload the page in a few seconds. Do not do it again.",
  "look-before": "Reload the page and see whether it happened before you do it again.",
  "new-idempotency-key": "Reload the page and try again.",
  "use-form": (v) => `Write it like this: ${v.form}.`,
  "choose-one-of": (v) => `Choose one of these: ${v.choices}.`,
  "check-name": "Go back to the list and choose from what is there.",
  "choose-other-name": "Choose another name.",
  "import-under-other-name": "Rename the file and drop it again: the kit is named after it.",
  "choose-other-address": "Choose another address.",
  shorten: "Make it shorter. Nothing was kept.",
  "check-options": "Check what you entered.",
  "see-interface": "Reload the page; if it stays, report it.",
  "fix-content": "Correct it. Nothing was kept.",
  "break-circle": "Remove one of these uses from its source.",
  "name-items": "Choose what to add.",
  "name-element": "Point at one element, and give it a name.",
  "split-upload": "Leave out large files, or send it in parts.",
  "make-lighter": "Make its pictures lighter under Pictures.",
  "pack-folder": "Pack the site's folder as a zip with plain paths.",
  "fix-folder": "Correct the folder and adopt it again. Nothing was changed.",
  "get-file-again": "Get the file again from whoever made it. Nothing of it was kept.",
  "choose-kit-file": "Choose a .cpkit file.",
  "choose-font-file": "Choose a WOFF2, WOFF, TrueType or OpenType file of up to 20 MB.",
  "choose-supported-file":
    "Choose a .cpkit file, a ZIP of HTML, CSS and pictures, or one such file. Nothing was kept.",
  "show-items": (v) => `Look at what ${v.site || "the site"} holds.`,
  "show-drafts": "Look at the open drafts of the site.",
  "show-jobs": "Look at the jobs.",
  "decide-behind": "Decide for each item whose side is taken, the draft's or the live site's.",
  "make-draft": "Begin a new draft.",
  "adopt-as-new": "Adopt the folder as a new site.",
  "give-pass": "Give the pass phrase, or leave out what is sealed.",
  "adopt-edits": "Bring the edits in under Edits made outside, or overwrite them.",
  "name-origin-site": (v) => `Compare it with ${v.site}, which it was published from.`,
  "publish-live-site": "Publish the live site to the folder, and edit that.",
  "choose-release": "Choose a release that is still kept.",
  "enable-outlets": "Ask whoever runs the service to give it a folder for outlets.",
  "show-kit": (v) => `Look at what ${v.kit || "the kit"} holds.`,
  "seal-kit": (v) => `Seal ${v.kit || "the kit"} first.`,
  "next-version": (v) => `Begin the next version of ${v.kit || "the kit"}.`,
  "raise-version": (v) => `Call it ${v.version}, or say why this number is right.`,
  "check-kit": "Look at the check again, then seal it.",
  "fix-findings": "Correct what the check found, then seal it.",
  "ask-maker": "Ask whoever made it for a new version number.",
  "sign-or-trust": "Have it signed under Signatures, or trust its key under Trusted keys.",
  "sign-shelf-file": "Download the kit from the shelf, sign that file, and drop it here.",
  "trust-key": (v) => `Trust a key of ${v.team || "the team"} first, under Trusted keys.`,
  "give-public-key": "Give the public key: the file that ends in .pub.",
  "replace-key-pair":
    "Make a new pair of keys, since this private key has been shown, and give the public one.",
  "plan-first": "Plan the delivery first.",
  "stage-first": "Stage the delivery first.",
  "plan-again": "Plan again and look at what changed.",
  "go-live-or-discard": "Make it live, or discard its draft to plan again.",
  "undo-delivered": "Undo it, or open a new delivery.",
  "open-new-delivery": "Open a new delivery.",
  "show-delivery": "Look at the delivery's plan.",
  "answer-here": "Answer the open questions, and do it again.",
  "answer-questions": "Answer the open questions, or discard the draft and plan again.",
  "answer-or-keep": "Answer the questions, or keep what was edited.",
  "blend-or-keep": "Take only the delivery's changes out, or keep what was edited.",
  "keep-edited-or-reset": "Keep what was edited, or set it back first.",
  "free-space": "Ask whoever runs the service to make room on its disk. Nothing was changed.",
  "verify-data": "Ask whoever runs the service to check its data.",
  report: "Try again. If it stays, report it with the number of the request.",
}

/** The sentence for a remedy; "" where there is none. */
export function toFix(remedy: Remedy | undefined): string {
  const sentence = remedy && sentences[remedy.code]
  if (!sentence) return ""
  return typeof sentence === "string" ? sentence : sentence(remedy.values ?? {})
}
