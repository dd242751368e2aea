import { execFileSync } from "node:child_process"
import { readFileSync } from "node:fs"
import { IntlMessageFormat } from "intl-messageformat"
import { parseSync } from "vite"
import { describe, expect, it } from "vitest"
import { de } from "words/de/index.ts"
import { en } from "words/en/index.ts"
import { purchaseOrder } from "words/format.ts"
import { say, sayCode, sayIn } from "words/index.ts"
import { type Language, localeOf } from "words/language.ts"
import { sayReason, sayReasons } from "words/reasons.ts"

const source = execFileSync("git", ["ls-files", "-co", "--exclude-standard", "--", "app", "core", "server", "words"])
  .toString()
  .trim()
  .split("\n")
  .filter((file) => /\.tsx?$/.test(file) && !/\.test\.|words\/(en|de)\//.test(file))
  .map((file) => readFileSync(file, "utf8"))
  .join("\n")
const keys = Object.keys(en)

it("has each key in one file", () => {
  const files = execFileSync("git", ["ls-files", "-co", "--exclude-standard", "--", "words/en/*.ts"]).toString().trim()
  const all = files
    .split("\n")
    .filter((file) => !file.endsWith("index.ts"))
    .flatMap((file) => [...readFileSync(file, "utf8").matchAll(/^ {2}"([^"]+)":/gm)].map((match) => match[1]))
  expect(all.length).toBeGreaterThan(4_000)
  expect(all.filter((key, at) => all.indexOf(key) !== at)).toEqual([])
})

it("has words for every key that forms name for their fields", () => {
  const named = [...source.matchAll(/(?:error: |\.(?:min|max|regex|email)\([^()\n]*, )"([a-z-]+\.[\w.-]+)"/g)]
  expect(named.length).toBeGreaterThan(60)
  expect(named.map((match) => match[1]).filter((key) => sayCode(key as string) === null)).toEqual([])
})

it("has a story for everything that the audit records", () => {
  const recorded = [...source.matchAll(/action:\s*(?:[^"\n{}]*\?\s*)?"([a-z]+\.[\w.-]+)"/g)].map((match) => match[1])
  expect(recorded.length).toBeGreaterThan(100)
  expect(recorded.filter((action) => sayCode(`story.${action}`) === null)).toEqual([])
})

it("has no words that nobody says", () => {
  const literal = new Set([...source.matchAll(/["'`]([a-z][\w-]*\.[^"'`\s${}]+)["'`]/g)].map((match) => match[1]))
  const begun = [
    ...[...source.matchAll(/`([a-z][\w-]*\.[\w.-]*)\$\{/g)].map((match) => match[1] as string),
    ...[...source.matchAll(/wordFor\(\s*"([\w.-]+)"/g)].map((match) => `${match[1]}.`),
    ...["lint.", "row.", "cell.", "print.", "encoding.", "delimiter.", "dates.", "decimal.", "orders.stage."],
  ]
  expect(keys.filter((key) => !literal.has(key) && !begun.some((one) => key.startsWith(one)))).toEqual([])
})

it("puts values into words, and answers null for a code that has none", () => {
  expect(say("scan.order-unknown", { orderNumber: 48217 })).toBe("No order has the number 48217.")
  expect(sayCode("no.such.key")).toBeNull()
  expect(sayReason({ code: "row.not-a-quantity", values: { line: "3", field: "quantity", value: "four" } })).toBe(
    "quantity “four” is not a whole number of 1 or more",
  )
})

describe.each(["en", "de"] as const)("the messages in %s", (language: Language) => {
  const words: Readonly<Record<string, string>> = language === "en" ? en : de
  it("are ICU messages", () => {
    for (const [key, text] of Object.entries(words))
      expect(() => new IntlMessageFormat(text, localeOf[language], undefined, { ignoreTag: true }), key).not.toThrow()
  })

  it("have every word of a plural and select that their language needs", () => {
    const without = Object.entries(words).filter(([, text]) =>
      [...text.matchAll(/, (plural|select), (.*?\})\}/g)].some(([, kind, options = ""]) =>
        kind === "plural" ? !/one \{.*other \{/.test(`${options}}`) : !/other \{/.test(`${options}}`),
      ),
    )
    expect(without).toEqual([])
  })
})

/** Verbs, and words of other kinds, that end as a plural does and may follow any name. */
const verbs = new Set(
  `is was has does leads pays takes bears weighs goes says asks answers costs prints looks comes begins ends starts
   stays books means holds needs works ships knows counts allows tells names falls rises writes makes cancels as charges
   voids leaves misses fits sticks overlaps passes expires reads serves uses bills refers waits days`.split(/\s+/),
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
    return { key, told: sayCode(key, Object.fromEntries(places.map((place) => [place, n]))) ?? "" }
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
        : ["(?: (?:×|of|lot|line|in) \\d)+", "(?:is|was|has|lies)\\b(?! more| unusual| not on)"]
    const subject = new RegExp(`(?:^|[:.,;] |Only )${n}${between} (?:${verb})\\b`)
    expect(all.filter(({ told }) => subject.test(told))).toEqual([])
  })
})

it("counts as its language writes numbers", () => {
  expect(say("intake-file.plate", { n: 1_200 })).toBe("Import 1,200 orders")
  expect(say("intake-file.plate", { n: 1 })).toBe("Import 1 order")
  // what a reason counts was kept as text
  expect(sayReason({ code: "file.too-many-rows", values: { limit: "50000" } })).toBe(
    "The file has more than 50,000 rows. Split it and send the parts.",
  )
})

it("ends no reason in a colon: what follows a colon is part of the sentence", () => {
  const given = new Set([...source.matchAll(/reason\(\s*"([\w.-]+)"/g)].map((match) => match[1] as string))
  expect(given.size).toBeGreaterThan(300)
  expect(Object.entries(en).filter(([key, text]) => given.has(key) && /:\s*$/.test(text))).toEqual([])
})

it("tells what somebody changed in an order by the names and choices of its form", () => {
  const fields = '[["city","Aurora"],["address_kind","residential"],["kind_confirmed","1"],["dock","no"],["phone",""]]'
  expect(sayReason({ code: "order.changed-by", values: { actor: "Tomas Reyes", fields } })).toBe(
    "Tomas Reyes changed this: City “Aurora”, Address type “residential”, Confirmed “yes”, Loading dock “no”, Phone “–”. " +
      "What you typed is kept. Check it, then save again.",
  )
})

it("says nothing while a file is read: who will read it, and in which language, is not known yet", () => {
  const files = execFileSync("git", ["ls-files", "app", "server", "words"], { encoding: "utf8" })
  const early = files
    .split("\n")
    .filter((file) => /\.tsx?$/.test(file) && !/test\.tsx?$/.test(file))
    .flatMap((file) =>
      spokenEarly(parseSync(file, readFileSync(file, "utf8")).program).map((name) => `${file}: ${name}`),
    )
  expect(early).toEqual([])
})

it("puts several reasons one after another as sentences", () => {
  expect(
    sayReasons([
      { code: "quote.no-service", values: {} },
      { code: "rate.map-none", values: { to: "Fargo" } },
    ]),
  ).toBe("No service can take it. The location of Fargo is unknown.")
})

/** What sounds translated, or is not how it is written in the United States. */
it("speaks plain American English", () => {
  const odd =
    /\b(anew|meanwhile|all the same|from then on|reckoned?|dearer|(?<!there )is no (item|carton|table)|lies? in|somebody|nobody said|may not lie|let (it )?pass|take(n)? (it )?away|labell|catalogue|centre|litre|metre|colour|cancell|organis|please|successfully)\b|!|\d %/i
  expect(Object.entries(en).filter(([, text]) => odd.test(text))).toEqual([])
})

it("speaks German where it has words for it, and English where not", () => {
  const german = sayIn("de")
  expect(german("place.orders")).toBe("Aufträge")
  expect(german("order.void-first")).toBe(say("order.void-first"))
})

it("says PO once, whether or not a purchase order's number says it itself", () => {
  expect(["7719", "PO 6810", "po6810", "P.O. 12", "POT-5"].map(purchaseOrder)).toEqual([
    "PO 7719",
    "PO 6810",
    "po6810",
    "P.O. 12",
    "PO POT-5",
  ])
})

/** What is called of the words outside of any function, by name. */
function spokenEarly(node: unknown): string[] {
  if (Array.isArray(node)) return node.flatMap(spokenEarly)
  if (typeof node !== "object" || node === null) return []
  const { type, callee } = node as { type?: string; callee?: { name?: string } }
  if (type && /Function/.test(type)) return []
  const name = type === "CallExpression" ? (callee?.name ?? "") : ""
  const own =
    /^(say|sayCode|sayReasons?|sayTrouble|wordFor|(short|long|axis)Day|clock(Time)?|dayAndClock|count|duration)$/.test(
      name,
    )
      ? [name]
      : []
  return [...own, ...Object.values(node).flatMap(spokenEarly)]
}
