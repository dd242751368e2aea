import type { Readable } from "node:stream"
import { reason } from "core/refusal/index.ts"
import { component, type Segment, segments } from "./edifact.ts"
import { cancellation, FileRefused, type ReadRow, readRow, refusedRow } from "./orderRow.ts"

/** Units of UNECE Recommendations 20 and 21 (codes from memory) as levels of packaging. */
const units: Readonly<Record<string, string>> = {
  EA: "each",
  PCE: "each",
  C62: "each",
  CT: "case",
  CS: "case",
  CR: "case",
}
/** Message functions (1225) that bring an order: original, replacement, copy; and the one that cancels it. */
const bringing = new Set(["", "9", "5", "31", "1"])
const cancelling = "1"
const maxInMessage = 20_000

/**
 * Reads UN/EDIFACT ORDERS (directory D.01B) as rows, one for each line item. Read are: number, dates, buyer, delivery
 * party with contact and telephone, currency, terms of delivery with place, purchase order, texts, and of each line item
 * article or GTIN, quantity with unit, net price; other segments are left out. A message whose counts, references or
 * type are wrong is refused alone, the others are read; an interchange whose own counts are wrong is refused whole.
 */
export async function* readOrdersEdifact(source: Readable, seen?: (chunk: Buffer) => void): AsyncGenerator<ReadRow> {
  let control = ""
  let messages = 0
  let closed = false
  let open: Segment[] | null = null
  for await (const segment of segments(source, seen)) {
    if (closed) throw new FileRefused(reason("file.edifact-after-end", { segment: segment.at }))
    if (segment.tag === "UNB") control = component(segment, 4)
    else if (segment.tag === "UNH") {
      if (open) throw new FileRefused(reason("file.edifact-no-unt", { segment: segment.at }))
      open = [segment]
    } else if (segment.tag === "UNT") {
      if (!open) throw new FileRefused(reason("file.edifact-no-unh", { segment: segment.at }))
      const from = (open[0] as Segment).at
      for (const row of rowsOf([...open, segment])) yield { ...row, document: from }
      open = null
      messages += 1
    } else if (segment.tag === "UNZ") {
      if (open) throw new FileRefused(reason("file.edifact-no-unt", { segment: segment.at }))
      if (Number(component(segment, 0)) !== messages || component(segment, 1) !== control)
        throw new FileRefused(
          reason("file.edifact-unz", {
            said: Number(component(segment, 0)) || 0,
            found: messages,
            reference: component(segment, 1),
          }),
        )
      closed = true
    } else if (open) {
      open.push(segment)
      if (open.length > maxInMessage)
        throw new FileRefused(reason("file.edifact-message-long", { segment: segment.at, limit: maxInMessage }))
    } else if (segment.tag !== "UNG" && segment.tag !== "UNE") {
      throw new FileRefused(reason("file.edifact-outside", { segment: segment.at, tag: segment.tag.slice(0, 3) }))
    }
  }
  if (!closed) throw new FileRefused(reason("file.edifact-cut", { found: messages }))
  if (messages === 0) throw new FileRefused(reason("file.empty"))
}

/** The rows of one message, or one refusal for it. */
function rowsOf(message: readonly Segment[]): ReadRow[] {
  const [first, last] = [message[0] as Segment, message.at(-1) as Segment]
  const body = message.slice(1, -1)
  const all = (tag: string, qualifier?: string) =>
    body.filter((one) => one.tag === tag && (qualifier === undefined || component(one, 0) === qualifier))
  const number = component(all("BGM")[0], 1)
  const refused = (code: string, field: string, value: string): ReadRow[] => [
    refusedRow({ order_number: number, [field]: value }, first.at, field, code),
  ]
  const type = [0, 1, 2].map((part) => component(first, 1, part)).join(" ")
  if (type !== "ORDERS D 01B") return refused("edifact-type", "UNH", type)
  if (Number(component(last, 0)) !== message.length) return refused("edifact-count", "UNT", component(last, 0))
  if (component(last, 1) !== component(first, 0)) return refused("edifact-reference", "UNT", component(last, 1))
  if (!bringing.has(component(all("BGM")[0], 2))) return refused("edifact-function", "BGM", component(all("BGM")[0], 2))
  const items = body.flatMap((one, index) => (one.tag === "LIN" ? [index] : []))
  const counted = all("CNT").find((one) => component(one, 0) === "2")
  if (counted && Number(component(counted, 0, 1)) !== items.length)
    return refused("edifact-lines", "CNT", component(counted, 0, 1))
  const cancels = component(all("BGM")[0], 2) === cancelling
  if (items.length === 0 && cancels)
    return [
      cancellation(
        number,
        first.at,
        headOf(
          body.filter((one) => one.tag !== "LIN"),
          number,
        ),
      ),
    ]
  if (items.length === 0) return refused("edifact-no-lines", "LIN", "")

  const head = { ...headOf(body.slice(0, items[0]), number), source_state: cancels ? "cancelled" : "" }
  const end = body.findIndex((one) => one.tag === "UNS")
  return items.map((from, index) => {
    const until = items[index + 1] ?? (end < 0 ? body.length : end)
    return readRow({ ...head, ...lineOf(body.slice(from, until)) }, (body[from] as Segment).at)
  })
}

