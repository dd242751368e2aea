import { createRequire } from "node:module"

/** A CommonJS package: read as one, whatever loads this file. */
const { checkVAT, countries }: typeof import("jsvat-next") = createRequire(import.meta.url)("jsvat-next")

/** Where a VAT number begins with its country: the Union, its neighbors Switzerland and the United Kingdom. */
const ofVat = new Set(
  "AT BE BG CH CY CZ DE DK EE EL ES FI FR GB HR HU IE IT LT LU LV MT NL PL PT RO SE SI SK".split(" "),
)
const known = countries.filter((country) => ofVat.has(country.codes[0] ?? ""))

/**
 * Whether a tax number can be right: one that begins as a VAT number of a country with check digits must have the right
 * ones; of any other nothing is known, and it is taken as it is.
 */
export function taxNumberRight(text: string): boolean {
  const number = text.replace(/[\s.\-/]/g, "").toUpperCase()
  if (!/^[A-Z]{2,3}[A-Z0-9]{5,}$/.test(number) || !ofVat.has(number.slice(0, 2))) return true
  return checkVAT(number, known).isValid
}
