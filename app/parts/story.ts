import type { Reason } from "core/refusal/index.ts"
import { sayOrderValue, sayReasons, wordFor } from "words/reasons.ts"

/** An entry of the story in words. */
export function sayEntry(entry: { readonly action: string; readonly detail: Record<string, unknown> }): string {
  const detail = entry.detail as {
    reasons?: Reason[]
    amount?: { amount: string; currency: string } | string | null
    changes?: { field: string; of?: string; from: string; to: string }[]
  } & Record<string, unknown>
  const changes = (detail.changes ?? [])
    .map(({ field, of, from, to }) => {
      const [before, after] = [from, to].map((value) => sayOrderValue(of ? "" : field, value))
      return `${of ?? wordFor("order", field)} ${before} → ${after}`
    })
    .join(", ")
  // what was written before amounts had their currency is a figure alone
  const { amount: sum } = detail
  const amount = !sum ? "" : typeof sum === "string" ? sum : `${sum.amount} ${sum.currency}`
  const plain = Object.fromEntries(
    Object.entries(detail).filter(([, value]) => ["string", "number"].includes(typeof value)),
  ) as Record<string, string>
  return wordFor("story", entry.action, { ...plain, reasons: sayReasons(detail.reasons ?? []), changes, amount })
}
