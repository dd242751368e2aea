import type { Address } from "./index.ts"

/**
 * Whether a street line is a post office box, which only post and post-delivered services reach (common practice).
 * Read in the languages of the countries that are shipped to: P.O. Box, Postfach, Case postale, C.P., B.P., Apartado.
 */
export function isPostBox(address: Pick<Address, "street" | "street2">): boolean {
  return [address.street, address.street2].some((line) =>
    /\bP\.?\s*O\.?\s*B(OX|\.)?\s*#?\s*\d+|\bpost\s*office\s*box\b|\bPostfach\b|\b(case postale|casella postale)\b|^\s*[CB]\.?\s?P\.?\s*\d+|\b(apartado|private bag)\b/i.test(
      line,
    ),
  )
}

/**
 * Whether an address is one of the armed forces overseas, by its state (AA, AE, AP: Publication 28 of the United States
 * Postal Service, from memory). The post alone goes there, and customs papers are needed.
 */
export const isMilitary = (address: Pick<Address, "country" | "state">): boolean =>
  address.country === "US" && ["AA", "AE", "AP"].includes(address.state)

/** A range of postal codes that carriers reach late or at an extra charge; data of the warehouse. */
export interface RemoteArea {
  readonly name: string
  readonly country: string
  /** First and last code, compared by as many signs as they have. */
  readonly from: string
  readonly to: string
}

/** The remote area that an address lies in, or null. */
export function remoteArea<T extends RemoteArea>(
  areas: readonly T[],
  { country, postalCode }: Pick<Address, "country" | "postalCode">,
): T | null {
  const code = postalCode.replace(/[\s-]/g, "").toUpperCase()
  const within = (area: RemoteArea) =>
    code.slice(0, area.from.length) >= area.from && code.slice(0, area.to.length) <= area.to
  return areas.find((area) => area.country === country && code !== "" && within(area)) ?? null
}
