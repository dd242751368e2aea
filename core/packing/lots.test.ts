import { describe, expect, it } from "vitest"
import { shareLots } from "./lots.ts"

describe("lots in packages", () => {
  const lots = [
    { lot: "A", quantity: 5 },
    { lot: "B", quantity: 7 },
  ]
  const told = (packages: number[], whole: boolean, some = lots) =>
    shareLots(packages, some, whole).map((each) => each.map(({ lot, quantity }) => `${quantity}${lot}`).join(" "))
  it("come one after another where nobody asks for more", () => expect(told([7, 5], false)).toEqual(["5A 2B", "5B"]))
  it("stay whole where packages were filled so", () => {
    expect(told([7, 5], true)).toEqual(["7B", "5A"])
    // B fills the 7 and not the 9, so that A has a package too
    expect(told([9, 7], true)).toEqual(["5A", "7B"])
  })
  it("are taken apart only where no package takes all of one", () =>
    expect(
      told([4, 4, 4], true, [
        { lot: "A", quantity: 5 },
        { lot: "B", quantity: 7 },
      ]),
    ).toEqual(["4B", "3B 1A", "4A"]))
  it("never more than is in a package, nor more than was picked", () => {
    expect(told([2], true)).toEqual(["2B"])
    expect(told([2], false)).toEqual(["2A"])
    expect(told([20], false)).toEqual(["5A 7B"])
    expect(told([], true)).toEqual([])
    expect(told([0, 3], false)).toEqual(["", "3A"])
  })
})
