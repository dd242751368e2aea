import { describe, expect, it } from "vitest"
import { type ListedParty, screen, wordsOf } from "./index.ts"

// invented parties; what a hit is, is common practice with no published source
const listed = (id: number, name: string, more: Partial<ListedParty> = {}): ListedParty => ({
  id,
  list: "trade watch",
  reference: `TW-${id}`,
  name,
  street: "",
  city: "",
  country: "",
  ...more,
})
const list = [
  listed(1, "Brackenmoor Chemical Trading Ltd"),
  listed(2, "Ostwald"),
  listed(3, "Quarrel Shipping", { street: "Hafenstrasse 9", city: "Bremen", country: "DE" }),
]
const at = { street: "1 Main Street", city: "Nelson", country: "NZ" }
const ids = (...names: string[]) => screen(names, at, list).map((hit) => hit.party.id)

describe("a name", () => {
  it("is told by its telling words, without accents, capitals and kinds of firm", () => {
    expect(wordsOf("Société Générale des Eaux, S.A.")).toEqual(["societe", "generale", "des", "eaux"])
    expect(wordsOf("Groß & Söhne G.m.b.H.")).toEqual(["gross", "sohne"])
    expect(wordsOf("The Company")).toEqual(["the", "company"])
  })
  it.each([
    ["the same in another order", "Trading Brackenmoor Chemical, GmbH", [1]],
    ["with more words around it", "New Brackenmoor Chemical Trading of Nelson", [1]],
    ["with a slip in a long word", "Brakenmoor Chemical Tradng", [1]],
    ["of which a word is missing", "Brackenmoor Brewing", []],
    ["of one word, as a whole", "Ostwald GmbH", [2]],
    ["of one word, as a part of another name", "Ostwald Brewing", []],
    ["with a slip in a short word", "Quarrel Shippinx", [3]],
    ["empty", "", []],
  ])("%s", (_, name, hits) => expect(ids(name)).toEqual(hits))
  it("is looked for among all names of an order", () => expect(ids("Elk Run", "Quarrel Shipping AG")).toEqual([3]))
})

describe("an address", () => {
  it("is the same when street, place and country are", () => {
    const there = { street: "Hafenstraße 9", city: "BREMEN", country: "DE" }
    expect(screen(["Elk Run"], there, list)).toEqual([
      { party: list[2], by: "address", compared: "Hafenstraße 9, BREMEN" },
    ])
    expect(screen(["Elk Run"], { ...there, street: "Hafenstraße 19" }, list)).toEqual([])
    expect(screen(["Elk Run"], { ...there, country: "NL" }, list)).toEqual([])
  })
})
