import { type Reason, reason } from "../refusal/index.ts"
import { countryFormat, isPostalCode } from "./countries.ts"
import { isPostBox } from "./special.ts"

export * from "./countries.ts"
export * from "./distance.ts"
export * from "./shipTo.ts"
export * from "./special.ts"

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

/** ISO 3166-2:CA. */
export const canadianProvinces: ReadonlySet<string> = new Set("AB BC MB NB NL NS NT NU ON PE QC SK YT".split(" "))

/** The first three digits of a ZIP code, by which zone charts go. */
export const zip3 = (postalCode: string): string => postalCode.slice(0, 3)

/**
 * What keeps a label from being made for this address, each with the field it stands in.
 *
 * @param postalStates states that the postal code lies in, where that is known; none: it is not
 */
export function addressGaps(address: Address, postalStates: readonly string[] = []): Reason[] {
  const gaps: Reason[] = []
  if (!address.company && !address.attention) gaps.push(reason("address.no-name", { field: "company" }))
  if (!address.street.trim()) gaps.push(reason("address.no-street", { field: "street" }))
  else if (!/\d/.test(`${address.street} ${address.street2}`) && !isPostBox(address)) {
    gaps.push(reason("address.no-house-number", { field: "street", street: address.street }))
  }
  if (!address.city.trim()) gaps.push(reason("address.no-city", { field: "city" }))
  const { country, state, postalCode } = address
  if ((country === "US" && !usStates.has(state)) || (country === "CA" && !canadianProvinces.has(state)))
    gaps.push(reason("address.state-unknown", { field: "state", state }))
  else if (countryFormat(country)?.needs?.includes("S") && !state.trim())
    gaps.push(reason("address.state-needed", { field: "state", country }))
  if (!countryFormat(country)) gaps.push(reason("address.country-unknown", { field: "country", country }))
  else if (!isPostalCode(country, postalCode))
    gaps.push(
      reason(country === "US" ? "address.postal-code-shape" : "address.postal-code-abroad", {
        field: "postalCode",
        postalCode,
        country,
      }),
    )
  else if (postalStates.length > 0 && state.trim() !== "" && !postalStates.includes(state))
    gaps.push(reason("address.state-postal", { field: "state", state, postalCode, lies: postalStates.join(", ") }))
  return gaps
}

/** A country's English name, such as `Germany`; the code where it has none. */
export function countryName(code: string): string {
  try {
    return new Intl.DisplayNames(["en"], { type: "region" }).of(code) ?? code
  } catch {
    return code
  }
}

/**
 * The lines of an address as printed: names, streets, the place in the order of its country's post, and abroad the
 * country's name in capitals on the last line. The order of a place's parts: Google's open address metadata.
 */
export function addressLines(address: Address): string[] {
  const { country, state, postalCode, city } = address
  const { format = "%N%n%O%n%A%n%Z %C %S", prefix = "" } = countryFormat(country) ?? {}
  const parts: Readonly<Record<string, string>> = { C: city, S: state, Z: postalCode }
  const lines = format.replace(prefix || "\0", "").split("%n")
  const filled = (line: string): string =>
    line
      .replace(/%([A-Z])/g, (_, part: string) => parts[part] ?? "")
      // no comma between city and state, as the posts of North America ask for
      .replaceAll(",", " ")
      .replace(/\s+/g, " ")
      .trim()
  const hasCity = format.includes("%C")
  const place = lines.flatMap((line) => {
    if (!line.includes("%A")) return /%[NO]/.test(line) ? [] : [filled(line)]
    // what stands beside the street gets a line of its own: in Japan the city with its prefecture
    const beside = filled(line.replace("%A", ""))
    return [address.street, address.street2, !hasCity && beside ? `${city}, ${beside}` : beside]
  })
  const known = place.join("\n").includes(city) ? place : [...place, city]
  return [
    address.company,
    address.attention,
    ...known,
    country === "US" ? "" : countryName(country).toUpperCase(),
  ].filter((line) => line.trim() !== "")
}

/** Where an address lies, in a few words: city with state at home and in Canada, city with country code elsewhere. */
export const placeOf = (address: Pick<Address, "city" | "state" | "country">): string =>
  [address.city, address.country === "US" ? address.state : address.country].filter(Boolean).join(" ")
