import type { Finding } from "server/returns/inspect.ts"
import type { ReturnShownWhole } from "server/returns/list.ts"
import { z } from "zod"

export type Items = ReturnShownWhole["items"]

/** A row that is counted: an item, by lot where it went out so. */
export interface CountRow {
  readonly key: string
  readonly item: Items[number]
  readonly lot: Items[number]["lots"][number] | null
  /** Whether the figures of the whole item stand in it. */
  readonly first: boolean
}

export const rowsOf = (items: Items): CountRow[] =>
  items.flatMap((item): CountRow[] =>
    item.lots.length > 0
      ? item.lots.map((lot, index) => ({ key: `${item.itemId}-${lot.id}`, item, lot, first: index === 0 }))
      : [{ key: `${item.itemId}-0`, item, lot: null, first: true }],
  )

const text = z.string().max(200)
const typedSchema = z.object({ sound: text, damaged: text, note: text })
const otherSchema = z.object({ sku: text, lot: text, goods: text, quantity: text })
/** What is kept of a count that is not recorded, such as while its page is loaded again. */
export const countingSchema = z.object({ typed: z.record(z.string().max(40), typedSchema), other: otherSchema })

/** What somebody typed for a row, or for goods that are not of the order. */
export type Typed = Readonly<z.infer<typeof typedSchema>>
export type Other = Readonly<z.infer<typeof otherSchema>>
export interface Counting {
  readonly typed: Readonly<Record<string, Typed>>
  readonly other: Other
}

export const noneTyped: Typed = { sound: "", damaged: "", note: "" }
export const noOther: Other = { sku: "", lot: "", goods: "", quantity: "" }
export const nothingCounted: Counting = { typed: {}, other: noOther }

export const countStates = ["sound", "damaged"] as const
export type CountState = (typeof countStates)[number]

/** Pieces of one row that are recorded at once, at most. */
const mostPieces = 1_000_000

/** Pieces as somebody typed them: none where nothing stands there; null: that is no number of pieces. */
export function piecesIn(typed: string): number | null {
  const own = typed.trim()
  if (own === "") return 0
  return /^\d{1,7}$/.test(own) && Number(own) <= mostPieces ? Number(own) : null
}

/** What is counted, as it is recorded; what is typed wrongly is no part of it. */
export function foundIn({ typed, other }: Counting, rows: readonly CountRow[]): Partial<Finding>[] {
  const known = rows.flatMap(({ key, item, lot }) => {
    const own = typed[key] ?? noneTyped
    return countStates.flatMap((state) => {
      const quantity = piecesIn(own[state]) ?? 0
      // the note is of what is damaged, where something is
      const note = state === "damaged" || !piecesIn(own.damaged) ? own.note : ""
      return quantity > 0 ? [{ itemId: item.itemId as number, lotId: lot?.id ?? null, state, quantity, note }] : []
    })
  })
  const quantity = piecesIn(other.quantity) ?? 0
  return quantity > 0 ? [...known, { ...other, state: "other", quantity }] : known
}

/** What can't be recorded as it is typed: rows by their item, and goods that nobody said the number of. */
export function wrongIn({ typed, other }: Counting, rows: readonly CountRow[]): string[] {
  const wrong = rows.flatMap(({ key, item }) => {
    const own = typed[key]
    return own && countStates.some((state) => piecesIn(own[state]) === null) ? [item.sku] : []
  })
  if (otherIsWrong(other)) wrong.push(nameOf(other) ?? other.quantity)
  return [...new Set(wrong)]
}

const nameOf = ({ sku, lot, goods }: Other): string | undefined =>
  [sku, lot, goods].map((one) => one.trim()).find(Boolean)

/** Whether it is not said how many there are of other goods. */
export function otherIsWrong(other: Other): boolean {
  const pieces = piecesIn(other.quantity)
  return pieces === null || (pieces === 0 && nameOf(other) !== undefined)
}

/** One more scan of so many pieces. What is typed wrongly stays for whoever typed it. */
export function scannedInto(typed: Typed, state: CountState, pieces: number): Typed {
  const before = piecesIn(typed[state])
  return before === null ? typed : { ...typed, [state]: String(before + pieces) }
}

/** What is still to be recorded once a part was: what was scanned or typed meanwhile stays, and notes on nothing counted. */
export function lessRecorded(now: Counting, recorded: Counting): Counting {
  const typed: Record<string, Typed> = {}
  for (const [key, own] of Object.entries(now.typed)) {
    const sent = recorded.typed[key] ?? noneTyped
    const left = (state: CountState): string => {
      const pieces = piecesIn(own[state])
      const less = (pieces ?? 0) - (piecesIn(sent[state]) ?? 0)
      return pieces === null ? own[state] : less > 0 ? String(less) : ""
    }
    const counted = countStates.some((state) => (piecesIn(sent[state]) ?? 0) > 0)
    const rest = {
      sound: left("sound"),
      damaged: left("damaged"),
      note: counted && own.note === sent.note ? "" : own.note,
    }
    if (rest.sound || rest.damaged || rest.note) typed[key] = rest
  }
  const gone =
    (piecesIn(recorded.other.quantity) ?? 0) > 0 && JSON.stringify(now.other) === JSON.stringify(recorded.other)
  return { typed, other: gone ? noOther : now.other }
}
