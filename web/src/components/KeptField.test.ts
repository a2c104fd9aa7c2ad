import { mount } from "@vue/test-utils"
import { expect, test } from "vitest"
import KeptField from "./KeptField.vue"

test("what is being typed stays when another value comes; where nobody types it comes in", async () => {
  const w = mount(KeptField, { props: { value: "44" } })
  const field = w.element as HTMLInputElement
  await w.setProps({ value: "60" })
  expect(field.value).toBe("60")
  field.value = "9"
  await w.trigger("input")
  await w.setProps({ value: "72" })
  expect(field.value).toBe("9")
  field.value = "96"
  await w.trigger("input")
  await w.trigger("change")
  expect(w.emitted("change")).toEqual([["96"]])
})
