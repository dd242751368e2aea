import { gtin14 } from "core/barcodes/index.ts"
import { ownCode } from "core/identifier/index.ts"
import { readings } from "core/scanning/index.ts"
import { useEffect, useState } from "react"
import type { ReturnShownWhole } from "server/returns/list.ts"

export type Items = ReturnShownWhole["items"]

/** A row that is counted: an item, by lot where it went out so. */
export interface CountRow {
  readonly key: string
  readonly item: Items[number]
  readonly lot: Items[number]["lots"][number] | null
}

export const rowsOf = (items: Items): CountRow[] =>
  items.flatMap((item): CountRow[] =>
    item.lots.length > 0
      ? item.lots.map((lot) => ({ key: `${item.itemId}-${lot.id}`, item, lot }))
      : [{ key: `${item.itemId}-0`, item, lot: null }],
  )

/** What somebody typed for a row, or for goods that are not of the order. */
export interface Typed {
  readonly sound: string
  readonly damaged: string
  readonly note: string
}
export interface Other {
  readonly sku: string
  readonly lot: string
  readonly goods: string
  readonly quantity: string
}
const none: Typed = { sound: "", damaged: "", note: "" }
export const noOther: Other = { sku: "", lot: "", goods: "", quantity: "" }

const piecesIn = (text: string): number => (/^\s*\d{1,7}\s*$/.test(text) ? Number(text) : 0)

/** What is being counted, until it is recorded. */
export function useCounts(items: Items, recorded: string) {
  const rows = rowsOf(items)
  const [typed, setTyped] = useState<Readonly<Record<string, Typed>>>({})
  const [other, setOther] = useState<Other>(noOther)
  const [scansAs, setScansAs] = useState<"sound" | "damaged">("sound")
  const [last, setLast] = useState("")
  // what was recorded is counted no more
  useEffect(() => {
    if (!recorded) return
    setTyped({})
    setOther(noOther)
    setLast("")
  }, [recorded])
  const at = (key: string): Typed => typed[key] ?? none
  const set = (key: string, change: Partial<Typed>) =>
    setTyped((before) => ({ ...before, [key]: { ...(before[key] ?? none), ...change } }))
  /** The row that a scanned item is counted in, and the pieces in what was scanned. */
  const itemOf = (text: string): { readonly row: CountRow; readonly sku: string; readonly pieces: number } | null => {
    for (const reading of readings(text)) {
      if (reading.kind !== "gtin" && reading.kind !== "code") continue
      for (const item of items) {
        const pieces =
          reading.kind === "code"
            ? item.sku === ownCode(reading.code)
              ? 1
              : undefined
            : item.codes.find((one) => gtin14(one.gtin) === reading.gtin)?.pieces
        if (pieces === undefined) continue
        const lot = reading.kind === "gtin" ? reading.lot : null
        const own = rows.filter((row) => row.item === item)
        const row = own.find((one) => one.lot?.code === lot) ?? own[0]
        if (row) return { row, sku: item.sku, pieces }
      }
    }
    return null
  }
  const scan = (text: string): boolean => {
    const found = itemOf(text)
    if (!found) return false
    const { key } = found.row
    setTyped((before) => {
      const own = before[key] ?? none
      return { ...before, [key]: { ...own, [scansAs]: String(piecesIn(own[scansAs]) + found.pieces) } }
    })
    setLast(key)
    return true
  }
  const found = [
    ...rows.flatMap((row) =>
      (["sound", "damaged"] as const).flatMap((state) => {
        const quantity = piecesIn(at(row.key)[state])
        return quantity > 0
          ? [
              {
                itemId: row.item.itemId,
                lotId: row.lot?.id ?? null,
                state,
                quantity,
                note: state === "damaged" || !piecesIn(at(row.key).damaged) ? at(row.key).note : "",
              },
            ]
          : []
      }),
    ),
    ...(piecesIn(other.quantity) > 0
      ? [{ ...other, state: "other" as const, quantity: piecesIn(other.quantity) }]
      : []),
  ]
  return {
    recorded,
    rows,
    at,
    set,
    other,
    setOther,
    scansAs,
    setScansAs,
    last,
    itemOf,
    scan,
    found,
    pieces: found.reduce((sum, one) => sum + one.quantity, 0),
  }
}
export type Counts = ReturnType<typeof useCounts>
