import { columns } from "server/formats/ordersCsv.ts"
import { customers, type DemoCustomer } from "./customers.ts"
import { items } from "./goods.ts"

/** A small generator of even numbers between 0 and 1 (mulberry32), so that the demo is the same every time. */
function seeded(seed: number): () => number {
  let state = seed
  return () => {
    state = (state + 0x6d2b79f5) | 0
    let t = Math.imul(state ^ (state >>> 15), 1 | state)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296
  }
}

interface DemoOrder {
  number: string
  po: string
  customer: DemoCustomer
  promised: string
  lines: { sku: string; quantity: number; unit: string; price: string }[]
  notes?: string
}

const shippable = items.filter((item) => !item.unNumber && !item.freight)
const notes = ["", "", "", "", "Ring the bell at the cellar door.", "Pack yeast on top.", ""]

/** Orders that need nothing special; promises from the next day to ten days on. */
function plainOrder(index: number, random: () => number): DemoOrder {
  const customer = customers[Math.floor(random() * customers.length)] as DemoCustomer
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
    return { sku: item.sku, quantity, unit: byCase ? "case" : "each", price: item.value }
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

const one = (sku: string, quantity = 1) => [
  { sku, quantity, unit: "each", price: items.find((item) => item.sku === sku)?.value ?? "" },
]

/** The orders that come in stopped, each for another reason. */
function stoppedOrders(): DemoOrder[] {
  const [first, second, third, fourth, fifth] = customers.slice(3, 8) as [
    DemoCustomer,
    DemoCustomer,
    DemoCustomer,
    DemoCustomer,
    DemoCustomer,
  ]
  const abroad: DemoCustomer = {
    code: "TROPIN",
    name: "Brasserie Trois-Pins",
    attention: "Quai 2",
    street: "12 rue du Moût",
    city: "Trois-Rivières",
    state: "QC",
    postal: "G9A 1A1",
    country: "CA",
    kind: "business",
  }
  return [
    { number: "SO-70900", po: "7719", customer: abroad, promised: "2026-12-01", lines: one("HOP-SAA-5", 6) },
    { number: "SO-70901", po: "PO 2290", customer: second, promised: "2026-12-04", lines: one("TANK-105") },
    { number: "SO-70902", po: "PO 2291", customer: third, promised: "2026-12-01", lines: one("CLN-PHOS-5", 4) },
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
  ]
}

/** The demo's orders in three files as they arrive over the morning; 53 in all, seven more wait in `files/`. */
export function demoFiles(): { name: string; at: string; csv: string }[] {
  const random = seeded(20261124)
  const plain = Array.from({ length: 47 }, (_, index) => plainOrder(index, random))
  return [
    { name: "orders-0650.csv", at: "06:50", csv: csv([...plain.slice(0, 26), ...stoppedOrders().slice(0, 3)]) },
    { name: "orders-0820.csv", at: "08:20", csv: csv([...plain.slice(26, 38), ...stoppedOrders().slice(3, 5)]) },
    { name: "orders-0955.csv", at: "09:55", csv: csv([...plain.slice(38), ...stoppedOrders().slice(5)]) },
  ]
}

/** Orders as an order file: a row a line, quoted where RFC 4180 asks for it. */
export function csv(orders: readonly DemoOrder[]): string {
  const rows = orders.flatMap((order) =>
    order.lines.map((line) => {
      const { customer } = order
      const fields: Record<string, string> = {
        order_number: order.number,
        po_number: order.po,
        ordered_on: "2026-11-23",
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
        phone: "218-555-0142",
        address_kind: customer.kind,
        sku: line.sku,
        quantity: String(line.quantity),
        unit: line.unit,
        unit_price: line.price,
        notes: order.notes ?? "",
      }
      return columns.map((name) => quoted(fields[name] ?? "")).join(",")
    }),
  )
  return `${[columns.join(","), ...rows].join("\r\n")}\r\n`
}

const quoted = (text: string) => (/[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text)
