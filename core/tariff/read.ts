import { type Reason, reason } from "../refusal/index.ts"
import type { Path } from "./lint/index.ts"
import { type Tariff, tariffSchema } from "./schema.ts"

/** What is wrong with a text that should be a tariff, and where. */
export interface Flaw {
  readonly path: Path
  readonly why: Reason
}

export type ReadTariff =
  | { readonly ok: true; readonly tariff: Tariff }
  | { readonly ok: false; readonly flaws: readonly Flaw[] }

/** Reads a tariff document from JSON text; every place at which it is none is told. Never throws. */
export function readTariff(text: string): ReadTariff {
  let body: unknown
  try {
    body = JSON.parse(text)
  } catch (error) {
    return { ok: false, flaws: [{ path: [], why: reason("lint.no-json", { why: (error as Error).message }) }] }
  }
  const read = tariffSchema.safeParse(body)
  if (read.success) return { ok: true, tariff: read.data }
  return {
    ok: false,
    flaws: read.error.issues.slice(0, 200).map((issue) => ({
      path: issue.path.map((part) => (typeof part === "symbol" ? String(part) : part)),
      why: reason("lint.schema", { why: issue.message }),
    })),
  }
}

/** A tariff as text: JSON with a line for each row of figures, so that a change of it can be read. */
export const tariffText = (tariff: unknown): string =>
  `${JSON.stringify(tariff, null, 1).replace(
    /\[\s+([^[\]{}]*?)\s+\]/g,
    (_, inner: string) => `[${inner.replace(/\s*\n\s*/g, " ")}]`,
  )}\n`
