import type { Decimal } from "decimal.js"
import { type Reason, reason } from "../refusal/index.ts"

/**
 * Whether the export of a shipment from the United States must be filed, by 15 CFR 30.37(a), 30.36 and 758.1 (from
 * memory). The limit is over what leaves together: from one sender to one consignee on one conveyance (the same carrier
 * and day) to one country, under one Schedule B number.
 */
export type Filing =
  | { readonly kind: "none" }
  /** The citation stands on the papers. */
  | { readonly kind: "exempt"; readonly citation: "NOEEI 30.37(a)" | "NOEEI 30.36" }
  | {
      readonly kind: "file"
      readonly why: "value" | "licence" | "destination"
      /** Codes whose value is over the limit, where that is why. */
      readonly codes: readonly string[]
    }

/** Value up to which nothing is filed under one number, in US dollars. */
export const filingLimit = 2500

/** Where filing is due whatever the value: 15 CFR 758.1(b), countries of groups E:1 and E:2 (from memory). */
const alwaysFiled: ReadonlySet<string> = new Set(["CU", "IR", "KP", "SY"])

export interface Exported {
  readonly from: string
  readonly to: string
  /** The goods go on from there to a third country. */
  readonly transit: boolean
  readonly licensed: boolean
  /** US dollars under each number, of this shipment and of all that leaves with it. */
  readonly values: readonly { readonly code: string; readonly usd: Decimal }[]
}

/** Schedule B and the harmonized system are the same up to six digits; without points, codes of any length compare. */
const plain = (code: string): string => code.replace(/\D/g, "")

export function exportFiling({ from, to, transit, licensed, values }: Exported): Filing {
  if (from !== "US" || to === "US") return { kind: "none" }
  if (licensed) return { kind: "file", why: "licence", codes: [] }
  if (alwaysFiled.has(to)) return { kind: "file", why: "destination", codes: [] }
  if (to === "CA" && !transit) return { kind: "exempt", citation: "NOEEI 30.36" }
  const sums = new Map<string, Decimal>()
  for (const one of values) {
    const code = plain(one.code)
    sums.set(code, sums.get(code)?.add(one.usd) ?? one.usd)
  }
  const over = [...sums].filter(([, usd]) => usd.gt(filingLimit)).map(([code]) => code)
  return over.length > 0
    ? { kind: "file", why: "value", codes: over.sort() }
    : { kind: "exempt", citation: "NOEEI 30.37(a)" }
}

/** What an export that must be filed lacks: the number that the filing is answered with, and why it is needed. */
export function filingGaps(filing: Filing, itn: string, country: string): Reason[] {
  if (filing.kind !== "file" || itn !== "") return []
  return filing.why === "value"
    ? [reason("filing.over-value", { codes: filing.codes.join(", "), field: "itn" })]
    : [reason(`filing.${filing.why}`, { country, field: "itn" })]
}
