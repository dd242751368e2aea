import { createHash, type Hash } from "node:crypto"
import type { IntakeId } from "core/ids/index.ts"
import type { Reason } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { parsed } from "../audit/index.ts"
import type { OrderRow } from "../formats/orderRow.ts"
import type { Wish } from "./source.ts"

/** An order as a source sent it, before it is one of ours: its good rows, and what was refused of it. */
export interface Draft {
  readonly number: string
  readonly rows: readonly OrderRow[]
  readonly refusals: readonly Reason[]
  readonly contentHash: string
  readonly wish: Wish
}

/** The draft of an order that arrives whole. */
export function draftOf(number: string, rows: readonly OrderRow[], refusals: readonly Reason[], wish: Wish): Draft {
  const content = new ContentHash()
  for (const row of rows) content.row(row)
  content.refuse(refusals)
  return { number, rows, refusals, contentHash: content.digest(), wish }
}

/** The rows of one order of an intake, in the order of the file. */
export async function draftFrom(db: Knex, intakeId: IntakeId, number: string, wish: Wish): Promise<Draft> {
  const rows = await db("intake_row")
    .where({ intake_id: intakeId, order_number: number })
    .select("line", "refusals", "parsed")
  // sorted here: an ORDER BY would make the database walk the whole file by its key
  rows.sort((a, b) => a.line - b.line)
  return draftOf(
    number,
    rows.flatMap((row) => (row.parsed ? [parsed<OrderRow>(row.parsed)] : [])),
    rows.flatMap((row) => parsed<Reason[]>(row.refusals)),
    wish,
  )
}

/** Fields that came after the first release count in a hash only where they say something. */
const later = ["ship_on", "service_asked", "freight_paid", "reference", "cost_centre", "references"] as const

/** Tells an order from a changed one: a hash over what its rows say, fed row by row. */
export class ContentHash {
  private readonly hash: Hash = createHash("sha256")
  private readonly refusals: unknown[] = []
  private rows = 0

  row(row: OrderRow): void {
    // the source's state and the address of its record are about the order, not part of what is ordered
    const {
      incoterm,
      incoterm_place,
      currency,
      gtin: _,
      source_state: __,
      record_url: ___,
      bare: ____,
      ...typedFields
    } = row
    const rest = Object.fromEntries(
      Object.entries(typedFields).filter(
        ([name, value]) => !(later as readonly string[]).includes(name) || (value !== "" && value !== undefined),
      ),
    )
    const terms = incoterm || incoterm_place || currency !== "USD" ? { incoterm, incoterm_place, currency } : {}
    this.hash.update(`${this.rows === 0 ? "[[" : ","}${JSON.stringify({ ...rest, ...terms })}`)
    this.rows += 1
  }

  /** The line of a refusal is where it stood in this file, not part of what the order says. */
  refuse(refusals: readonly Reason[]): void {
    this.refusals.push(...refusals.map((one) => [one.code, one.values.field, one.values.value]))
  }

  digest(): string {
    const rows = this.rows === 0 ? "[[]" : "]"
    return this.hash.update(`${rows},${JSON.stringify(this.refusals)}]`).digest("hex")
  }
}
