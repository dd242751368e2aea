import { type Reason, reason } from "../refusal/index.ts"

/** Where goods go, as printed. `kind` is never guessed: it stays `unknown` until a source or a person says. */
export interface Address {
  readonly company: string
  readonly attention: string
  readonly street: string
  readonly street2: string
  readonly city: string
  readonly state: string
  readonly postalCode: string
  /** ISO 3166-1 alpha-2. */
  readonly country: string
  readonly phone: string
  readonly kind: "unknown" | "business" | "residential"
}

/** ISO 3166-2:US, states, district, and outlying areas with mail by ZIP code. */
export const usStates: ReadonlySet<string> = new Set(
  (
    "AL AK AZ AR CA CO CT DE DC FL GA HI ID IL IN IA KS KY LA ME MD MA MI MN MS MO MT NE NV NH NJ NM NY NC ND OH OK OR " +
    "PA RI SC SD TN TX UT VT VA WA WV WI WY PR VI GU AS MP AA AE AP"
  ).split(" "),
)

/** Whether a street line is a post office box, which only post and post-delivered services reach (common practice). */
export function isPostBox(address: Address): boolean {
  return [address.street, address.street2].some((line) =>
    /\bP\.?\s*O\.?\s*B(OX|\.)?\s*#?\s*\d+|\bpost\s*office\s*box\b/i.test(line),
  )
}

/** The first three digits of a ZIP code, by which zone charts go. */
export const zip3 = (postalCode: string): string => postalCode.slice(0, 3)

/** What keeps a parcel label from being made for this address, each with the field it stands in. */
export function addressGaps(address: Address): Reason[] {
  const gaps: Reason[] = []
  if (!address.company && !address.attention) gaps.push(reason("address.no-name", { field: "company" }))
  if (!address.street.trim()) gaps.push(reason("address.no-street", { field: "street" }))
  else if (!/\d/.test(`${address.street} ${address.street2}`)) {
    gaps.push(reason("address.no-house-number", { field: "street", street: address.street }))
  }
  if (!address.city.trim()) gaps.push(reason("address.no-city", { field: "city" }))
  if (address.country === "US") {
    if (!usStates.has(address.state))
      gaps.push(reason("address.state-unknown", { field: "state", state: address.state }))
    if (!/^\d{5}(-\d{4})?$/.test(address.postalCode)) {
      gaps.push(reason("address.postal-code-shape", { field: "postalCode", postalCode: address.postalCode }))
    }
  }
  return gaps
}

/** The lines of an address as printed in the United States: names, streets, then city, state and ZIP code. */
export function addressLines(address: Address): string[] {
  return [
    address.company,
    address.attention,
    address.street,
    address.street2,
    `${address.city} ${address.state} ${address.postalCode}`.replace(/\s+/g, " ").trim(),
    address.country === "US" ? "" : address.country,
  ].filter((line) => line.trim() !== "")
}
