import { execFileSync } from "node:child_process"
import { readFileSync } from "node:fs"
import { describe, expect, it } from "vitest"
import { en } from "../../app/messages/en.ts"
import { say, sayReason, sayReasons } from "../../app/messages/index.ts"

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

/** Verbs, and words of other kinds, that end as a plural does and may follow any name. */
const verbs = new Set(
  `is was has does lies leads pays takes bears stands weighs goes says asks answers costs prints looks comes begins ends
   stays books means holds needs works ships knows counts allows tells names falls rises writes makes cancels as`.split(
    /\s+/,
  ),
)

const singular = new Set(
  `account bin bench carrier carton case day door error file hour item job label letter line lot minute month number order
   package page pallet part piece quote rate reason row run service shipment stop time tote warehouse week year`.split(
    /\s+/,
  ),
)

describe.each([0, 1, 2])("every message with %i in every place", (n) => {
  const all = Object.entries(en).map(([key, text]) => {
    const places = [...text.matchAll(/\{(\w+)[,}]/g)].map((match) => match[1] as string)
    return { key, told: say(key, Object.fromEntries(places.map((place) => [place, n]))) }
  })

  it("is whole: no brace is left and nothing says that it is not there", () => {
    expect(all.length).toBeGreaterThan(1_500)
    expect(all.filter(({ told }) => /[{}]|undefined|NaN|\bnull\b|#/.test(told))).toEqual([])
  })

  it("puts nouns and verbs in the number that is said", () => {
    const wrong = all.filter(({ told }) =>
      [...told.matchAll(/(?<![\d.,–-])\b(\d) ([a-z]+)\b(?: (is|are|was|were|has|have)\b)?/g)].some(
        ([, figure, noun = "", verb]) => {
          const many = /[^su]s$/.test(noun) && !verbs.has(noun)
          if (figure !== "1" && singular.has(noun)) return true
          return figure === "1"
            ? many || (verb ? /^(are|were|have)$/.test(verb) : false)
            : many && /^(is|was|has)$/.test(verb ?? "")
        },
      ),
    )
    expect(wrong).toEqual([])
  })

  it("puts the verb in the number of the figure where what is counted stands between them", () => {
    // alone, two may be a name such as that of a package, of which one thing is said; an amount as a whole "is more than"
    const [between, verb] =
      n === 1
        ? ["(?: (?:×|of|lot|line|in|\\d|\\(\\d\\)))*", "are|were|have|lie"]
        : ["(?: (?:×|of|lot|line|in) \\d)+", "(?:is|was|has|lies)\\b(?! more| unusual)"]
    const subject = new RegExp(`(?:^|[:.,;] |Only )${n}${between} (?:${verb})\\b`)
    expect(all.filter(({ told }) => subject.test(told))).toEqual([])
  })
})

it("counts in words what was given with separators, and writes the figure as it was given", () => {
  expect(say("intake-file.plate", { n: "1,200" })).toBe("Take in 1,200 orders")
  expect(say("intake-file.plate", { n: "1" })).toBe("Take in 1 order")
})

it("ends no reason in a colon: what follows a colon is part of the sentence", () => {
  const given = new Set([...source.matchAll(/reason\(\s*"([\w.-]+)"/g)].map((match) => match[1] as string))
  expect(Object.entries(en).filter(([key, text]) => given.has(key) && /:\s*$/.test(text))).toEqual([])
})

it("puts several reasons one after another as sentences", () => {
  expect(
    sayReasons([
      { code: "quote.no-service", values: {} },
      { code: "rate.map-none", values: { to: "Fargo" } },
    ]),
  ).toBe("No service takes it. Where Fargo lies is not known.")
})
