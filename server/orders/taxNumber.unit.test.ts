import { stdnum } from "stdnum"
import { describe, expect, it } from "vitest"
import { taxNumberRight } from "./taxNumber.ts"

/** VAT numbers, and the same with a wrong check digit, by the country whose rules the package stdnum has for them. */
const samples = [
  ["DE136695976", "DE136695978", "DE", "vat"],
  ["ATU13585627", "ATU13585626", "AT", "uid"],
  ["FR40303265045", "FR84323140391", "FR", "tva"],
  ["NL004495445B01", "NL123456789B90", "NL", "btw"],
  ["DK13585628", "DK13585627", "DK", "cvr"],
  ["CHE107787577IVA", "CHE107787578IVA", "CH", ""],
] as const

describe("a VAT number", () => {
  it.each(samples)("%s is right, %s is not", (right, wrong) => {
    expect([taxNumberRight(right), taxNumberRight(wrong)]).toEqual([true, false])
  })
  it.each(samples.filter(([, , country]) => country !== "CH"))(
    "%s and %s are told the same by the package stdnum",
    (right, wrong, country, kind) => {
      const says = (number: string) => Boolean(stdnum[country]?.[kind]?.validate(number).isValid)
      expect([says(right), says(wrong)]).toEqual([taxNumberRight(right), taxNumberRight(wrong)])
    },
  )
  it("is only looked at where it begins as one: other tax numbers are taken as they are", () => {
    for (const number of ["41-0000042", "12/345/67890", "RT0001 12345", "NZ123456789", ""])
      expect([number, taxNumberRight(number)]).toEqual([number, true])
  })
})
