import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { MessageFacts, Way } from "core/telling/index.ts"
import { mostText, noFacts } from "core/telling/index.ts"
import { Liquid, LiquidError } from "liquidjs"

export interface Template {
  readonly subject: string
  readonly body: string
}

/** Signs of a template, and of what comes of it. */
export const mostTemplate = 4_000
const mostOut = 20_000

/** What a template may do: ask and repeat. Nothing that reads files, keeps values or counts up. */
const tags = ["if", "unless", "case", "for"] as const

const engine = new Liquid({
  ownPropertyOnly: true,
  strictVariables: true,
  strictFilters: true,
  // what a template may cost: signs that it may be parsed from, milliseconds, and signs that it may make
  parseLimit: mostTemplate * 2,
  renderLimit: 200,
  memoryLimit: 200_000,
  // no template is read from anywhere
  templates: {},
  relativeReference: false,
})
for (const name of Object.keys(engine.tags)) if (!(tags as readonly string[]).includes(name)) delete engine.tags[name]
const filters = [
  "default",
  "upcase",
  "downcase",
  "capitalize",
  "join",
  "size",
  "strip",
  "truncate",
  "first",
  "last",
  "map",
]
for (const name of Object.keys(engine.filters)) if (!filters.includes(name)) delete engine.filters[name]

/** A range could be written that is as long as one likes. */
const range = /\(\s*[\w.]+\s*\.\.\s*[\w.]+\s*\)/

/**
 * What comes of a template: lines of text, whatever foreign text its facts have. Throws LiquidError where it asks for what
 * is not there, or costs too much.
 */
export function render(template: Template, facts: MessageFacts): Template {
  const out = (text: string) => {
    const made = String(engine.parseAndRenderSync(text, facts))
    if (made.length > mostOut) throw new LiquidErrorOfSize()
    return made
  }
  return {
    // a subject is one line
    subject: out(template.subject).replace(/\s+/g, " ").trim().slice(0, 200),
    body: out(template.body)
      .replace(/[^\S\n]+\n/g, "\n")
      .replace(/\n{3,}/g, "\n\n")
      .trim(),
  }
}

class LiquidErrorOfSize extends Error {}

/** Facts as they are at least: with nothing that may be missing. */
const least: MessageFacts = {
  ...noFacts,
  sender: "Sender",
  order: "48201",
  link: "http://127.0.0.1/follow/0123456789012345678901",
}
/** And at most: as many packages and lines as an order has. */
const most: MessageFacts = {
  ...least,
  ...Object.fromEntries(
    Object.entries(least)
      .filter(([, value]) => value === "")
      .map(([name]) => [name, "Wednesday, November 25"]),
  ),
  thanks: true,
  packages: Array.from({ length: 60 }, (_, at) => ({
    name: `48201-${at + 1}`,
    tracking: "LA000000000000",
    state: "on its way",
  })),
  returned: Array.from({ length: 100 }, () => ({
    description: "Dry ale yeast, 500 g",
    sound: 10,
    damaged: 2,
    missing: 1,
  })),
  lines: Array.from({ length: 300 }, (_, at) => ({ quantity: at + 1, description: "Dry ale yeast, 500 g" })),
}

/** What makes a template no good; with none of it, it can be kept. It is tried with the least and the most that there is. */
export function checkTemplate(way: Way, template: Template): Outcome<null> {
  if (template.body.trim() === "") return refused(reason("template.empty", { field: "body" }))
  if (way === "mail" && template.subject.trim() === "") return refused(reason("template.empty", { field: "subject" }))
  for (const field of ["subject", "body"] as const) {
    const text = template[field]
    if (text.length > mostTemplate) return refused(reason("template.long", { most: mostTemplate, field }))
    if (range.test(text)) return refused(reason("template.range", { field }))
    // loops within loops grow with the square of what they go over
    const depth = nesting(text)
    if (depth > 1) return refused(reason("template.nested", { field }))
    for (const facts of [least, most])
      try {
        render({ subject: "", body: "", [field]: text }, facts)
      } catch (error) {
        if (error instanceof LiquidErrorOfSize || costsTooMuch(error))
          return refused(reason("template.cost", { field }))
        if (!(error instanceof LiquidError)) throw error
        return refused(reason("template.wrong", { why: plain(error.message), field }))
      }
  }
  if (way === "text") {
    const longest = render(template, {
      ...most,
      packages: most.packages.slice(0, 1),
      lines: most.lines.slice(0, 1),
      returned: most.returned.slice(0, 1),
    })
    if (longest.body.length > mostText) return refused(reason("template.text-long", { most: mostText, field: "body" }))
  }
  return accepted(null)
}

const costsTooMuch = (error: unknown): boolean => /limit exceeded/.test(String((error as Error).message))

/** What the engine says, without its own words for where: the first line is enough. */
const plain = (message: string): string => (message.split("\n")[0] ?? "").slice(0, 160)

/** How deep loops are within loops. */
function nesting(text: string): number {
  let depth = 0
  let deepest = 0
  for (const [, tag] of text.matchAll(/\{%-?\s*(for|endfor)\b/g)) {
    depth += tag === "for" ? 1 : -1
    deepest = Math.max(deepest, depth)
  }
  return deepest
}

const escaped = (text: string): string =>
  text.replace(
    /[&<>"']/g,
    (sign) => ({ "&": "&amp;", "<": "&lt;", ">": "&gt;", '"': "&quot;", "'": "&#39;" })[sign] ?? sign,
  )

/**
 * The page of an e-mail under our letterhead: its text in paragraphs, each sign of it as text, and only our own link a
 * link. No script, no picture, nothing that is fetched from anywhere.
 */
export function htmlOf(
  text: string,
  head: {
    readonly sender: string
    readonly address: readonly string[]
    readonly link: string
    readonly footer: readonly { readonly text: string; readonly url?: string }[]
    readonly language: string
  },
): string {
  const link = escaped(head.link)
  const paragraph = (lines: string) => {
    const safe = escaped(lines).replaceAll("\n", "<br>")
    return `<p style="margin:0 0 14px">${link ? safe.replaceAll(link, `<a href="${link}" style="color:#1a1814">${link}</a>`) : safe}</p>`
  }
  const footer = head.footer
    .map((one) =>
      one.url ? `<a href="${escaped(one.url)}" style="color:#6b665c">${escaped(one.text)}</a>` : escaped(one.text),
    )
    .join("<br>")
  return [
    `<!doctype html><html lang="${head.language}"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"></head>`,
    `<body style="margin:0;background:#f4f1ea;color:#1a1814;font:16px/1.5 Helvetica,Arial,sans-serif">`,
    `<div style="max-width:560px;margin:0 auto;padding:24px">`,
    `<p style="margin:0 0 20px;font-size:20px;font-weight:bold;border-bottom:2px solid #1a1814;padding-bottom:8px">${escaped(head.sender)}</p>`,
    ...text.split(/\n{2,}/).map(paragraph),
    `<p style="margin:24px 0 0;font-size:13px;color:#6b665c;border-top:1px solid #c9c2b4;padding-top:8px">${head.address.map(escaped).join("<br>")}${head.address.length > 0 && footer ? "<br>" : ""}${footer}</p>`,
    `</div></body></html>`,
  ].join("")
}
