import { execFileSync } from "node:child_process"
import { readFileSync } from "node:fs"
import { expect, it } from "vitest"
import { en } from "../../app/messages/en.ts"
import { say, sayReason } from "../../app/messages/index.ts"

const source = execFileSync("git", ["ls-files", "-co", "--exclude-standard", "--", "app", "core", "server"])
  .toString()
  .trim()
  .split("\n")
  .filter((file) => /\.tsx?$/.test(file) && !/\.test\.|messages\/en/.test(file))
  .map((file) => readFileSync(file, "utf8"))
  .join("\n")

it("has words for every key that the interface says", () => {
  const said = [...source.matchAll(/say\(\s*"([\w.-]+)"/g)].map((match) => match[1] as string)
  expect(said.length).toBeGreaterThan(200)
  expect(said.filter((key) => !(key in en))).toEqual([])
})

it("has words for every reason that core and server give", () => {
  const given = [...source.matchAll(/reason\(\s*"([\w.-]+)"/g)].map((match) => match[1] as string)
  expect(given.length).toBeGreaterThan(60)
  expect(given.filter((key) => !(key in en))).toEqual([])
})

it("has a story for everything that the audit records of an order", () => {
  const recorded = [
    ...source.matchAll(
      /action:\s*(?:[^"\n{}]*\?\s*)?"((?:order|pick|pack|buy|void|dock|paper|user|token|item)\.[\w.-]+)"/g,
    ),
  ].map((match) => match[1] as string)
  expect(recorded.length).toBeGreaterThan(12)
  expect(recorded.filter((action) => !(`story.${action}` in en))).toEqual([])
})

it("puts values into words, and shows a key that has none", () => {
  expect(say("scan.order-unknown", { bench: 48217 })).toBe("No order has the number 48217")
  expect(say("no.such.key")).toBe("no.such.key")
  expect(sayReason({ code: "row.not-a-quantity", values: { line: "3", field: "quantity", value: "four" } })).toBe(
    "quantity “four” is not a whole number from 1 on",
  )
})
