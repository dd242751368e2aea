import type { LocalTime } from "core/calendar/index.ts"
import { fields } from "server/formats/orderRow.ts"
import { apart } from "./border.ts"
import { customers, type DemoCustomer, stoppedCustomers } from "./customers.ts"
import { items } from "./goods.ts"
import { seeded } from "./seeded.ts"

export interface DemoOrder {
  number: string
  po: string
  customer: DemoCustomer
  promised: string
  lines: { sku: string; quantity: number; unit: string; price: string }[]
  notes?: string
  incoterm?: string
  place?: string
}

const special = new Set(apart.map((item) => item.sku))
const shippable = items.filter(
  (item) => !item.unNumber && !item.freight && Number(item.weight) < 60 && !special.has(item.sku),
)
const atHome = customers.filter((customer) => (customer.country ?? "US") === "US" && !/^PO Box/.test(customer.street))
const named = (code: string) =>
  [...customers, ...stoppedCustomers].find((customer) => customer.code === code) as DemoCustomer
const notes = ["", "", "", "", "Ring the bell at the cellar door.", "Pack yeast on top.", ""]

/** Orders that need nothing special; promises from the next day to ten days on. */
export function plainOrder(index: number, random: () => number): DemoOrder {
  const customer = atHome[Math.floor(random() * atHome.length)] as DemoCustomer
  const far = !["MN", "WI", "IA", "ND", "SD", "MI", "IL"].includes(customer.state)
  const rush = random()
  const plain = far
    ? ["2026-11-30", "2026-12-02", "2026-12-03", "2026-12-04"]
    : ["2026-11-27", "2026-11-30", "2026-12-01", "2026-12-02"]
  const promised =
    rush < 0.13 ? "2026-11-25" : rush < 0.3 ? "2026-11-27" : (plain[Math.floor(random() * plain.length)] as string)
  const count = 1 + Math.floor(random() * 3.6)
  const chosen = new Set<number>()
  while (chosen.size < count) chosen.add(Math.floor(random() * shippable.length))
  const lines = [...chosen].map((at) => {
    const item = shippable[at] as (typeof shippable)[number]
    const heavy = Number(item.weight) > 8
    const byCase = item.case && random() < 0.2
    const quantity = byCase ? 1 + Math.floor(random() * 2) : 1 + Math.floor(random() * (heavy ? 2 : 6))
    const price = byCase ? (Number(item.value) * (item.case?.count ?? 1)).toFixed(2) : item.value
    return { sku: item.sku, quantity, unit: byCase ? "case" : "each", price }
  })
  return {
    number: `SO-${70412 + index * 3}`,
    po: `PO ${4100 + Math.floor(random() * 5000)}`,
    customer,
    promised,
    lines,
    notes: notes[Math.floor(random() * notes.length)],
  }
}

export const one = (sku: string, quantity = 1) => [
  { sku, quantity, unit: "each", price: items.find((item) => item.sku === sku)?.value ?? "" },
]

/** The orders that come in stopped, each for another reason. */
function stoppedOrders(): DemoOrder[] {
  const [first, , third, fourth, fifth] = customers.slice(3, 8) as [
    DemoCustomer,
    DemoCustomer,
    DemoCustomer,
    DemoCustomer,
    DemoCustomer,
  ]
  return [
    { number: "SO-70900", po: "7719", customer: named("TROPIN"), promised: "2026-12-01", lines: one("HOP-SAA-5", 6) },
    {
      number: "SO-70901",
      po: "PO 2290",
      customer: named("KESSEL"),
      promised: "2026-12-04",
      lines: [...one("YST-LAG-500", 20), ...one("TSP-SMP-12", 2)],
      incoterm: "FOB",
      place: "Duluth",
    },
    { number: "SO-70902", po: "PO 2291", customer: third, promised: "2026-12-01", lines: one("SAN-PAA-1", 4) },
    {
      number: "SO-70903",
      po: "PO 2292",
      customer: { ...fourth, street: "Tannin Terrace" },
      promised: "2026-11-30",
      lines: one("REF-BRIX-32", 2),
    },
    {
      number: "SO-70904",
      po: "PO 2293",
      customer: { ...fifth, postal: "9890" },
      promised: "2026-12-02",
      lines: one("PH-METER", 1),
    },
    { number: "SO-70905", po: "PO 2294", customer: first, promised: "2026-12-02", lines: one("PMP-TRF-40", 30) },
    {
      number: "SO-70906",
      po: "PO 2295",
      customer: named("PLOVST"),
      promised: "2026-12-01",
      lines: one("YST-ALE-500", 6),
    },
    {
      number: "SO-70907",
      po: "PO 2296",
      customer: named("MALVOI"),
      promised: "2026-12-08",
      lines: one("HYD-TRI", 4),
      incoterm: "DAP",
      place: "Québec",
    },
  ]
}

