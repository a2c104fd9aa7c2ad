import { onScopeDispose } from "vue"

/**
 * What is under way in the console: requests, pages that are being opened, and what waits for a rest in the typing.
 * Their number stands in the document, as data-under-way of its root, so that whoever drives the console (a test, a
 * script) can wait for it to come to rest. What the service does by itself, and pictures that it still makes, are
 * not counted: nobody here knows when they end.
 */
let count = 0

function tell() {
  document.documentElement.dataset.underWay = String(count)
}
tell()

/** Something begins; what it gives is called when it ends, and may be called again. */
export function begin(): () => void {
  count++
  tell()
  let over = false
  return () => {
    if (over) return
    over = true
    // Later: what the end of one leads to has begun by then.
    setTimeout(() => {
      count--
      tell()
    })
  }
}

/** Does something that is under way until its promise is kept or broken. */
export async function during<T>(act: () => Promise<T>): Promise<T> {
  const end = begin()
  try {
    return await act()
  } finally {
    end()
  }
}

/**
 * Does an act once it was not asked for again for a while. When the component that asks goes, what still waits is done
 * at once, or dropped.
 */
export function useRest(leaving: "do" | "drop") {
  let timer = 0
  let waits: (() => unknown) | null = null
  let end = () => {}
  /** What was asked for is not done. */
  function drop() {
    clearTimeout(timer)
    waits = null
    end()
  }
  function now() {
    const act = waits
    clearTimeout(timer)
    waits = null
    act?.()
    end()
  }
  /** Does the act after so many milliseconds, in the place of what was asked for before. */
  function after(ms: number, act: () => unknown) {
    drop()
    end = begin()
    waits = act
    timer = window.setTimeout(now, ms)
  }
  onScopeDispose(leaving === "do" ? now : drop)
  return { after, drop }
}
