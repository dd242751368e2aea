import MySql2 from "knex/lib/dialects/mysql2/index.js"
import { notANumber } from "./faults.ts"
import { LockWatch } from "./lockOrder.ts"

interface Asked {
  sql?: string
  bindings?: readonly unknown[]
  options?: Record<string, unknown>
}
interface Connection {
  destroy(): void
}

const watching = process.env.VARNOK_LOCK_ORDER === "1"
const watches = new WeakMap<Connection, LockWatch>()
function watchOf(connection: Connection): LockWatch {
  const watch = watches.get(connection) ?? new LockWatch()
  watches.set(connection, watch)
  return watch
}

/**
 * Knex's client for mysql2 that waits for an answer no longer than `queryMs` of the settings, and then gives the
 * connection up: a server that hangs would keep it for ever. A figure that is no number never reaches the database, where
 * it would be read as the name of a column.
 */
export class TimedClient extends MySql2 {
  override async _query(connection: Connection, asked: Asked | string): Promise<unknown> {
    const query: Asked = typeof asked === "string" ? { sql: asked } : asked
    if (query.bindings?.some((value) => typeof value === "number" && !Number.isFinite(value)))
      throw Object.assign(new RangeError("a figure that is no number was asked for"), { code: notANumber })
    if (watching) watchOf(connection).note(query.sql ?? "", new Error().stack ?? "")
    const timeout = this.config.queryMs
    query.options = timeout ? { timeout, ...query.options } : query.options
    try {
      return await super._query(connection, query)
    } catch (error) {
      if ((error as { code?: string }).code === "PROTOCOL_SEQUENCE_TIMEOUT") connection.destroy()
      throw error
    }
  }
}
