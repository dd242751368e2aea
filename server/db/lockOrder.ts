/**
 * The order in which a transaction locks rows: a table before those after it, and of one table the rows by their ids.
 * Whoever locks in this order never waits for somebody who waits for him.
 */
export const lockOrder = [
  "order_source",
  "sales_order",
  "pick_run",
  "shipment",
  "collection",
  "package",
  "stock",
  "shipping_run",
] as const

const rank = new Map<string, number>(lockOrder.map((table, at) => [table, at]))

/** What a connection's transaction has locked so far, by table; checked in tests only, where `VARNOK_LOCK_ORDER` is set. */
export class LockWatch {
  private readonly locked = new Set<number>()

  /** Notes a statement. Throws where it locks a table for the first time after one that comes later. */
  note(sql: string, stack = ""): void {
    if (/^(BEGIN|COMMIT|ROLLBACK(?! TO))/i.test(sql)) return this.locked.clear()
    if (!/\bfor update\b/i.test(sql)) return
    const table = /\bfrom `(\w+)`/i.exec(sql)?.[1] ?? ""
    const own = rank.get(table)
    if (own === undefined || this.locked.has(own)) return
    const later = [...this.locked].filter((one) => one > own).map((one) => lockOrder[one])
    if (later.length > 0) throw new Error(`locks out of order: ${table} after ${later.join(", ")}\n${stack}`)
    this.locked.add(own)
  }
}
