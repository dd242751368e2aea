import { describe, expect, it } from "vitest"
import { onceKey } from "./once.server.ts"

const formOf = (fields: Record<string, string>): FormData => {
  const form = new FormData()
  for (const [name, value] of Object.entries(fields)) form.append(name, value)
  return form
}
const page = "3f6c1a52-8f4e-4a35-9d0e-5f3f1f0f7a11"

describe("what a form that is sent is known by", () => {
  const copy = { intent: "copy", key: page, package: "1", times: "2" }
  it("is the same when the same form of the same page is sent twice", () =>
    expect(onceKey(formOf(copy))).toBe(onceKey(formOf(copy))))
  it.each([
    ["another figure in it", { ...copy, times: "3" }],
    ["another form of the page", { ...copy, intent: "split" }],
    ["the page as it is after the first", { ...copy, key: "0b1d9c1e-3e35-4a08-9a3b-0e3f6c1c2d22" }],
  ])("is another for %s", (_, other) => expect(onceKey(formOf(other))).not.toBe(onceKey(formOf(copy))))
  it("is the scan's own where there is one, and new each time where there is nothing", () => {
    expect(onceKey(formOf({ ...copy, scanId: page }))).toBe(page)
    expect(onceKey(formOf({ intent: "copy" }))).not.toBe(onceKey(formOf({ intent: "copy" })))
  })
  it("has room in the column that keeps it", () => {
    expect(onceKey(formOf(copy))).toHaveLength(36)
    expect(onceKey(formOf({ scanId: "x".repeat(90) }))).toHaveLength(36)
  })
})
