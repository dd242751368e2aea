import { Readable } from "node:stream"
import {
  type BookForm,
  bookForm,
  dropAddress,
  findAddresses,
  putAddresses,
  saveAddress,
} from "server/addresses/book.ts"
import { addressFlags } from "server/addresses/flags.ts"
import { exportAddresses, importAddresses } from "server/addresses/importCsv.ts"
import { locate, placeOfPostalCode, statesOfPostalCode } from "server/addresses/places.ts"
import { askedFor, wordsOf } from "server/addresses/words.ts"
import { parsed } from "server/audit/index.ts"
import { changeAddress } from "server/decisions/address.ts"
import { confirmAddress, proposeFor, suggestionsFor } from "server/decisions/checkAddress.ts"
import { checkAgain } from "server/decisions/hold.ts"
import { waive } from "server/decisions/waive.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { as, codes, fault, openRig, orderBySource, type Rig, row, takeFile, value } from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

const form = (more: Partial<Record<keyof BookForm, string>> = {}) =>
  bookForm.parse({
    code: "",
    company: "Café Müller & Söhne",
    attention: "",
    street: "7 Wortmill Drive",
    city: "Duluth",
    state: "MN",
    postal_code: "55802",
    country: "US",
    ...more,
  })
const found = async (typed: string) => (await findAddresses(rig.context, typed)).map((one) => one.company)

describe("words", () => {
  it("are found without accents and capitals, in pieces and whole", () => {
    expect(wordsOf("Café Müller, Straße 12-a")).toEqual(["cafe", "muller", "strasse", "12", "a", "12a"])
    expect(askedFor("12-a  CAFÉ")).toEqual(["12", "a", "cafe"])
    expect(askedFor(" ' % _ ")).toEqual([])
  })
})

describe("the directory", () => {
  it("finds by the beginnings of name, street, city, postal code, and by a short code first", async () => {
    value(await saveAddress(rig.context, form({ code: "muell" }), null))
    for (const typed of ["muller", "Mül", "wortm cafe", "7 wort", "55802 caf", "MUELL", "soh dul"])
      expect([typed, await found(typed)]).toEqual([typed, ["Café Müller & Söhne"]])
    expect(await found("muller denver")).toEqual([])
    expect(await found("uller")).toEqual([])
    expect(await found("%")).toEqual([])
    // a customer's own addresses come with the demo's setup
    expect((await found("ELKRUN"))[0]).toBe("Elk Run Taproom")
  })
  it("keeps one short code once, and no change on old ground", async () => {
    const { id } = value(await saveAddress(rig.context, form({ code: "ONE", company: "One" }), null))
    expect(codes(await saveAddress(rig.context, form({ code: "one" }), null))).toEqual(["book.code-taken"])
    expect(codes(await saveAddress(rig.context, form({ customer: "Nobody Known" }), null))).toEqual([
      "book.no-customer",
    ])
    value(await saveAddress(rig.context, form({ code: "ONE", company: "Renamed" }), { id, version: 1 }))
    expect(codes(await saveAddress(rig.context, form({ code: "ONE" }), { id, version: 1 }))).toEqual([
      "book.changed-meanwhile",
    ])
    expect(await found("renamed")).toEqual(["Renamed"])
    expect((await findAddresses(rig.context, "one")).filter((one) => one.company === "One")).toEqual([])
    await dropAddress(rig.context, id)
    expect(await found("renamed")).toEqual([])
  })
  it("tidies postal codes and knows where they lie", async () => {
    const { id } = value(
      await saveAddress(
        rig.context,
        form({ country: "CA", state: "QC", city: "Trois-Rivières", postal_code: "g9a1a1" }),
        null,
      ),
    )
    expect(await rig.db("address_book").where({ id }).first("postal_code", "zone")).toEqual({
      postal_code: "G9A 1A1",
      zone: "America/Toronto",
    })
    // Duluth lies at 46.8° N 92.1° W and keeps Chicago's time (general knowledge)
    expect(locate("US", "55802")).toEqual({
      place: { latitude: expect.closeTo(46.8, 0), longitude: expect.closeTo(-92.1, 0) },
      zone: "America/Chicago",
    })
    expect(locate("US", "89502").zone).toBe("America/Los_Angeles")
    expect(placeOfPostalCode("DE", "97070")).toBeNull()
    expect(placeOfPostalCode("US", "00000")).toBeNull()
  })
  it("takes a thousand at once and finds each", async () => {
    await putAddresses(
      rig.db,
      Array.from({ length: 1_000 }, (_, index) =>
        form({ company: `Bulk number ${index}`, street: `${index} Stave Court` }),
      ),
    )
    expect(await found("bulk 737")).toEqual(["Bulk number 737"])
    expect(await found("stave bulk")).toHaveLength(12)
  })
  it("comes in from a file row by row, a code again being the same address, and goes out as it came", async () => {
    const take = async (text: string) => value(await importAddresses(rig.context, Readable.from([Buffer.from(text)])))
    const head = "code,company,street,city,state,postal_code,country,dock"
    const first = await take(
      `${head}\nF-1,Filed One,1 File Way,Fargo,ND,58102,US,yes\nF-2,Filed Two,,Fargo,ND,58102,US,no\n`,
    )
    expect(first).toEqual({
      saved: 1,
      reasons: [{ code: "book.row", values: { line: "3", field: "street", value: "" } }],
    })
    expect((await take(`${head}\nF-1,Filed Anew,1 File Way,Fargo,ND,58102,US,yes\n`)).saved).toBe(1)
    expect((await found("F-1"))[0]).toBe("Filed Anew")
    const out = await exportAddresses(rig.context)
    expect(out.split("\r\n").find((one) => one.startsWith("F-1"))).toContain(
      "Filed Anew,,1 File Way,,Fargo,ND,58102,US",
    )
    expect((await take(out.split("\r\n").slice(0, 3).join("\n"))).reasons).toEqual([])
    expect(codes(await importAddresses(rig.context, Readable.from([Buffer.from("a,b\n1,2")])))).toEqual([
      "file.columns-missing",
    ])
  })
  it("is read by the sales desk and changed by the bench", async () => {
    const sales = as(rig.context, { role: "sales" })
    expect(await findAddresses(sales, "ELKRUN")).not.toEqual([])
    await expect(saveAddress(sales, form(), null)).rejects.toThrow("not allowed")
  })
  it("gives an order of the same address what is known of it", async () => {
    const [book] = await findAddresses(rig.context, "ELKRUN")
    await rig
      .db("address_book")
      .where({ id: book?.id })
      .update({ kind_confirmed: true, dock: "yes", instructions: "Ring twice" })
    await takeFile(
      rig.context,
      row({ order_number: "AB-1", address_kind: "unknown" }),
      row({ order_number: "AB-2", address_kind: "residential" }),
    )
    expect(await orderBySource(rig.db, "AB-1")).toMatchObject({
      address_kind: "business",
      kind_confirmed: 1,
      dock: "yes",
      instructions: "Ring twice",
    })
    // what the source says of the kind stands, and is not sure
    expect(await orderBySource(rig.db, "AB-2")).toMatchObject({ address_kind: "residential", kind_confirmed: 0 })
  })
})

