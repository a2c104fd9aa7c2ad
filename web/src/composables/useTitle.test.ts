import { nextTick, ref } from "vue"
import { expect, it } from "vitest"
import { useTitle } from "./useTitle"

it("says which place it is, each name once", async () => {
  const title = ref("Forms")
  useTitle(() => [title.value, "larch-saddle", undefined, "larch-saddle"])
  expect(document.title).toBe("Forms – larch-saddle – Compact Parcel")
  title.value = "larch-saddle"
  await nextTick()
  expect(document.title).toBe("larch-saddle – Compact Parcel")
})
