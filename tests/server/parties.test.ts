import { randomUUID } from "node:crypto"
import { Readable } from "node:stream"
import type { OrderId } from "core/ids/index.ts"
import { invoiceModel } from "core/papers/index.ts"
import { parsed } from "server/audit/index.ts"
import { findCustomers, saveCustomer } from "server/decisions/customers.ts"
import type { BookingRequest } from "server/gateways/carrier.ts"
import { previewFile } from "server/intake/read.ts"
import { takeIn } from "server/intake/take.ts"
import { orderFilter } from "server/orders/filter.ts"
import { findOrders } from "server/orders/list.ts"
import { partyForm, saveParty } from "server/orders/parties.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import { paperFacts } from "server/papers/facts.ts"
import { labelModel } from "server/papers/label.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { askFor } from "server/shipping/wishes.ts"
import { afterAll, beforeAll, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import {
  as,
  askForLabels,
  codes,
  header,
  openRig,
  orderBySource,
  packed,
  type Rig,
  row,
  value,
  workAll,
} from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

async function ready(number: string, more: Partial<Record<string, string>> = {}, columns = "", values = "") {
  const text = `${header}${columns}\n${row({ order_number: number, ...more })}${values}`
  const id = await previewFile(rig.context, "file", "p.csv", Readable.from([Buffer.from(text)]))
  await takeIn(rig.context, id)
  return packed(rig.context, number)
}
async function label(orderId: OrderId) {
  const shipment = await shipmentOf(rig.db, orderId)
  const [one] = shipment?.packages ?? []
  if (!shipment || !one) throw new Error("nothing is packed")
  const given = { trackingNumber: "LA000000000123", routingCode: "L5" }
  const carriage = { carrier: "Larkspur", service: "Ground" }
  return labelModel(await warehouseById(rig.db, 1), shipment, one, carriage, given, "2026-11-24")
}
const party = (role: "sender" | "return-to" | "notify", more: Record<string, string> = {}) =>
  partyForm.parse({
    role,
    company: "Copperline Gifts",
    street: "5 Kettleman Avenue",
    city: "Fargo",
    state: "ND",
    postal_code: "58102",
    country: "US",
    ...more,
  })

it("a customer whose goods go blind is shown as sender, on the label and to the carrier; we are not", async () => {
  const [customer] = await findCustomers(rig.context, "Halvard")
  if (!customer) throw new Error("no customer")
  const lead = as(rig.context, { role: "lead" })
  value(await saveCustomer(lead, { id: customer.id, version: customer.version, credit_note: "", blind_ship: "on" }))
  const { orderId, shipment } = await ready("BL-1", { customer: "Halvard Brewing" })
  const shown = await label(orderId)
  expect(shown.sender[0]).toBe("Halvard Brewing")
  expect(shown.sender.join(" ")).not.toContain("Northlake")
  expect(shown.receiver.join(" ")).toContain("14 Growler Row")
  await askForLabels(rig.context, orderId, shipment)
  await workAll(rig.db)
  const request = parsed<BookingRequest>(there(await rig.db("buy_intent").orderBy("id", "desc").first()).request)
  // it is collected at our place anyway
  expect(request.sender).toMatchObject({ postalCode: "55802", lines: shown.sender })
  const { orderId: other } = await ready("BL-2")
  expect((await label(other)).sender[0]).toBe("Northlake Ferment Supply")
})

it("an order's own sender stands before the customer's rule, and is taken away by an empty form", async () => {
  const { orderId } = await ready("BL-3", { customer: "Halvard Brewing" })
  value(await saveParty(rig.context, orderId, party("sender")))
  value(await saveParty(rig.context, orderId, party("return-to", { company: "Returns", street: "9 Stave Court" })))
  value(
    await saveParty(
      rig.context,
      orderId,
      party("notify", { company: "", street: "", city: "", email: "a@elk.example" }),
    ),
  )
  const shipment = await shipmentOf(rig.db, orderId)
  expect((await label(orderId)).sender).toEqual(["Copperline Gifts", "5 Kettleman Avenue", "Fargo ND 58102"])
  // the commercial invoice of the same goods names the same sender as seller, and us nowhere
  if (!shipment) throw new Error("no shipment")
  const facts = await paperFacts(rig.db, await warehouseById(rig.db, 1), shipment, {
    on: null,
    today: "2026-11-24",
    signer: "Maren",
  })
  const made = { trackingNumber: "LA1", shipDate: "2026-11-24", tracking: new Map(), suffix: "" }
  const invoice = invoiceModel(facts, made)
  expect(invoice.exporter).toMatchObject({ company: "Copperline Gifts", street: "5 Kettleman Avenue", city: "Fargo" })
  expect(JSON.stringify(invoice)).not.toContain("Northlake")
  expect(shipment?.returnTo).toMatchObject({ company: "Returns", by: "order" })
  expect(codes(await saveParty(rig.context, orderId, party("sender", { street: "" })))).toEqual(["party.incomplete"])
  expect(partyForm.safeParse({ role: "notify", country: "US", email: "not one" }).success).toBe(false)
  const empty = { company: "", street: "", city: "", state: "", postal_code: "" }
  value(await saveParty(rig.context, orderId, party("sender", empty)))
  expect((await label(orderId)).sender[0]).toBe("Halvard Brewing")
  const told = await rig.db("audit").where({ order_id: orderId, action: "order.party-changed" })
  expect(told).toHaveLength(4)
})

it("can't be changed once labels are asked for, but somebody to tell can", async () => {
  const { orderId, shipment } = await ready("BL-4")
  await askForLabels(rig.context, orderId, shipment)
  expect(codes(await saveParty(rig.context, orderId, party("sender")))).toEqual(["order.labels-asked-for"])
  value(await saveParty(rig.context, orderId, party("notify", { email: "b@elk.example" })))
  await workAll(rig.db)
})

it("prints the references that are to be printed, and no other", async () => {
  const { orderId } = await ready("RF-1", { po_number: "PO 9" }, ",reference,cost_centre", ",Harvest ale,CC 4711")
  const texts = (await label(orderId)).references.map((one) => `${one.name} ${one.text}`)
  expect(texts.slice(0, 3)).toEqual([
    "Your order PO 9",
    `Our order ${(await orderBySource(rig.db, "RF-1")).order_number}`,
    "Reference Harvest ale",
  ])
  expect(texts.join()).not.toContain("4711")
  // both are found, printed or not
  const found = async (words: string) =>
    (
      await findOrders(rig.context, await warehouseById(rig.db, 1), orderFilter.parse({ find: words }), null)
    ).orders.map((one) => one.sourceNumber)
  expect(await found("Harvest")).toEqual(["RF-1"])
  expect(await found("4711 denver")).toEqual(["RF-1"])
})

it("the label says what the driver must do: what was bought, where to hold it, building, way in and hours", async () => {
  const { orderId } = await ready("BL-9")
  await rig
    .db("sales_order")
    .where({ id: orderId })
    .update({ building: "Building 7", instructions: "Ring at the cellar door", opening_hours: "Mon to Fri 7 to 15" })
  value(
    await askFor(
      rig.context,
      orderId,
      { options: ["signature-adult", "saturday", "hold-at-location"], holdAt: "Depot 12" },
      randomUUID(),
    ),
  )
  expect((await label(orderId)).driver).toEqual([
    "Adult signature required",
    "Saturday delivery",
    "Hold for pickup at Depot 12",
    "Building 7",
    "Ring at the cellar door",
    "Mon to Fri 7 to 15",
  ])
})
