import { autocompletion, type CompletionContext, type CompletionResult } from "@codemirror/autocomplete"
import { html } from "@codemirror/lang-html"
import { lintGutter, linter, type Diagnostic } from "@codemirror/lint"
import { EditorView } from "@codemirror/view"
import { basicSetup } from "codemirror"
import { api, result, type Schemas } from "../../api/client"

/** The elements of the page engine, and their attributes. */
const engine: Record<string, string[]> = {
  "cp-content": [],
  "cp-fill": ["region"],
  "cp-form": ["name"],
  "cp-logo": [],
  "cp-menu": ["name", "label", "show", "anchors"],
  "cp-pages": ["label"],
  "cp-part": ["role"],
  "cp-profiles": [],
  "cp-records": ["type", "order", "limit", "show"],
  "cp-region": ["name"],
  "cp-results": [],
  "cp-search": ["label"],
  "cp-section": ["name"],
  "cp-strapline": [],
  "cp-title": [],
}

interface Wanted {
  parent: HTMLElement
  content: string
  site: string
  draft: number | null
  items: Schemas["Item"][]
  changed: () => void
}

/** An editor of HTML that knows the site's classes, tokens and engine elements, and marks what does not fit. */
export async function sourceEditor(w: Wanted): Promise<EditorView> {
  const sheets = w.items.filter((i) => i.address.startsWith("stylesheet/")).slice(0, 20)
  const texts = await Promise.all(
    sheets.map((i) =>
      result(
        api.GET("/api/v1/sites/{site}/item", {
          params: { path: { site: w.site }, query: { address: i.address, draft: w.draft ?? undefined } },
        }),
      )
        .then((d) => d.content ?? "")
        .catch(() => ""),
    ),
  )
  const all = texts.join("\n")
  const classes = [...new Set([...all.matchAll(/\.(-?[_a-zA-Z][\w-]*)/g)].map((m) => m[1]))].sort()
  const properties = [...new Set([...all.matchAll(/(--[\w-]+)/g)].map((m) => m[1]))].sort()
  return new EditorView({
    parent: w.parent,
    doc: w.content,
    extensions: [
      basicSetup,
      html(),
      lintGutter(),
      linter((v) => problemsOf(v.state.doc.toString(), w.items)),
      autocompletion({ override: [(c) => complete(c, classes, properties, w.items)] }),
      EditorView.lineWrapping,
      EditorView.updateListener.of((u) => u.docChanged && w.changed()),
      EditorView.contentAttributes.of({ "aria-label": "Source of the page" }),
      EditorView.theme({
        "&": { height: "100%", fontSize: "14px" },
        ".cm-scroller": { fontFamily: "monospace" },
      }),
    ],
  })
}

function complete(
  c: CompletionContext,
  classes: string[],
  properties: string[],
  items: Schemas["Item"][],
): CompletionResult | null {
  const line = c.state.doc.lineAt(c.pos)
  const before = line.text.slice(0, c.pos - line.from)
  const from = (m: RegExpExecArray) => c.pos - m[1].length
  let m = /class\s*=\s*["'](?:[^"']*\s)?([\w-]*)$/.exec(before)
  if (m) return { from: from(m), options: classes.map((label) => ({ label, type: "class" })) }
  m = /var\(\s*(--[\w-]*)$/.exec(before) ?? /[\s:;"'](--[\w-]*)$/.exec(before)
  if (m) return { from: from(m), options: properties.map((label) => ({ label, type: "variable" })) }
  m = /<(cp-[\w-]*|[a-z]*)$/.exec(before)
  if (m) return { from: from(m), options: Object.keys(engine).map((label) => ({ label, type: "type" })) }
  m = /<cp-(section|menu|form)[^>]*\bname\s*=\s*["']([\w./-]*)$/.exec(before)
  if (m) {
    const [, kind, typed] = m
    return {
      from: c.pos - typed.length,
      options: items
        .filter((i) => i.address.startsWith(kind + "/"))
        .map((i) => ({ label: i.address.slice(kind.length + 1), detail: i.meta.title, type: "text" })),
    }
  }
  m = /<(cp-[\w-]+)\s(?:[^>]*\s)?([\w-]*)$/.exec(before)
  if (m) {
    const typed = m[2]
    return {
      from: c.pos - typed.length,
      options: (engine[m[1]] ?? []).map((label) => ({ label, apply: `${label}=""`, type: "property" })),
    }
  }
  return null
}

/** What in a source names something that the site does not have. */
export function problemsOf(text: string, items: Pick<Schemas["Item"], "address">[]): Diagnostic[] {
  const known = new Set(items.map((i) => i.address))
  const out: Diagnostic[] = []
  for (const m of text.matchAll(/<cp-(section|menu|form)\b[^>]*\bname\s*=\s*["']([^"']+)["']/g)) {
    const address = `${m[1]}/${m[2]}`
    if (!known.has(address))
      out.push({
        from: m.index,
        to: m.index + m[0].length,
        severity: "error",
        message: `There is no ${address}.`,
      })
  }
  for (const m of text.matchAll(/<(cp-[\w-]+)/g))
    if (!(m[1] in engine))
      out.push({
        from: m.index,
        to: m.index + m[0].length,
        severity: "warning",
        message: `The page engine has no ${m[1]}.`,
      })
  for (const m of text.matchAll(/(?:src|href)\s*=\s*["']\/(media\/[^"'?#]+)/g))
    if (!known.has(m[1]))
      out.push({
        from: m.index,
        to: m.index + m[0].length,
        severity: "error",
        message: `There are no ${m[1]}.`,
      })
  return out
}
