import { type Mass, mass } from "../units/index.ts"

/** Why goods cross a border: customs ask for it on every invoice (common practice; codes are our own). */
export const purposes = ["sale", "gift", "sample", "return", "repair", "replacement", "documents"] as const
export type Purpose = (typeof purposes)[number]

/** Over these weights papers count as goods (common practice, no published source). */
const documentLimit: Readonly<Partial<Record<string, Mass>>> = { CH: mass("0.5", "kg") }

/**
 * Whether a shipment is documents and nothing else to the customs of a country, so that it needs no invoice: by its
 * purpose, and where the country sets a limit, by its weight.
 */
export function isDocuments(purpose: Purpose, country: string, gross: Mass): boolean {
  if (purpose !== "documents") return false
  const limit = documentLimit[country]
  return limit === undefined || gross.lte(limit)
}
