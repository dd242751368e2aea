import { distance } from "fastest-levenshtein"

/** A party on a list of parties that must not be dealt with unlooked at. */
export interface ListedParty {
  readonly id: number
  readonly list: string
  readonly reference: string
  readonly name: string
  readonly street: string
  readonly city: string
  /** ISO 3166-1 alpha-2, or empty where the list does not say. */
  readonly country: string
}

/** Whom goods go to or are sold to. */
export interface Party {
  readonly name: string
  readonly street: string
  readonly city: string
  readonly country: string
}

export interface ScreeningHit {
  readonly party: ListedParty
  readonly by: "name" | "address"
  /** The name that was compared. */
  readonly compared: string
}

/** Words that say only what kind of firm it is, or nothing; they neither make a hit nor prevent one. */
const empty = new Set(
  "inc incorporated llc llp ltd limited co company corp corporation gmbh ag kg ohg sa sarl sas srl spa bv nv plc pty oy ab as aps the and of de la le und et y".split(
    " ",
  ),
)

/**
 * The telling words of a name: without accents, capitals, punctuation, and kinds of firm.
 *
 * @example wordsOf("Société Générale des Eaux, S.A.") // ["societe", "generale", "des", "eaux"]
 */
export function wordsOf(name: string): string[] {
  const plain = name
    .normalize("NFKD")
    .replace(/\p{M}/gu, "")
    .replace(/ß/g, "ss")
    .toLowerCase()
    // letters kept apart by points belong together: S.A., G.m.b.H.
    .replace(/\b(\p{L})\.(?=\p{L}\b)/gu, "$1")
    .replace(/[^\p{L}\p{N}]+/gu, " ")
    .trim()
  const words = plain === "" ? [] : plain.split(" ")
  const telling = words.filter((word) => !empty.has(word))
  return telling.length > 0 ? telling : words
}

/** Whether two words are the same but for a slip: one letter in words of five and more, two in words of nine and more. */
const alike = (a: string, b: string): boolean => {
  if (a === b) return true
  const shorter = Math.min(a.length, b.length)
  const slips = shorter >= 9 ? 2 : shorter >= 5 ? 1 : 0
  return slips > 0 && Math.abs(a.length - b.length) <= slips && distance(a, b) <= slips
}

const everyIn = (some: readonly string[], others: readonly string[]): boolean =>
  some.every((word) => others.some((other) => alike(word, other)))

/**
 * The listed parties that a name and address come too close to. A name does when it holds every telling word of the
 * listed name, whatever the order, slips allowed; a listed name of a single word must be the whole name. An address does
 * when street, place and country are the same. A party whose country is known to be another is compared by name all the
 * same. Common practice, no published rule.
 */
export function screen(
  names: readonly string[],
  at: Omit<Party, "name">,
  list: readonly ListedParty[],
): ScreeningHit[] {
  const compared = [...new Set(names.filter((name) => name.trim() !== ""))].map((name) => ({
    name,
    words: wordsOf(name),
  }))
  const place = (party: Omit<Party, "name">) =>
    [party.street, party.city].map((text) => wordsOf(text).join(" ")).join("|")
  const here = place(at)
  const hits: ScreeningHit[] = []
  for (const party of list) {
    const words = wordsOf(party.name)
    const named = compared.find((one) =>
      words.length === 1 ? one.words.length === 1 && everyIn(words, one.words) : everyIn(words, one.words),
    )
    if (named) hits.push({ party, by: "name", compared: named.name })
    else if (party.street && party.city && party.country === at.country && place(party) === here)
      hits.push({ party, by: "address", compared: `${at.street}, ${at.city}` })
  }
  return hits
}
