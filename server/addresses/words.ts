import type { Knex } from "knex"

const longest = 24

/**
 * The words by which a text is found: without accents and capitals, parted at every sign, and of what hyphens or points
 * join also the whole, so that `YST-ALE` is found as `yst ale`, `yst-ale` and `ystale`.
 */
export function wordsOf(text: string): string[] {
  const plain = text.normalize("NFKD").replace(/\p{M}/gu, "").replace(/ß/g, "ss").replace(/ø/gi, "o").toLowerCase()
  const words = new Set<string>()
  for (const part of plain.split(/\s+/)) {
    const pieces = part.split(/[^\p{L}\p{N}]+/u).filter(Boolean)
    for (const piece of pieces) words.add(piece.slice(0, longest))
    if (pieces.length > 1) words.add(pieces.join("").slice(0, longest))
  }
  return [...words]
}

/** The beginnings of words that a search asks for: what is typed, parted as words are. At most eight. */
export const askedFor = (typed: string): string[] =>
  [
    ...new Set(
      typed
        .trim()
        .split(/\s+/)
        .flatMap((part) => {
          const words = wordsOf(part)
          // of a joined word the pieces say all that the whole says
          return words.length > 1 ? words.slice(0, -1) : words
        }),
    ),
  ].slice(0, 8)

/** Words of which there are so many are common, however many more there are. */
const common = 3_000

async function rarestFirst(
  db: Knex,
  table: string,
  asked: readonly string[],
  like: (word: string) => string,
): Promise<[string, ...string[]]> {
  if (asked.length === 1) return [asked[0] as string]
  const counted = await Promise.all(
    asked.map(async (word) => {
      const some = db(table).where("word", "like", like(word)).limit(common).select("word").as("some")
      const found = await db.from(some).count({ n: "*" }).first()
      return { word, n: Number(found?.n ?? 0) }
    }),
  )
  return counted.sort((a, b) => a.n - b.n || b.word.length - a.word.length).map((one) => one.word) as [
    string,
    ...string[],
  ]
}

/**
 * The ids that have a word beginning with each of the asked ones, from a table of words with an index from either side.
 * The rarest word is looked up first, and the others of its rows only until there are enough.
 */
export async function idsWithWords(
  db: Knex,
  table: string,
  id: string,
  asked: readonly string[],
  most: number,
): Promise<number[]> {
  if (asked.length === 0) return []
  const like = (word: string) => `${word.replace(/[\\%_]/g, (sign) => `\\${sign}`)}%`
  const [first, ...others] = await rarestFirst(db, table, asked, like)
  const query = db(`${table} as w0`).where("w0.word", "like", like(first))
  for (const [index, word] of others.entries()) {
    const name = `w${index + 1}`
    query.whereExists(
      db(`${table} as ${name}`).whereRaw(`${name}.${id} = w0.${id}`).where(`${name}.word`, "like", like(word)),
    )
  }
  const rows = await query.limit(most * 4).select({ id: `w0.${id}` })
  return [...new Set<number>(rows.map((row) => row.id))].slice(0, most)
}
