import { hsChapters, hsHeadings } from "./hsTable.ts"

/** A code that may fit, and where it comes from: the item's own history, the shipped headings, or only a chapter. */
export interface HsProposal {
  readonly code: string
  readonly title: string
  readonly from: "history" | "heading" | "chapter"
}

/** Words as they are compared: small, without the ending of a plural. */
const stems = (text: string): string[] =>
  (text.toLowerCase().match(/\p{L}{2,}|\d{4,}/gu) ?? []).map((word) =>
    word.length > 3 ? word.replace(/s$/, "") : word,
  )

const indexed = hsHeadings.map(([code, title, words]) => ({ code, title, words: new Set(stems(`${title} ${words}`)) }))
const chapters = hsChapters.map(([code, title]) => ({ code, title, words: new Set(stems(title)) }))

/**
 * Codes for words of a description, best first: what the item had before, then headings that share most words with it,
 * then chapters. Figures find the codes that begin so. A proposal: nobody is bound by it.
 */
export function findHs(text: string, history: readonly string[] = [], most = 8): HsProposal[] {
  const found = new Map<string, HsProposal>()
  const add = (one: HsProposal) => {
    const same = one.code.replace(/\D/g, "")
    if (!found.has(same)) found.set(same, one)
  }
  for (const code of history) add({ code, title: hsTitle(code), from: "history" })
  const figures = /^[\d.]{2,}$/.test(text.trim()) ? text.replace(/\D/g, "") : null
  if (figures) {
    for (const one of indexed)
      if (one.code.replace(".", "").startsWith(figures)) add({ code: one.code, title: one.title, from: "heading" })
  } else {
    const words = new Set(stems(text))
    const rank = <T extends { readonly words: ReadonlySet<string> }>(all: readonly T[]) =>
      all
        .map((one) => ({ one, shared: [...words].filter((word) => one.words.has(word)).length }))
        .filter(({ shared }) => shared > 0)
        .sort((a, b) => b.shared - a.shared || a.one.words.size - b.one.words.size)
        .map(({ one }) => one)
    for (const one of rank(indexed)) add({ code: one.code, title: one.title, from: "heading" })
    for (const one of rank(chapters)) add({ code: one.code, title: one.title, from: "chapter" })
  }
  return [...found.values()].slice(0, most)
}

/** What a code stands for, as far as the shipped table goes: its heading, or its chapter; empty where it has neither. */
export function hsTitle(code: string): string {
  const figures = code.replace(/\D/g, "")
  const heading = hsHeadings.find(([own]) => own.replace(".", "") === figures.slice(0, 6))
  return heading?.[1] ?? hsChapters.find(([own]) => own === figures.slice(0, 2))?.[1] ?? ""
}
