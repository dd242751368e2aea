import { decoded } from "core/refusal/index.ts"
import { type Logger, pino } from "pino"

/**
 * An error as it may be logged: what kind it is, its codes and where it was thrown; never figures, names or addresses of
 * customers, which messages of databases and parsers quote. What stands in quotes is left out.
 */
export function plainError(error: unknown): Record<string, unknown> {
  if (!(error instanceof Error)) return { type: typeof error }
  const { code, errno } = error as { code?: unknown; errno?: unknown }
  // Knex puts the whole statement with its values before the message
  const own = errno === undefined && (error as { sql?: unknown }).sql === undefined
  return {
    type: error.name,
    ...(code === undefined ? {} : { code }),
    ...(errno === undefined ? {} : { errno }),
    ...(own ? { message: decoded(error.message)?.code ?? withoutQuotes(error.message) } : {}),
    stack: (error.stack ?? "")
      .split("\n")
      .filter((line) => /^\s+at /.test(line))
      .slice(0, 12)
      .map((line) => line.trim()),
    ...(error.cause instanceof Error ? { cause: plainError(error.cause) } : {}),
  }
}

const withoutQuotes = (text: string): string =>
  text
    .slice(0, 2_000)
    .replace(/"[^"]*"|'[^']*'|`[^`]*`|“[^”]*”/g, "…")
    .slice(0, 300)

/** The sink of a log: what can't be written (a full disk, a pipe that nobody reads) is lost and ends nothing. */
function sink() {
  const out = pino.destination({ dest: 1, sync: true })
  out.on("error", () => undefined)
  return out
}

/** The log of a program, one JSON object a line on standard output. Errors given as `err` are logged by `plainError`. */
export function makeLog(name: string): Logger {
  process.stdout.on("error", () => undefined)
  process.stderr.on("error", () => undefined)
  return pino({ name, level: process.env.VARNOK_LOG ?? "info", serializers: { err: plainError } }, sink())
}
