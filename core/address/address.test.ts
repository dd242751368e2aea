import fc from "fast-check"
import { describe, expect, it } from "vitest"
import {
  type Address,
  addressGaps,
  addressLines,
  countries,
  countryFormat,
  greatCircle,
  isMilitary,
  isPostalCode,
  isPostBox,
  kilometres,
  provincesOfPostalCode,
  remoteArea,
  shipToKey,
  tidyPostalCode,
} from "./index.ts"

const at = (more: Partial<Address>): Address => ({
  company: "Elk Run",
  attention: "",
  street: "14 Growler Row",
  street2: "",
  city: "Denver",
  state: "CO",
  postalCode: "80205",
  country: "US",
  phone: "",
  kind: "business",
  ...more,
})

describe("a postal code", () => {
  // shapes that the posts publish; the cases are written by hand
  it.each([
    ["US", ["55802", "55802-1234"], ["5580", "558021", "55802-12", "ABCDE", ""]],
    ["CA", ["G9A 1A1", "K1A 0B1"], ["D9A 1A1", "G9A 1O1", "G9A1A", "W9A 1A1"]],
    ["DE", ["01067", "97070"], ["9707", "970701", "D-97070"]],
    ["CH", ["8005", "1000"], ["0999", "80050", "CH-8005"]],
    ["NZ", ["7010", "0110"], ["701", "70100", "701O"]],
    ["GB", ["EC1A 1BB", "M1 1AE", "BFPO 801"], ["EC1A", "11 1AE"]],
    ["HK", [""], []],
  ])("of %s", (country, good, bad) => {
    for (const code of good) expect([code, isPostalCode(country, code)]).toEqual([code, true])
    for (const code of bad) expect([code, isPostalCode(country, code)]).toEqual([code, false])
  })
  it("of every country fits the examples that its own metadata give", () => {
    const wrong = countries.flatMap((country) =>
      (countryFormat(country)?.examples ?? [])
        // a range of examples names its first and last
        .flatMap((example) => example.split(/[-:](?=\D*$)|:/))
        .filter((example) => !isPostalCode(country, example))
        .map((example) => `${country} ${example}`),
    )
    expect(wrong).toEqual([])
  })
  it.each([
    ["CA", "g9a1a1", "G9A 1A1"],
    ["CA", " G9A  1A1 ", "G9A 1A1"],
    ["US", "558021234", "55802-1234"],
    ["US", "55802 1234", "55802-1234"],
    ["GB", "ec1a1bb", "EC1A 1BB"],
    ["PL", "00950", "00-950"],
    ["JP", "1540023", "154-0023"],
    ["DE", "97070", "97070"],
    ["US", "nonsense", "NONSENSE"],
  ])("of %s written %j is %s", (country, text, expected) => expect(tidyPostalCode(country, text)).toBe(expected))
  it("stays what it is once it is tidy", () =>
    fc.assert(
      fc.property(fc.constantFrom(...countries), fc.string({ maxLength: 12 }), (country, text) => {
        const tidy = tidyPostalCode(country, text)
        expect(tidyPostalCode(country, tidy)).toBe(tidy)
      }),
    ))
})

