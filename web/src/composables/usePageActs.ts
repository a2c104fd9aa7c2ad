import { ref, type Ref } from "vue"
import { api, result, type Schemas } from "../api/client"
import type { Area } from "./area"
import type { Element, useOutline } from "./useOutline"
import type { usePageEdits } from "./usePageEdits"
import type { Told } from "./usePageFrame"
import { putMedia } from "./useItems"

type Operation = Schemas["Operation"]

interface On {
  site: Ref<string>
  page: Ref<string>
  /** Whether somebody may change the page; else they look. */
  keeper: Ref<boolean>
  draft: Ref<number | null>
  width: Ref<number>
  chosen: Ref<Element | null>
  outline: ReturnType<typeof useOutline>
  edits: ReturnType<typeof usePageEdits>
  again: () => void
  post: (what: string, more?: Record<string, unknown>) => void
  says: (words: string) => void
}

export type PageActs = ReturnType<typeof usePageActs>

/** What can be done with the elements of a page, by pointer and keys. */
export function usePageActs(on: On) {
  const announced = ref("")
  const say = (words: string) => {
    announced.value = words
  }
  // What is to be chosen when the page comes again: at this place among the elements.
  let next: ((list: Element[]) => Element | undefined) | null = null
  let revealing = false
  let begin = false
  const wanted = (was: Element | null): Element | null => {
    const list = on.outline.outline.value?.elements ?? []
    const found = next
      ? next(list)
      : was
        ? list.find((e) => e.path === was.path && e.tag === was.tag)
        : undefined
    revealing = !!next
    next = null
    return found ?? null
  }
  const reveal = () => revealing
  const shown = () => {
    if (begin && on.chosen.value) on.post("type", { number: on.chosen.value.number })
    begin = false
    const wanted = list().filter((e) => e.anchor && jumping.includes(e.anchor))
    jumping = []
    jumps = wanted.length
    mends = []
    for (const e of wanted) on.post("jump", { number: e.number })
  }
  const list = () => on.outline.outline.value?.elements ?? []
  // Looks, when the page comes again, whether a bar covers what links to anchors lead to, and mends it.
  let jumping: string[] = []
  let jumps = 0
  let mends: Operation[] = []
  const mendJumps = (anchors: string[]) => {
    jumping = anchors
  }
  function jumped(e: Element, top: number, covered: number) {
    if (covered > top + 1) mends.push(at(e, "appearance", { property: "jump-margin", value: `${covered}px` }))
    if (--jumps === 0 && mends.length)
      void run(mends, `The bar at the top would cover it: links leave ${covered} px free above now`)
  }
  const at = (e: Element, op: Operation["op"], more: Partial<Operation> = {}): Operation => ({
    op,
    page: on.page.value,
    element: e.path,
    ...more,
  })

  /** Does operations, and shows the page as it is by then. */
  async function run(operations: Operation[], words?: string): Promise<boolean> {
    on.post("stop")
    const e = list().find((o) => o.path === operations[0]?.element)
    const got = await on.edits.edit(operations)
    if (got) {
      if (e && operations[0]?.op !== "own-copy") changed(e)
      if (words) say(words)
      else say(got.says.join(". "))
    }
    on.again()
    return !!got
  }
  const behind = (e: Element, by: number) => {
    const same = on.outline.beside(e)
    const place = same.findIndex((o) => o.number === e.number) + by
    next = (list) => {
      const parent = list.find((o) => o.path === on.outline.byNumber.value.get(e.parent)?.path)
      return list.filter((o) => o.parent === (parent?.number ?? -1))[place]
    }
  }
  async function move(e: Element, by: -1 | 1) {
    const same = on.outline.beside(e)
    const other = same[same.findIndex((o) => o.number === e.number) + by]
    if (!other) return say(by < 0 ? "It is the first already" : "It is the last already")
    behind(e, by)
    on.post("take", { number: e.number, how: by < 0 ? "before" : "after", beside: other.number })
    const ok = await run([at(e, "move", { beside: other.path, place: by < 0 ? "before" : "after" })])
    if (ok) say(`${on.outline.called(e)} stands ${by < 0 ? "before" : "behind"} ${on.outline.called(other)}`)
  }
  function moveTo(e: Element, other: Element, place: "before" | "after" | "inside") {
    on.post("take", { number: e.number, how: place, beside: other.number })
    return run([at(e, "move", { beside: other.path, place })])
  }
  function duplicate(e: Element) {
    behind(e, 1)
    on.post("take", { number: e.number, how: "duplicate" })
    return run([at(e, "duplicate")], `${on.outline.called(e)} was duplicated`)
  }
  function remove(e: Element) {
    const up = on.outline.byNumber.value.get(e.parent)
    next = (list) => list.find((o) => o.path === up?.path)
    on.post("take", { number: e.number, how: "remove" })
    return run([at(e, "remove")], `${on.outline.called(e)} was removed; Undo brings it back`)
  }
  async function back(word: "undo" | "redo") {
    on.post("stop")
    if (await on.edits.back(word)) say(word === "undo" ? "Undone" : "Done again")
    on.again()
  }
  function appearance(
    e: Element,
    property: string,
    value: string,
    state?: Operation["state"],
    everywhere = false,
  ) {
    const width = everywhere || on.width.value === 1280 ? undefined : on.width.value
    return run([at(e, "appearance", { property, value, state, width })])
  }

  /** Makes what is shared this page's own: a copy of the part for this page, or of the section. */
  async function onlyHere(e: Element) {
    const linked = e.linked ?? e.item
    if (!linked) return
    if (linked.startsWith("section/")) return run([at(e, "own-copy")], "It is this page’s own now")
    if (!linked.startsWith("part/")) return
    const name = `${linked.slice(5)}-${on.page.value.replaceAll("/", " ").trim().replaceAll(" ", "-") || "home"}`
    const copy = `part/${name}`
    return run(
      [
        { op: "part-copy", item: linked, value: name },
        { op: "part-where", item: copy, value: on.page.value === "/" ? "home" : `page:${on.page.value}` },
      ],
      "This page has a copy of its own now; all others keep what they have",
    )
  }

  // A section that other pages show, too, asks once a draft whether a change is meant for all of them.
  const linkedAsked = ref<{ element: Element; title: string; pages: number } | null>(null)
  const asked = (section: string) => `compact-parcel linked ${on.site.value} ${on.draft.value} ${section}`
  function changed(e: Element) {
    const i = e.linked?.startsWith("section/") ? on.outline.items.value.get(e.linked) : undefined
    if (!i || i.pages < 2 || sessionStorage.getItem(asked(i.address))) return
    linkedAsked.value = { element: e, title: i.title || i.address.slice(8), pages: i.pages }
  }
  async function answerLinked(everywhere: boolean) {
    const a = linkedAsked.value
    linkedAsked.value = null
    if (!a?.element.linked) return
    if (everywhere) return sessionStorage.setItem(asked(a.element.linked), "everywhere")
    on.post("stop")
    if (await on.edits.instead([at(a.element, "own-copy")])) say("It is this page’s own now")
    on.again()
  }

  async function picture(e: Element, file: File) {
    const shows =
      file.type === "image/svg+xml" ||
      (file.type.startsWith("image/") && file.size <= 25 << 20
        ? await createImageBitmap(file).then(
            (b) => (b.close(), true),
            () => false,
          )
        : file.type.startsWith("image/"))
    if (!shows) return on.says(`${file.name} is no picture that browsers show.`)
    if (file.size > 25 << 20)
      return on.says(`${file.name} has more than 25 MB. Save it smaller: 2,000 px are enough.`)
    try {
      const draft = await on.edits.inDraft()
      const address = await putMedia(on.site.value, draft, file)
      on.post("source", { number: e.number, value: URL.createObjectURL(file) })
      await run([at(e, "picture", { value: address })])
    } catch (problem) {
      on.edits.problem.value = problem
    }
  }

  /** Crops a copy of a picture of the site, and shows it in the place of the whole. */
  async function crop(e: Element, media: string, area: Area): Promise<boolean> {
    try {
      const draft = await on.edits.inDraft()
      const got = await on.edits.inLine(() =>
        result(
          api.POST("/api/v1/sites/{site}/pictures/crop", {
            params: { path: { site: on.site.value } },
            body: { media, draft, copy: true, ...area },
          }),
        ),
      )
      return await run([at(e, "picture", { value: got.items[0].address })])
    } catch (problem) {
      on.edits.problem.value = problem
      return false
    }
  }

  /** Keys on the page itself, and on its elements beside it. */
  function key(m: Record<string, unknown>): boolean {
    const e = on.chosen.value
    const all = (on.outline.outline.value?.elements ?? []).filter((o) => o.kind !== "inline")
    const k = String(m.key)
    const changes = m.ctrl || m.alt || k === "Delete" || k === "Backspace"
    if (changes && !on.keeper.value) return false
    if (m.ctrl && (k === "z" || k === "y")) return (void back(k === "y" || m.shift ? "redo" : "undo"), true)
    if (!e) {
      if (k.startsWith("Arrow") && all[0]) return (to(all[0]), true)
      return false
    }
    if (m.alt && (k === "ArrowUp" || k === "ArrowLeft")) return (void move(e, -1), true)
    if (m.alt && (k === "ArrowDown" || k === "ArrowRight")) return (void move(e, 1), true)
    if (m.ctrl && k === "d") return (void duplicate(e), true)
    if (k === "Delete" || k === "Backspace")
      return (e.whole ? void remove(e) : say("It cannot be removed here"), true)
    const place = all.findIndex((o) => o.number === e.number)
    if (k === "ArrowDown" || k === "ArrowRight") return (to(all[Math.min(place + 1, all.length - 1)]), true)
    if (k === "ArrowUp" || k === "ArrowLeft") return (to(all[Math.max(place - 1, 0)]), true)
    if (k === "Escape") {
      const up = on.outline.byNumber.value.get(e.parent)
      if (up) to(up)
      return true
    }
    return false
  }
  function to(e: Element | undefined) {
    if (!e) return
    on.chosen.value = e
    on.post("select", { number: e.number, reveal: true })
    say(`${on.outline.called(e)}, ${on.outline.whose(e)}`)
  }

  function nextSample() {
    const list = on.outline.samples.value
    const e = list[(list.findIndex((s) => s.number === on.chosen.value?.number) + 1) % list.length]
    if (!e) return
    to(e)
    on.post("type", { number: e.number })
  }

  // What the page asks for.
  function told(e: Element, m: Told) {
    if (!on.keeper.value && m.what !== "key") return
    switch (m.what) {
      case "formatted":
        void run([at(e, "formatted", { value: String(m.value) })])
        break
      case "split":
        behind(e, 1)
        begin = true
        void run([
          at(e, "formatted", { value: String(m.first) }),
          at(e, "insert", { place: "after", value: `<${e.tag}>${String(m.rest) || "New words"}</${e.tag}>` }),
        ])
        break
      case "appearance":
        void appearance(e, String(m.property), String(m.value))
        break
      case "file":
        if (e.kind === "picture") void picture(e, m.file as File)
        else on.says("Drop a picture onto the picture that it is to replace.")
        break
      case "jumped":
        jumped(e, Number(m.top), Number(m.covered))
        break
      case "spot":
        spot?.(e, m.place as "before" | "after")
        break
      case "key":
        key(m)
    }
  }

  // The appearance of one element, to be put on another of this page.
  const lifted = ref("")
  const lift = (e: Element) => {
    lifted.value = e.path
    say("Choose another element, and give it this appearance")
  }

  // Inserting at a marked place.
  let spot: ((e: Element, place: "before" | "after") => void) | null = null
  const placeAt = (put: typeof spot) => {
    spot = put
  }
  function place(show: boolean) {
    const blocks = (on.outline.outline.value?.elements ?? []).filter((e) => {
      const up = on.outline.byNumber.value.get(e.parent)
      return (
        e.whole &&
        on.outline.isOwn(e) &&
        (up?.tag === "main" || up?.kind === "section" || !up || up.parent === -1)
      )
    })
    on.post("placing", { list: show ? blocks.map((e) => e.number) : null })
  }
  /** The element beside which something new comes to stand where no place was pointed at: the last block of main. */
  function lastBlock(): Element | undefined {
    const list = on.outline.outline.value?.elements ?? []
    const main = list.find((e) => e.tag === "main")
    const inMain = list.filter((e) => e.parent === (main?.number ?? -1) && e.whole)
    return inMain.findLast((e) => e.tag !== "footer") ?? inMain.at(-1) ?? main
  }
  /** Chooses what came to stand beside an element, when the page comes again. */
  function chooseBeside(e: Element, place: "before" | "after" | "inside") {
    if (place === "inside") next = (list) => list.filter((o) => o.parent === e.number).at(-1)
    else behind(e, place === "after" ? 1 : 0)
  }
  return {
    keeper: on.keeper,
    announced,
    say,
    says: on.says,
    wanted,
    reveal,
    shown,
    run,
    at,
    move,
    moveTo,
    duplicate,
    remove,
    back,
    appearance,
    onlyHere,
    linkedAsked,
    answerLinked,
    changed,
    lifted,
    lift,
    picture,
    crop,
    key,
    to,
    nextSample,
    told,
    placeAt,
    place,
    lastBlock,
    chooseBeside,
    mendJumps,
    again: on.again,
    post: on.post,
    edits: on.edits,
    outline: on.outline,
  }
}
