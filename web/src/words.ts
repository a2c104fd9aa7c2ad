import type { Schemas } from "./api/client"

/** What can stand on a badge. */
export type BadgeState =
  | Schemas["KitState"]
  | Schemas["DeliveryState"]
  | Schemas["Standing"]
  | Schemas["NeedState"]
  | "level"
  | "behind"

/** The words that people read for states and standings. */
export const stateWords: Record<BadgeState, string> = {
  making: "in the making",
  sealed: "sealed",
  opened: "opened",
  planned: "planned",
  staged: "staged",
  live: "live",
  undone: "undone",
  taken: "name taken",
  diverged: "changed on both sides",
  new: "new",
  newer: "newer in the kit",
  edited: "edited here",
  same: "the same",
  older: "newer here",
  removed: "deleted here",
  withdrawn: "no longer in the kit",
  met: "met",
  inside: "in the kit",
  "on-shelf": "on the shelf",
  missing: "missing",
  "too-old": "too old",
  "too-new": "too new",
  level: "up to date",
  behind: "behind",
}

/** How far a job is. */
export const jobStateWords: Record<Schemas["JobState"], string> = {
  waiting: "waits",
  running: "runs",
  done: "is done",
  failed: "has failed",
  stopped: "was stopped",
}

/** On whose word something was decided. */
export const deciderWords: Record<Schemas["DecidedBy"], string> = {
  person: "you",
  "prior-delivery": "you, at the last delivery",
  policy: "the policy",
  rule: "nobody: neither side changes",
  seats: "your choice about places",
}

/** By what a counterpart was recognised. */
export const candidateWords: Record<Schemas["CandidateBy"], string> = {
  origin: "its origin",
  address: "its name",
  slug: "its address",
  digest: "its content",
  name: "its title",
  role: "its role",
}

/** What both sides changed. */
export const conflictWords: Record<Schemas["ConflictKind"], string> = {
  text: "Text",
  structure: "Structure",
  attribute: "Attribute",
  declaration: "Declaration",
  selector: "Selector",
  value: "Value",
  whole: "The whole",
  place: "Place",
}

/** How a kit's version compares with what is on the site. */
export const versionWords: Record<Schemas["VersionStanding"], string> = {
  first: "new here",
  newer: "newer than what is here",
  same: "the version that is here",
  rebuilt: "the version that is here, with other contents",
  older: "older than what is here",
}

/** What is wrong with a link. */
export const linkWords: Record<Schemas["LinkState"], string> = {
  broken: "leads nowhere",
  doubled: "has its anchor twice",
  swapped: "leads to the site's page",
}

/** What pages load from another host. */
export const loadWords: Record<Schemas["LoadKind"], string> = {
  picture: "A picture",
  media: "Sound or video",
  frame: "A frame",
  styles: "Styles",
  script: "A script",
  file: "A file of a stylesheet",
}

/** What visitors would trip over. */
export const faultWords: Record<Schemas["FaultKind"], string> = {
  unreadable: "Cannot be read",
  missing: "Something is missing",
  link: "Link leads nowhere",
  anchor: "Link leads to no such place",
  form: "Form reaches nobody",
  hidden: "Nobody gets to see it",
  filler: "Filler or sample",
  alternative: "Picture without words",
  name: "Link, button or field without words",
  "doubled-id": "Id stands twice",
  contrast: "Hard to read",
  title: "Title or language",
  landmark: "Parts of the page",
  heading: "Headings",
  personal: "Another site’s name",
  heavy: "Heavy file",
  outside: "Loads from elsewhere",
  overflow: "too wide",
  "cut-off": "text cut off",
  covered: "covered by a bar",
  unused: "Unused file",
}

/** What can be done with places that parts of both sides want. */
export const seatWords: Record<Schemas["SeatOption"], string> = {
  ask: "ask for each",
  site: "the site's parts stay",
  kit: "the kit's parts take them",
}

/** What happened to a file of a folder outside. */
export const fileWords: Record<Schemas["FileChangeKind"], string> = {
  changed: "changed",
  added: "added",
  removed: "removed",
  conflict: "conflict",
}

/** What became of an edit made outside. */
export const outsideWords: Record<Schemas["OutsideEditState"], string> = {
  taken: "taken",
  "not-taken": "not taken",
  told: "note",
}

/** What is done with an edit at some of the places that show the same thing. */
export const sharedWords: Record<Schemas["SharedEdits"], string> = {
  ask: "list it, and do not take it",
  everywhere: "make it at all of these places",
  here: "give that place a copy of its own",
}

/** How a run of a page came about. */
export const sourceWords: Record<Schemas["SourceKind"], string> = {
  copied: "as it stands there",
  encoded: "a value",
  address: "an address",
  made: "written when the page is shown",
}

/** The place that names something: <img src>. */
export function whereWords(where: Schemas["Where"] | undefined): string {
  if (!where) return ""
  switch (where.in) {
    case "attribute":
      return `<${where.tag} ${where.name}>`
    case "element":
      return `<${where.tag}>`
    case "value":
      return `a value of <${where.tag}>`
    case "stylesheet":
      return "a stylesheet"
    case "url":
      return "url()"
    case "import":
      return "@import"
    case "selector":
      return "a selector"
    case "token":
      return `the token ${where.name}`
    case "menu-entry":
      return "a menu entry"
    case "confirmation":
      return "the confirmation page"
    case "setting":
      return "a setting"
    case "script":
      return "a script"
    case "manifest":
      return `${where.name} of the web manifest`
    default:
      return where.in satisfies never
  }
}

/** In which way one item leans on another, from the leaning item on. */
export function relationWords(relation: Schemas["Relation"], where?: Schemas["Where"]): string {
  switch (relation) {
    case "names":
      return where ? `uses it in ${whereWords(where)}` : "uses it"
    case "links-to":
      return "links to it"
    case "styled-by":
      return "is styled by it"
    case "record-of":
      return "is of this type"
    case "stands-below":
      return "stands below it"
    case "shows-menu":
    case "shows-form":
    case "shows-setting":
      return "shows it"
    case "holds-section":
      return "holds it"
    case "lists-records":
      return "lists its entries"
    case "uses-component":
      return "uses it"
    case "opens":
      return "opens it"
    default:
      return relation satisfies never
  }
}

/** What kind an item is, in a word that stands before its title. */
export const kindWords: Record<string, string> = {
  page: "page",
  section: "section",
  part: "part",
  block: "block",
  menu: "menu",
  form: "form",
  record: "record",
  setting: "setting",
}
