import { say } from "words/index.ts"

/** What can be done with orders, one or many, in the order in which it is offered. */
export const changeWhats = [
  "promise",
  "ship",
  "service",
  "ship-date",
  "leave",
  "packaging",
  "weight",
  "option",
  "no-option",
  "signature",
  "declared",
  "payer",
  "return-label",
  "reference",
  "message",
  "instructions",
  "tag",
  "untag",
  "note",
  "pattern",
  "hold",
  "let-go",
  "remove",
] as const
export type ChangeWhat = (typeof changeWhats)[number]

/** Whether a text is one of the things that can be done. */
export const isChangeWhat = (text: string): text is ChangeWhat => changeWhats.some((one) => one === text)

const plain = (text: string): string => text.normalize("NFKD").replace(/\p{M}/gu, "").toLowerCase()

/**
 * What a typed word may mean of what can be done, the best first: whose name begins with it, in which a word does, or
 * that is also called so. Fewer than two letters find nothing.
 */
export function findFields(text: string, whats: readonly ChangeWhat[]): ChangeWhat[] {
  const typed = plain(text).trim().split(/\s+/).filter(Boolean)
  if (typed.join("").length < 2) return []
  const scored = whats.flatMap((what) => {
    const name = plain(say(`group.what.${what}`))
    const words = `${name} ${plain(say(`group.words.${what}`))}`.split(/[\s,]+/)
    if (!typed.every((one) => words.some((word) => word.startsWith(one)))) return []
    const exact = typed.every((one) => words.includes(one))
    const inName = typed.every((one) => name.split(/\s+/).some((word) => word.startsWith(one)))
    return [{ what, score: (inName ? 0 : 1) + (exact ? 0 : 2) }]
  })
  return scored.sort((a, b) => a.score - b.score).map((one) => one.what)
}