describe("the address service", () => {
  const order = async (number: string, more: Partial<Record<string, string>>) => {
    await takeFile(rig.context, row({ order_number: number, ...more }))
    return orderBySource(rig.db, number)
  }
  it("confirms, corrects, and says when it does not know", async () => {
    const right = await order("AS-1", {})
    expect(value(await proposeFor(rig.context, right.id))).toEqual({
      status: "confirmed",
      changes: [],
      kind: "business",
    })
    const slip = await order("AS-2", { street: "14 growler ROW", city: "Denwer", address_kind: "unknown" })
    const proposal = value(await proposeFor(rig.context, slip.id))
    expect(proposal.status).toBe("corrected")
    expect(proposal.changes).toEqual([
      { field: "street", from: "14 growler ROW", to: "14 Growler Row" },
      { field: "city", from: "Denwer", to: "Denver" },
    ])
    value(await confirmAddress(rig.context, slip.id, slip.version))
    expect(await orderBySource(rig.db, "AS-2")).toMatchObject({
      city: "Denver",
      address_kind: "business",
      kind_confirmed: 1,
    })
    // again changes nothing, and on old ground is refused
    expect(codes(await confirmAddress(rig.context, slip.id, slip.version))).toEqual(["order.changed-meanwhile"])
    const told = await rig.db("audit").where({ order_id: slip.id, action: "order.address-confirmed" })
    expect(told).toHaveLength(1)
    const nowhere = await order("AS-3", { street: "1 Nowhere Street" })
    expect(value(await proposeFor(rig.context, nowhere.id)).status).toBe("unknown")
    expect(codes(await confirmAddress(rig.context, nowhere.id, nowhere.version))).toEqual(["address.service-unknown"])
  })
  it("that is down or answers nonsense changes nothing, and typing goes on", async () => {
    const { id } = await orderBySource(rig.db, "AS-1")
    expect((await suggestionsFor(rig.context, "14 growl", "US")).map((one) => one.street)).toEqual(["14 Growler Row"])
    for (const trouble of ["down", "malformed"]) {
      await fault(rig.at.addressService, trouble)
      expect(codes(await proposeFor(rig.context, id))).toEqual(["address.service-down"])
      expect(await suggestionsFor(rig.context, "14 growl", "US")).toEqual([])
    }
    await fault(rig.at.addressService, null)
  })
})

