import { watchEffect } from "vue"

/** Says in the window's title which place this is: the nearest first, then the product. */
export function useTitle(parts: () => (string | undefined)[]) {
  watchEffect(() => {
    const names = parts().filter((p, i, all): p is string => !!p && all.indexOf(p) === i)
    document.title = [...names, "Compact Parcel"].join(" – ")
  })
}
