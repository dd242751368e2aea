import { settingsSchema } from "core/rules/index.ts"
import { describe, expect, it } from "vitest"
import { settingsFrom, settingWords } from "./settingsForm.ts"

const form = (fields: Record<string, string>) => {
  const data = new FormData()
  for (const [name, value] of Object.entries(fields)) data.append(`set_${name}`, value)
  return data
}
const choices = {
  services: [{ code: "LKG", name: "Larkspur Ground", carrier: "Larkspur Parcel" }],
  returns: [{ code: "LKR", name: "Larkspur Return", carrier: "Larkspur Parcel" }],
  packagings: [{ code: "K12", name: "Large carton" }],
}

describe("settings of a form", () => {
  it("are only what is said in it", () => {
    expect(settingsFrom(form({}))).toEqual({})
    expect(settingsFrom(form({ service: "", packaging: " ", liftgate: "", payer: "", account: "left over" }))).toEqual(
      {},
    )
  })
  it("are all that can be said, as the schema has it", () => {
    const read = settingsFrom(
      form({
        service: "LKG",
        packaging: "K12",
        liftgate: "no",
        payer: "third-party",
        account: " A-7 ",
        returnLabel: "mail",
        returnService: "LKR",
        invoiceCopies: "2",
        ladingCopies: "4",
      }),
    )
    expect(settingsSchema.parse(read)).toEqual({
      service: "LKG",
      packaging: "K12",
      liftgate: false,
      payer: { terms: "third-party", account: "A-7" },
      returnLabel: "mail",
      returnService: "LKR",
      invoiceCopies: 2,
      ladingCopies: 4,
    })
  })
  it("that make no sense are the schema's to refuse", () => {
    const wrongs: Record<string, string>[] = [
      { invoiceCopies: "many" },
      { ladingCopies: "0" },
      { payer: "nobody" },
      { invoiceCopies: "1.5" },
    ]
    for (const wrong of wrongs) expect(settingsSchema.safeParse(settingsFrom(form(wrong))).success).toBe(false)
  })
})

it("are several options where several are ticked", () => {
  const ticked = form({ service: "LKG" })
  ticked.append("set_options", "signature")
  ticked.append("set_options", "saturday")
  expect(settingsSchema.parse(settingsFrom(ticked))).toEqual({ service: "LKG", options: ["signature", "saturday"] })
})

describe("a setting in words", () => {
  it.each([
    ["service", "LKG", "Larkspur Parcel, Larkspur Ground"],
    ["service", "GONE", "GONE"],
    ["packaging", "K12", "Large carton"],
    ["packaging", "K99", "K99"],
    ["liftgate", true, "yes"],
    ["liftgate", false, "no"],
    ["options", ["signature", "liftgate"], "signature, liftgate at delivery"],
    ["payer", { terms: "collect", account: "K-77" }, "collect, K-77"],
    ["payer", { terms: "prepaid-added", account: "" }, "prepaid and added"],
    ["invoiceCopies", 3, "3"],
    ["ladingCopies", null, "–"],
  ] as const)("%s %o is %s", (name, value, words) => expect(settingWords(name, value, choices)).toBe(words))
})