describe("an address", () => {
  it("lacks what its country needs, and no more", () => {
    const gaps = (more: Partial<Address>) => addressGaps(at(more)).map((one) => one.code)
    expect(gaps({})).toEqual([])
    expect(gaps({ country: "AU", state: "", postalCode: "3000", city: "Melbourne" })).toEqual(["address.state-needed"])
    expect(gaps({ country: "HK", state: "KOWLOON", postalCode: "", city: "Mong Kok" })).toEqual([])
    expect(gaps({ country: "DE", state: "", postalCode: "9707", city: "Würzburg" })).toEqual([
      "address.postal-code-abroad",
    ])
    expect(gaps({ country: "ZZ", state: "", postalCode: "" })).toEqual(["address.country-unknown"])
  })
  // orders of the place's parts after the UPU addressing guide, from memory
  it.each([
    [{}, ["Elk Run", "14 Growler Row", "Denver CO 80205"]],
    [
      { country: "CH", state: "", postalCode: "8005", city: "Zürich" },
      ["Elk Run", "14 Growler Row", "8005 Zürich", "SWITZERLAND"],
    ],
    [
      { country: "NZ", state: "", postalCode: "7010", city: "Nelson" },
      ["Elk Run", "14 Growler Row", "Nelson 7010", "NEW ZEALAND"],
    ],
    [
      { country: "GB", state: "", postalCode: "EC1A 1BB", city: "London" },
      ["Elk Run", "14 Growler Row", "London", "EC1A 1BB", "UNITED KINGDOM"],
    ],
    [
      { country: "JP", state: "Tokyo", postalCode: "100-0001", city: "Chiyoda-ku" },
      ["Elk Run", "14 Growler Row", "Chiyoda-ku, Tokyo", "100-0001", "JAPAN"],
    ],
    [
      { country: "AU", state: "VIC", postalCode: "3000", city: "Melbourne" },
      ["Elk Run", "14 Growler Row", "Melbourne VIC 3000", "AUSTRALIA"],
    ],
  ] as [Partial<Address>, string[]][])("%j is printed in its country's order", (more, lines) =>
    expect(addressLines(at(more))).toEqual(lines),
  )
  it("is never printed without its city", () => {
    for (const country of countries)
      expect(addressLines(at({ country, city: "Citytown" })).join("\n")).toContain("Citytown")
  })
  it.each([
    ["PO Box 12", true],
    ["P.O. Box 12", true],
    ["Postfach 10 01", true],
    ["Case postale 7", true],
    ["C.P. 112", true],
    ["Private Bag 92", true],
    ["Box 9", true],
    ["POB 77", true],
    ["GPO Box 2", true],
    ["Locked Bag 12", true],
    ["Postbus 120", true],
    ["Postboks 44 Sentrum", true],
    ["Postbox 3", true],
    ["Boîte postale 11", true],
    ["BP 40", true],
    ["Caixa Postal 9", true],
    ["Casella postale 4", true],
    ["Apdo. 33", true],
    ["Skrytka pocztowa 5", true],
    ["Postafiók 8", true],
    ["General Delivery", true],
    ["14 Boxwood Lane", false],
    ["12 Box Road", false],
    ["Boxstraße 5", false],
    ["4 Station Road", false],
    ["PL 9 Industrial Way", false],
    ["Bahnhofstation 12", false],
    ["12 rue du Moût", false],
    ["8 Post Road", false],
  ])("%s is a box: %s", (street, box) => expect(isPostBox(at({ street }))).toBe(box))
  it("is a parcel locker where its number and a customer's stand in place of a street", () => {
    const locker = { street: "Paketstation 145", country: "DE" }
    expect(isPostBox(at({ ...locker, street2: "12345678" }))).toBe(true)
    expect(isPostBox(at({ ...locker, attention: "12345678" }))).toBe(true)
    expect(isPostBox(at({ street: "987654321", street2: "Parcel locker 12" }))).toBe(true)
    expect(isPostBox(at({ ...locker, street2: "Hof 3" }))).toBe(false)
    expect(isPostBox(at({ street: "14 Growler Row", street2: "12345678" }))).toBe(false)
  })
  it("is a box by a shorthand of its own country alone", () => {
    for (const [country, street] of [
      ["FI", "PL 123"],
      ["FR", "CS 40012"],
      ["HU", "Pf. 12"],
      ["NO", "Pb 5 Sentrum"],
    ] as const) {
      expect(isPostBox(at({ country, street }))).toBe(true)
      expect(isPostBox(at({ country: "US", street }))).toBe(false)
    }
  })
  it("says where state and postal code disagree, and only where that is known", () => {
    const gaps = (more: Partial<Address>, states: string[]) => addressGaps(at(more), states).map((one) => one.code)
    expect(gaps({ state: "ND", postalCode: "90210" }, ["CA"])).toEqual(["address.state-postal"])
    expect(gaps({ state: "CO", postalCode: "80205" }, ["CO"])).toEqual([])
    expect(gaps({ state: "ND", postalCode: "90210" }, [])).toEqual([])
    // first letters of Canada: Ontario, Quebec, and one for two territories
    expect(["M5V 2T6", "H2X 1Y4", "X0A 0H0", "D1A 1A1"].map(provincesOfPostalCode)).toEqual([
      ["ON"],
      ["QC"],
      ["NT", "NU"],
      [],
    ])
  })
  it("of the armed forces is told by its state", () => {
    expect(isMilitary(at({ state: "AE" }))).toBe(true)
    expect(isMilitary(at({ state: "AE", country: "DE" }))).toBe(false)
    expect(isMilitary(at({}))).toBe(false)
  })
  it("lies in a remote area by the beginning of its postal code", () => {
    const areas = [
      { name: "Alaska", country: "US", from: "995", to: "999" },
      { name: "Islands", country: "CA", from: "A0K", to: "A0P" },
    ]
    expect(remoteArea(areas, at({ postalCode: "99501-1234" }))?.name).toBe("Alaska")
    expect(remoteArea(areas, at({ postalCode: "99401" }))).toBeNull()
    expect(remoteArea(areas, at({ country: "CA", postalCode: "A0P 1B0" }))?.name).toBe("Islands")
    expect(remoteArea(areas, at({ country: "CA", postalCode: "99501" }))).toBeNull()
    expect(remoteArea(areas, at({ postalCode: "" }))).toBeNull()
  })
})

