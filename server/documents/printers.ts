import type { PreferredBy } from "core/preferences/index.ts"
import type { Knex } from "knex"
import type { PrinterRow } from "../db/tables.ts"
import type { DocumentKind } from "./index.ts"

/** Kinds of papers that a printer can be chosen for; `labels` and `papers` for all that have none of their own. */
export const printedKinds = [
  "labels",
  "logistic-label",
  "papers",
  "packing-slip",
  "pick-list",
  "invoice",
  "bill-of-lading",
  "own-paper",
  "manifest",
] as const
export type PrintedKind = (typeof printedKinds)[number]

/** Whether a kind of paper is stuck on: it goes to a printer of labels where no other is said. */
export const isLabel = (kind: DocumentKind | PrintedKind): boolean =>
  kind === "labels" || /(^|-)(label|mark)$/.test(kind)

/** For whom something is printed, and at which bench; nobody and none: as the warehouse does. */
export interface PrintFor {
  readonly userId?: number | null
  readonly benchId?: number | null
}

/**
 * The printer of a kind of paper: the one that the person chose, else the bench's, else the warehouse's; of each what is
 * said for the kind itself before what is said for all labels or papers. Undefined where there is none.
 */
export async function printerFor(
  trx: Knex,
  warehouseId: number,
  kind: DocumentKind,
  { userId = null, benchId = null }: PrintFor,
): Promise<(Pick<PrinterRow, "id" | "form" | "name"> & { readonly by: PreferredBy["kind"] }) | undefined> {
  const group = isLabel(kind) ? "labels" : "papers"
  const uses = await trx("printer_use as u")
    .join("printer as p", "p.id", "u.printer_id")
    .where({ "u.warehouse_id": warehouseId, "p.warehouse_id": warehouseId, "p.active": true })
    .whereIn("u.kind", [kind, group])
    .where((own) =>
      own
        .where((general) => general.whereNull("u.user_id").whereNull("u.bench_id"))
        .orWhere("u.user_id", userId ?? 0)
        .orWhere("u.bench_id", benchId ?? 0),
    )
    .select("p.id", "p.form", "p.name", "u.kind", "u.user_id", "u.bench_id")
  const rank = (use: (typeof uses)[number]) =>
    (use.user_id !== null ? 0 : use.bench_id !== null ? 2 : 4) + (use.kind === kind ? 0 : 1)
  const [chosen] = [...uses].sort((a, b) => rank(a) - rank(b))
  if (!chosen) return undefined
  const by = chosen.user_id !== null ? "user" : chosen.bench_id !== null ? "bench" : "warehouse"
  return { id: chosen.id, form: chosen.form, name: chosen.name, by }
}
