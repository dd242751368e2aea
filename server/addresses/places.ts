import { createRequire } from "node:module"
import { type Place, provincesOfPostalCode } from "core/address/index.ts"

interface Known {
  readonly state: string
  readonly latitude: number
  readonly longitude: number
}

const load = createRequire(import.meta.url)
let codes: ((code: string) => Known | undefined) | null = null
let zones: ((latitude: number, longitude: number) => string) | null = null

/**
 * Where the area of a postal code lies: ZIP codes of the United States and the first three signs of Canada's (package
 * `zipcodes`; its entries at 0°, 0° are unknown). Null elsewhere, since nothing open tells it.
 */
export function placeOfPostalCode(country: string, postalCode: string): Place | null {
  if (country !== "US" && country !== "CA") return null
  codes ??= (load("zipcodes") as { lookup: (code: string) => Known | undefined }).lookup
  const found = codes(country === "US" ? postalCode.slice(0, 5) : postalCode.slice(0, 3))
  if (!found || (found.latitude === 0 && found.longitude === 0)) return null
  return { latitude: found.latitude, longitude: found.longitude }
}

/** States by the first three signs of the ZIP codes in them, for codes that the dataset does not have one by one. */
let statesOf: Map<string, Set<string>> | null = null

/**
 * The states or provinces that a postal code lies in, where that is known: one of the United States by its ZIP code, or
 * by the others that begin alike (package `zipcodes`); of Canada by its first letter. None elsewhere.
 */
export function statesOfPostalCode(country: string, postalCode: string): readonly string[] {
  if (country === "CA") return provincesOfPostalCode(postalCode)
  if (country !== "US" || !/^\d{5}/.test(postalCode)) return []
  const all = load("zipcodes") as { lookup: (code: string) => Known | undefined; codes: Record<string, Known> }
  const exact = all.lookup(postalCode.slice(0, 5))
  if (exact) return [exact.state]
  if (!statesOf) {
    statesOf = new Map()
    for (const [code, one] of Object.entries(all.codes)) {
      const known = statesOf.get(code.slice(0, 3)) ?? new Set()
      statesOf.set(code.slice(0, 3), known.add(one.state))
    }
  }
  return [...(statesOf.get(postalCode.slice(0, 3)) ?? [])]
}

/** The IANA time zone of a place (package `@photostructure/tz-lookup`). */
export function zoneOfPlace({ latitude, longitude }: Place): string {
  zones ??= load("@photostructure/tz-lookup") as (latitude: number, longitude: number) => string
  return zones(latitude, longitude)
}

/** Place and time zone of a postal code; nulls where nothing is known. */
export function locate(country: string, postalCode: string): { place: Place | null; zone: string | null } {
  const place = placeOfPostalCode(country, postalCode)
  return { place, zone: place ? zoneOfPlace(place) : null }
}
