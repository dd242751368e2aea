/**
 * What a failed statement means to whoever asked: the database is `away` (it hangs, is being restarted, or has no
 * connection free), or a value was `bad` (no number, too long for its column, of a row that is not there). Null for
 * anything else, which is a fault of the program.
 */
export type DatabaseFault = "away" | "bad"

const away = new Set([
  "PROTOCOL_SEQUENCE_TIMEOUT",
  "PROTOCOL_CONNECTION_LOST",
  "ECONNREFUSED",
  "ECONNRESET",
  "EPIPE",
  "ETIMEDOUT",
  "ENOENT",
  "ER_SERVER_SHUTDOWN",
  "ER_CON_COUNT_ERROR",
  "ER_STATEMENT_TIMEOUT",
  "ER_LOCK_WAIT_TIMEOUT",
])
/** Statement took too long (1969), lock wait (1205), server going down (1053), too many connections (1040, 1203). */
const awayNumbers = new Set([1969, 1205, 1053, 1040, 1203])
/** Too long, out of range, wrong kind of value (also in WHERE), no such row for a foreign key. */
const badNumbers = new Set([1406, 1264, 1265, 1292, 1366, 1367, 1411, 1452])

export const notANumber = "VARNOK_NOT_A_NUMBER"

export function databaseFault(error: unknown): DatabaseFault | null {
  const { code, errno, name } = (error ?? {}) as { code?: string; errno?: number; name?: string }
  if (code === notANumber || badNumbers.has(errno ?? 0)) return "bad"
  if (name === "KnexTimeoutError" || awayNumbers.has(errno ?? 0) || away.has(code ?? "")) return "away"
  return null
}

/**
 * What went wrong, for a person to see: the database's code, since its message holds the statement with its values; else
 * the error's own message.
 */
export function troubleOf(error: unknown): string {
  const { code, errno } = (error ?? {}) as { code?: string; errno?: number }
  return (errno !== undefined && code ? code : error instanceof Error ? error.message : String(error)).slice(0, 300)
}
