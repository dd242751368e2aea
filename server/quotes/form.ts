import { readItems, readPackages } from "core/quotes/lines.ts"
import { accepted, type Outcome, reasonOf, refused } from "core/refusal/index.ts"
import { type QuoteAsked, quoteAsked } from "./asked.ts"

/** What the form of a new quote asks, read and checked; every line and field that is wrong is told. */
export function askedFrom(form: FormData): Outcome<QuoteAsked> {
  const text = (name: string, most = 120) =>
    String(form.get(name) ?? "")
      .trim()
      .slice(0, most)
  const packages = readPackages(text("packages", 6_000))
  const items = readItems(text("items", 6_000))
  const bad = [packages, items].flatMap((one) => (one.ok ? [] : one.reasons))
  if (bad.length > 0) return refused(...bad)
  const read = quoteAsked.safeParse({
    customer: text("customer").toUpperCase(),
    shipTo: Object.fromEntries(
      ["company", "attention", "street", "street2", "city", "state", "postalCode", "country", "kind"].flatMap((name) =>
        text(name) ? [[name, text(name)]] : name === "postalCode" ? [[name, ""]] : [],
      ),
    ),
    packages: packages.ok ? packages.value : [],
    lines: items.ok ? items.value : [],
    options: form.getAll("option").map(String),
    promisedOn: text("promisedOn"),
    worth: text("worth").replace(",", "."),
    note: text("note", 500),
  })
  if (read.success) return accepted(read.data)
  const known = read.error.issues.map((issue) => issue.message).filter((message) => message.startsWith("quote."))
  return refused(...[...new Set(known.length > 0 ? known : ["quote.figure"])].map((code) => reasonOf(code)))
}