describe("the great circle", () => {
  it("is that of the worked example: Los Angeles to New York", () => {
    // Williams, Aviation Formulary (from memory): 33°57'N 118°24'W to 40°38'N 73°47'W = 0.623585 rad = 2144 nautical miles
    const lax = { latitude: 33 + 57 / 60, longitude: -(118 + 24 / 60) }
    const jfk = { latitude: 40 + 38 / 60, longitude: -(73 + 47 / 60) }
    expect(greatCircle(lax, jfk)).toBeCloseTo(0.623585, 6)
    expect(Math.round((greatCircle(lax, jfk) * 180 * 60) / Math.PI)).toBe(2144)
  })
  it("is right at its ends: the same place, the other side, a quarter", () => {
    const pole = { latitude: 90, longitude: 0 }
    const equator = { latitude: 0, longitude: 10 }
    expect(greatCircle(equator, equator)).toBe(0)
    expect(greatCircle(pole, equator)).toBeCloseTo(Math.PI / 2, 12)
    expect(greatCircle(equator, { latitude: 0, longitude: -170 })).toBeCloseTo(Math.PI, 12)
    // a quarter of a meridian on a sphere of 6371 km: 6371 × π / 2 = 10007.54
    expect(kilometres(pole, equator)).toBeCloseTo(10_007.54, 2)
  })
})

describe("one ship-to", () => {
  const address = {
    company: "Elk Run Taproom",
    attention: "Cellar",
    street: "14 Growler Row",
    street2: "",
    city: "Denver",
    state: "CO",
    postalCode: "80205-1234",
    country: "US",
  }
  const same = (more: Partial<typeof address>) => shipToKey({ ...address, ...more }) === shipToKey(address)
  it("is the same whatever the capitals, marks, box digits and who signs", () => {
    expect(same({ company: "ELK RUN TAPROOM", street: "14, Growler-Row" })).toBe(true)
    expect(same({ postalCode: "80205", attention: "Office" })).toBe(true)
    expect(same({ street: "14 Growler", street2: "Row" })).toBe(true)
    expect(shipToKey({ ...address, company: "Café Müller" })).toBe(shipToKey({ ...address, company: "CAFE MULLER" }))
  })
  it("is another by name, house, suite, postal code or country", () => {
    expect(same({ company: "Elk Run Brewery" })).toBe(false)
    expect(same({ street: "15 Growler Row" })).toBe(false)
    expect(same({ street2: "Suite 2" })).toBe(false)
    expect(same({ postalCode: "80206" })).toBe(false)
    expect(same({ country: "CA" })).toBe(false)
    // abroad the whole code counts, with or without its space
    expect(shipToKey({ ...address, country: "GB", postalCode: "EC1A 1BB" })).toBe(
      shipToKey({ ...address, country: "GB", postalCode: "EC1A1BB" }),
    )
    expect(shipToKey({ ...address, country: "DE", postalCode: "10115" })).not.toBe(
      shipToKey({ ...address, country: "DE", postalCode: "10117" }),
    )
  })
  it("is by who signs where there is no firm", () => {
    const person = { ...address, company: "", attention: "A. Lindqvist" }
    expect(shipToKey(person)).not.toBe(shipToKey({ ...person, attention: "B. Lindqvist" }))
  })
})
