import { gtin14 } from "core/barcodes/index.ts"
import { ownCode } from "core/identifier/index.ts"
import { readings } from "core/scanning/index.ts"
import { useCallback, useEffect, useMemo, useRef, useState } from "react"
import { useNavigation } from "react-router"
import type { ReturnShownWhole } from "server/returns/list.ts"
import {
  type Counting,
  type CountRow,
  type CountState,
  countingSchema,
  foundIn,
  lessRecorded,
  noneTyped,
  nothingCounted,
  type Other,
  rowsOf,
  scannedInto,
  type Typed,
  wrongIn,
} from "./counting.ts"

/** What was counted in this tab and not recorded: none where there is nothing, or nothing that can be read. */
function keptOf(place: string): Counting {
  try {
    return countingSchema.parse(JSON.parse(sessionStorage.getItem(place) ?? ""))
  } catch {
    return nothingCounted
  }
}

/**
 * What is being counted of a return, until it is recorded. It outlasts that the page is loaded again or left; of what is
 * recorded, that alone is counted no more that was sent, since scans go on meanwhile.
 */
export function useCounts({ id, items }: Pick<ReturnShownWhole, "id" | "items">, recorded: string, sendKey: string) {
  const rows = useMemo(() => rowsOf(items), [items])
  const [counting, setCounting] = useState<Counting>(nothingCounted)
  const [scansAs, setScansAs] = useState<CountState>("sound")
  const [last, setLast] = useState("")
  const sent = useRef<Counting>(nothingCounted)
  const place = `count ${id}`
  const [firstKey] = useState(sendKey)
  useEffect(() => setCounting(keptOf(place)), [place])
  useEffect(() => {
    if (!recorded) return
    setCounting((now) => lessRecorded(now, sent.current))
    sent.current = nothingCounted
    setLast("")
  }, [recorded])
  const first = useRef(true)
  useEffect(() => {
    // what was kept is read before anything is written
    if (first.current) first.current = false
    else if (counting === nothingCounted) sessionStorage.removeItem(place)
    else sessionStorage.setItem(place, JSON.stringify(counting))
  }, [counting, place])
  const set = useCallback(
    (key: string, change: (before: Typed) => Typed) =>
      setCounting((before) => ({
        ...before,
        typed: { ...before.typed, [key]: change(before.typed[key] ?? noneTyped) },
      })),
    [],
  )
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
    set(found.row.key, (before) => scannedInto(before, scansAs, found.pieces))
    setLast(found.row.key)
    return true
  }
  const found = foundIn(counting, rows)
  const wrong = wrongIn(counting, rows)
  // what is sent once more before the first is answered would be counted twice
  const busy = useNavigation().formData?.get("intent") === "count"
  return {
    /** By which the server knows a count that is sent again, also where its answer was lost. */
    key: recorded || firstKey,
    rows,
    typed: counting.typed,
    set,
    other: counting.other,
    setOther: (other: Other) => setCounting((before) => ({ ...before, other })),
    scansAs,
    setScansAs,
    last,
    itemOf,
    scan,
    found,
    /** Items of which something is typed that is no number of pieces. */
    wrong,
    sendable: found.length > 0 && wrong.length === 0 && !busy,
    /** What is counted now is on its way to be recorded. */
    send: () => {
      sent.current = counting
    },
    pieces: found.reduce((sum, one) => sum + (one.quantity ?? 0), 0),
  }
}
export type Counts = ReturnType<typeof useCounts>
