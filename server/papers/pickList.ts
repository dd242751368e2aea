import { inCases, type PickListModel } from "core/documents/index.ts"
import { pieceGtin, toteNames } from "core/picking/index.ts"
import { onPaper } from "words/papers.ts"
import type { Walked } from "../picking/stops.ts"
import { perCase } from "../stock/allocation.ts"

/** A pick list as it is printed, of the stops that are still to be picked, in the order of their walk. */
export function pickListModel(
  walked: Walked,
  head: { readonly number: string; readonly title: string; readonly facts: readonly string[] },
): PickListModel {
  const rows = walked.stops
    .filter((stop) => stop.picked < stop.quantity)
    .map((stop) => {
      const quantity = stop.quantity - stop.picked
      return {
        bin: stop.bin,
        item: stop.description,
        sku: stop.sku,
        lot: stop.lot ?? "",
        gtin: pieceGtin(stop.levels),
        quantity,
        cases: inCases(quantity, perCase(stop.levels)),
        into: toteNames(stop.totes) || stop.orderNumber,
      }
    })
  const metres = walked.metres === null ? [] : [onPaper("print.walk", { metres: Math.round(walked.metres) })]
  return { ...head, facts: [...head.facts, ...metres], rows, pieces: rows.reduce((sum, row) => sum + row.quantity, 0) }
}