const abroad = (number: number, code: string, place: string, lines: DemoOrder["lines"]): DemoOrder => ({
  number: `SO-${number}`,
  po: `PO ${number - 64_000}`,
  customer: named(code),
  promised: "2026-12-08",
  lines,
  incoterm: "DAP",
  place,
})
const home = (number: number, code: string, promised: string, lines: DemoOrder["lines"]): DemoOrder => ({
  number: `SO-${number}`,
  po: `PO ${number - 64_000}`,
  customer: named(code),
  promised,
  lines,
})

/** Orders that show what is not plain: freight on pallets, abroad, post office boxes, an island state. */
function otherOrders(): DemoOrder[] {
  return [
    home(70801, "HALVRD", "2026-12-02", one("TANK-105")),
    abroad(70802, "HARBHX", "Halifax", [...one("YST-ALE-500", 12), ...one("HOP-CAS-1", 10)]),
    home(70803, "BOXHOM", "2026-12-01", one("YST-CID-500", 3)),
    abroad(70804, "ALPSUD", "Zürich", [...one("HOP-NEL-1", 6), ...one("REF-BRIX-32", 2)]),
    home(70805, "TRESTL", "2026-12-02", [...one("MALT-PIL-50", 14), ...one("MLT-WHT-50", 6)]),
    home(70806, "BOXYEL", "2026-12-04", one("YST-WIN-500", 2)),
    abroad(70807, "TUIALE", "Nelson", [...one("CLA-15-EPDM", 20), ...one("SAM-VAL-15", 4)]),
    home(70808, "KAIULA", "2026-12-04", one("PH-METER", 2)),
    home(70809, "ASHCEL", "2026-12-03", [...one("BRL-OAK-59", 4)]),
    abroad(70810, "LABWUR", "Freising", [...one("HYD-TRI", 6), ...one("PH-METER", 3)]),
    abroad(70811, "OKAORC", "Kelowna", [...one("PEC-ENZ-500", 8), ...one("TAN-GRP-1", 4)]),
    home(70812, "LANHIL", "2026-12-01", one("TANK-060", 2)),
  ]
}

/** Orders whose goods need a mark, a declaration, a license, or the post's form abroad. */
function paperOrders(): DemoOrder[] {
  return [
    home(70813, "BARFIN", "2026-12-02", one("CLN-PHOS-5", 3)),
    home(70814, "TRESTL", "2026-12-04", [...one("CLN-CAU-20", 6), ...one("BOT-AMB-500", 8)]),
    abroad(70815, "NORDHE", "Bremen", one("THM-RAD-2", 6)),
    home(70816, "HALVRD", "2026-11-27", one("YST-LIQ-1", 4)),
    home(70817, "ASHCEL", "2026-12-03", one("BIT-ORG-200", 12)),
    abroad(70818, "JURACI", "Delémont", [...one("YST-CID-500", 2), ...one("HYD-TRI", 2)]),
    abroad(70819, "PRAWPG", "Winnipeg", [...one("MLT-WHT-50", 8), ...one("CLN-PHOS-5", 2)]),
  ]
}

/** The orders that the other warehouse ships. */
function renoOrders(): DemoOrder[] {
  const random = seeded(89502)
  // what has stock in Reno: two items of three
  const there = (sku: string) => items.findIndex((item) => item.sku === sku) % 3 !== 2
  const orders: DemoOrder[] = []
  for (let index = 0; orders.length < 18; index += 1) {
    const order = plainOrder(200 + index, random)
    const lines = order.lines.filter((line) => there(line.sku))
    if (lines.length > 0) orders.push({ ...order, number: `SO-${80100 + index}`, lines })
  }
  return orders
}