describe("the kind of an address", () => {
  it("is sure only when somebody says so, and no more once the address is another", async () => {
    await takeFile(rig.context, row({ order_number: "KD-1", street: "3 Stave Court" }))
    const order = await orderBySource(rig.db, "KD-1")
    const change = (version: number, street: string, sure: boolean) =>
      changeAddress(rig.context, order.id, {
        version,
        company: order.company,
        attention: "",
        street,
        street2: "",
        city: "Denver",
        state: "CO",
        postal_code: "802051234",
        country: "US",
        phone: "",
        address_kind: "residential",
        kind_confirmed: sure ? "on" : undefined,
        incoterm: "",
        incoterm_place: "",
      })
    value(await change(order.version, "3 Stave Court", true))
    expect(await orderBySource(rig.db, "KD-1")).toMatchObject({ kind_confirmed: 1, postal_code: "80205-1234" })
    value(await change(order.version + 1, "4 Stave Court", false))
    expect(await orderBySource(rig.db, "KD-1")).toMatchObject({ kind_confirmed: 0 })
    const told = await rig
      .db("audit")
      .where({ order_id: order.id, action: "order.address-changed" })
      .orderBy("id")
      .pluck("detail")
    expect(JSON.stringify(told)).toContain("kind_confirmed")
  })
  it("and what is special about a place are told from data", async () => {
    const at = { street: "PO Box 12", street2: "", city: "Nome", state: "AK", postal_code: "99762", country: "US" }
    expect((await addressFlags(rig.db, at)).map((one) => one.code)).toEqual(["flag.post-box", "flag.remote"])
    expect(
      (await addressFlags(rig.db, { ...at, street: "Unit 5", state: "AP", postal_code: "96201" })).map(
        (one) => one.code,
      ),
    ).toEqual(["flag.military"])
  })
})

describe("an address that is right all the same", () => {
  const stops = async (number: string) => {
    const { id } = await orderBySource(rig.db, number)
    return rig.db("order_stop").where({ order_id: id }).orderBy("id").pluck("code")
  }
  const house = { street: '"Harbour House, Main Street"', city: "Duluth", state: "MN", postal_code: "55802" }

  it("of a house with a name passes when the address service knows it, for anybody who asks", async () => {
    await takeFile(rig.context, row({ order_number: "HH-1", ...house }))
    expect(await stops("HH-1")).toEqual(["address.no-house-number"])
    const { id, version } = await orderBySource(rig.db, "HH-1")
    value(await confirmAddress(rig.context, id, version))
    expect(await stops("HH-1")).toEqual([])
  })

  it("of one that it does not know passes by the lead, for this street and no other", async () => {
    await takeFile(rig.context, row({ order_number: "HH-2", ...house, street: '"Mill House, Low Lane"' }))
    const { id, version } = await orderBySource(rig.db, "HH-2")
    expect(codes(await confirmAddress(rig.context, id, version))).toEqual(["address.service-unknown"])
    await expect(waive(rig.context, id, "address.no-house-number")).rejects.toThrow("orders.release-stop")
    value(await waive(as(rig.context, { role: "lead" }), id, "address.no-house-number"))
    value(await waive(as(rig.context, { role: "lead" }), id, "address.no-house-number"))
    expect(await stops("HH-2")).toEqual([])
    await rig.db("sales_order").where({ id }).update({ street: "Other House, Low Lane" })
    await checkAgain(rig.context, id)
    expect(await stops("HH-2")).toEqual(["address.no-house-number"])
  })

  it("whose state and postal code disagree stops, and says where the code lies", async () => {
    await takeFile(rig.context, row({ order_number: "HH-3", city: "Fargo", state: "ND", postal_code: "90210" }))
    const { id } = await orderBySource(rig.db, "HH-3")
    const [stop] = await rig.db("order_stop").where({ order_id: id })
    expect(stop?.code).toBe("address.state-postal")
    expect(parsed(stop?.detail)).toMatchObject({ state: "ND", postalCode: "90210", lies: "CA" })
    // a ZIP code that the dataset lacks lies where those that begin alike do: all of 802 is Colorado
    expect(statesOfPostalCode("US", "80200")).toEqual(["CO"])
    expect(statesOfPostalCode("US", "00000")).toEqual([])
    expect(statesOfPostalCode("DE", "10115")).toEqual([])
  })
})