function headOf(head: readonly Segment[], number: string): Record<string, string> {
  const date = (...qualifiers: string[]) => {
    for (const qualifier of qualifiers) {
      const found = head.find((one) => one.tag === "DTM" && component(one, 0) === qualifier)
      const digits = component(found, 0, 1)
      if (found) return /^\d{8}/.test(digits) ? digits.replace(/^(\d{4})(\d\d)(\d\d).*$/, "$1-$2-$3") : digits
    }
    return ""
  }
  const party = (...qualifiers: string[]) =>
    qualifiers
      .map((one) => head.find((segment) => segment.tag === "NAD" && component(segment, 0) === one))
      .find(Boolean)
  const names = (segment: Segment | undefined) =>
    (segment?.elements[3] ?? []).slice(0, 5).filter((name) => name.trim() !== "")
  const buyer = party("BY")
  const delivery = party("DP", "ST", "BY")
  const streets = (delivery?.elements[4] ?? []).filter((street) => street.trim() !== "")
  const from = delivery ? head.indexOf(delivery) : -1
  const until = head.findIndex((one, index) => index > from && one.tag === "NAD")
  const contact = from < 0 ? [] : head.slice(from + 1, until < 0 ? undefined : until)
  const telephone = contact.find((one) => one.tag === "COM" && component(one, 0, 1) === "TE")
  const terms = head.find((one) => one.tag === "TOD")
  const purchaseOrder = head.find((one) => one.tag === "RFF" && component(one, 0) === "ON")
  return {
    order_number: number,
    po_number: component(purchaseOrder, 0, 1) || number,
    ordered_on: date("137"),
    promised_on: date("69", "2"),
    customer: names(buyer)[0] ?? component(buyer, 1),
    company: names(delivery)[0] ?? "",
    attention:
      component(
        contact.find((one) => one.tag === "CTA"),
        1,
        1,
      ) ||
      (names(delivery)[1] ?? ""),
    street: streets[0] ?? "",
    street2: streets.slice(1).join(", "),
    city: component(delivery, 5),
    state: component(delivery, 6),
    postal_code: component(delivery, 7),
    country: component(delivery, 8) || "US",
    phone: component(telephone, 0),
    incoterm: component(terms, 2),
    incoterm_place: component(terms, 2, 3),
    currency: component(
      head.find((one) => one.tag === "CUX"),
      0,
      1,
    ),
    reference: component(
      head.find((one) => one.tag === "RFF" && component(one, 0) === "CR"),
      0,
      1,
    ),
    notes: head
      .filter((one) => one.tag === "FTX")
      .map((one) => (one.elements[3] ?? []).join(" "))
      .join(" ")
      .trim(),
  }
}

function lineOf(line: readonly Segment[]): Record<string, string> {
  const item = line[0]
  const own = line
    .filter((one) => one.tag === "PIA")
    .flatMap((one) => one.elements.slice(1))
    .find((one) => one[1] === "SA")
  const quantity = line.find((one) => one.tag === "QTY" && component(one, 0) === "21")
  const price = line.find((one) => one.tag === "PRI" && ["AAA", "AAB"].includes(component(one, 0)))
  const unit = component(quantity, 0, 2)
  return {
    sku: own?.[0] ?? (component(item, 2, 1) === "SA" ? component(item, 2) : ""),
    gtin: ["SRV", "EN"].includes(component(item, 2, 1)) ? component(item, 2) : "",
    quantity: component(quantity, 0, 1),
    unit: unit ? (units[unit] ?? unit) : "",
    unit_price: component(price, 0, 1),
  }
}