/** Neighbors of the other warehouse, whom its own van drives to. */
function vanOrders(): DemoOrder[] {
  const near = (code: string, name: string, street: string, city: string, state: string, postal: string) => ({
    code,
    name,
    attention: "Back door",
    street,
    city,
    state,
    postal,
    kind: "business" as const,
  })
  const random = seeded(89431)
  const there = (sku: string) => items.findIndex((item) => item.sku === sku) % 3 !== 2
  return [
    near("SPKALE", "Sparks Alehouse", "1180 Victory Loop", "Sparks", "NV", "89431"),
    near("FERNLY", "Fernley Growlers", "62 Canal Street", "Fernley", "NV", "89408"),
    near("CARCID", "Carson Cider Works", "915 Orchard Row", "Carson City", "NV", "89701"),
    near("TRUCKB", "Pass Bakery", "7 Snowshed Lane", "Truckee", "CA", "96161"),
    near("MINDEN", "Minden Malt", "340 Silo Road", "Minden", "NV", "89423"),
  ].map((customer, at) => {
    let order = plainOrder(600 + at, random)
    for (let lines = 0; lines === 0; ) {
      order = plainOrder(600 + at, random)
      order = { ...order, lines: order.lines.filter((line) => there(line.sku)) }
      lines = order.lines.length
    }
    return { ...order, customer, number: `SO-${80300 + at}`, promised: "2026-11-27" }
  })
}

export interface DemoFile {
  readonly name: string
  /** When it comes in, on the wall of the warehouse. */
  readonly at: LocalTime
  readonly csv: string
}

/**
 * The demo's orders in files as they arrive over the morning: 116 in all, 93 of them for Duluth. Four more wait at the
 * source that is asked, seven in `files/orders-noon.csv`, three in `files/orders-buyer.edi`, two in
 * `files/orders-dealers.csv` as another system writes them: 132 together.
 */
export function demoFiles(): { duluth: DemoFile[]; reno: DemoFile[] } {
  const random = seeded(20261124)
  const plain = Array.from({ length: 66 }, (_, index) => plainOrder(index, random))
  const others = otherOrders()
  const stopped = stoppedOrders()
  const file = (name: string, at: LocalTime, orders: DemoOrder[]): DemoFile => ({ name, at, csv: csv(orders) })
  return {
    duluth: [
      file("orders-0650.csv", "06:50", [
        ...plain.slice(0, 6),
        ...others.slice(0, 4),
        ...plain.slice(6, 32),
        ...stopped.slice(0, 3),
      ]),
      file("orders-0820.csv", "08:20", [...plain.slice(32, 50), ...others.slice(4, 8), ...stopped.slice(3, 5)]),
      file("orders-0955.csv", "09:55", [...plain.slice(50), ...others.slice(8), ...stopped.slice(5), ...paperOrders()]),
    ],
    reno: [file("reno-0700.csv", "07:00", renoOrders()), file("reno-van.csv", "07:20", vanOrders())],
  }
}

/** Orders as an order file: a row a line, quoted where RFC 4180 asks for it. */
export function csv(orders: readonly DemoOrder[], orderedOn = "2026-11-23"): string {
  const rows = orders.flatMap((order) =>
    order.lines.map((line) => {
      const { customer } = order
      const values: Record<string, string> = {
        order_number: order.number,
        po_number: order.po,
        ordered_on: orderedOn,
        promised_on: order.promised,
        customer: customer.name,
        company: customer.name,
        attention: customer.attention,
        street: customer.street,
        street2: customer.street2 ?? "",
        city: customer.city,
        state: customer.state,
        postal_code: customer.postal,
        country: customer.country ?? "US",
        phone: customer.phone ?? "218-555-0142",
        incoterm: order.incoterm ?? "",
        incoterm_place: order.place ?? "",
        address_kind: customer.kind,
        sku: line.sku,
        quantity: String(line.quantity),
        unit: line.unit,
        unit_price: line.price,
        notes: order.notes ?? "",
        // every eleventh customer of the shop chose and paid express
        service_asked: Number(order.number.replace(/\D/g, "")) % 11 === 0 ? "Larkspur Express Two" : "",
        freight_paid: Number(order.number.replace(/\D/g, "")) % 11 === 0 ? "64.00" : "",
      }
      return fields.map((name) => quoted(values[name] ?? "")).join(",")
    }),
  )
  return `${[fields.join(","), ...rows].join("\r\n")}\r\n`
}

const quoted = (text: string) => (/[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text)
