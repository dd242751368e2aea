import { localDate, localTime } from "core/calendar/index.ts"
import { type NoticeContent, type NoticePackage, noticeTree, type ShipNotice } from "core/shipNotice/index.ts"

/** How a thing is named in events: as a GS1 Digital Link (GS1 Digital Link standard, URI syntax; from memory). */
const link = (...parts: readonly (readonly [ai: string, value: string])[]): string =>
  `https://id.gs1.org/${parts.map(([ai, value]) => `${ai}/${encodeURIComponent(value)}`).join("/")}`

/** Offset of a zone from UTC at a moment, as events say it: `-06:00`. */
export function offsetOf(at: Date, zone: string): string {
  const local = Date.parse(`${localDate(at, zone)}T${localTime(at, zone)}Z`)
  const minutes = Math.round((local - Math.floor(at.getTime() / 60_000) * 60_000) / 60_000)
  const two = (figure: number) => String(Math.floor(figure)).padStart(2, "0")
  return `${minutes < 0 ? "-" : "+"}${two(Math.abs(minutes) / 60)}:${two(Math.abs(minutes) % 60)}`
}

/**
 * What became of goods that have left, as events by GS1 EPCIS 2.0 in JSON: cartons packed with their pieces by item and
 * lot, cartons set on pallets, units loaded, units shipped. Units are named by their SSCC; those without one are in none
 * of the events. Pieces whose item has no GTIN are named in our own words below our own address.
 *
 * @param domain ours, for names that no standard gives
 */
export function epcisDocument(
  notice: ShipNotice,
  { at, domain }: { readonly at: Date; readonly domain: string },
): string {
  const lineOf = new Map(notice.lines.map((one) => [one.line, one]))
  const unitOf = (one: NoticePackage): string => link(["00", one.sscc])
  const site = link(["414", notice.from.gln])
  const spot = (name: string) => ({ id: link(["414", notice.from.gln], ["254", name]) })
  const orders = [...new Set(notice.lines.map((one) => one.purchaseOrder).filter(Boolean))]
  const when = (moment: Date) => ({
    eventTime: moment.toISOString(),
    eventTimeZoneOffset: offsetOf(moment, notice.zone),
  })
  const of = {
    bizLocation: { id: site },
    bizTransactionList: [
      // Core Business Vocabulary 2.0, business transactions by the GLN of who gave the number (from memory)
      {
        type: "desadv",
        bizTransaction: `urn:epcglobal:cbv:bt:${notice.from.gln}:${encodeURIComponent(notice.number)}`,
      },
      ...orders.map((one) => ({
        type: "po",
        bizTransaction: `https://${domain}/orders/${encodeURIComponent(one)}`,
      })),
    ],
  }
  const classOf = (line: number, lot: string): string => {
    const item = lineOf.get(line)
    const gtin = item?.gtin.padStart(14, "0")
    if (item?.gtin && gtin) return lot ? link(["01", gtin], ["10", lot]) : link(["01", gtin])
    return `https://${domain}/items/${encodeURIComponent(item?.sku ?? "")}${lot ? `/lots/${encodeURIComponent(lot)}` : ""}`
  }
  const quantities = (contents: readonly NoticeContent[]) => {
    const sums = new Map<string, number>()
    for (const one of contents)
      for (const part of one.lots.length > 0 ? one.lots : [{ code: "", quantity: one.quantity }]) {
        const name = classOf(one.line, part.code)
        sums.set(name, (sums.get(name) ?? 0) + part.quantity)
      }
    return [...sums].map(([epcClass, quantity]) => ({ epcClass, quantity }))
  }
  const tree = noticeTree(notice)
  const all = tree.flatMap(({ unit, on }) => [...on, unit]).filter((one) => one.sscc)
  const packing = {
    type: "AggregationEvent",
    ...when(notice.packedAt),
    action: "ADD",
    bizStep: "packing",
    disposition: "in_progress",
    readPoint: spot("BENCH"),
    ...of,
  }
  const packed = all
    .filter((one) => one.contents.length > 0)
    .map((one) => ({ ...packing, parentID: unitOf(one), childQuantityList: quantities(one.contents) }))
  const stacked = tree
    .filter(({ unit, on }) => unit.sscc && on.some((one) => one.sscc))
    .map(({ unit, on }) => ({
      ...packing,
      parentID: unitOf(unit),
      childEPCs: on.filter((one) => one.sscc).map(unitOf),
    }))
  const units = tree.map((one) => one.unit).filter((one) => one.sscc)
  const loadedAt = new Map<number, NoticePackage[]>()
  for (const one of units) {
    const moment = (one.loadedAt ?? notice.shippedAt).getTime()
    loadedAt.set(moment, [...(loadedAt.get(moment) ?? []), one])
  }
  const moving = { type: "ObjectEvent", action: "OBSERVE", readPoint: spot(`DOOR-${notice.door}`), ...of }
  const loaded = [...loadedAt]
    .sort(([a], [b]) => a - b)
    .map(([moment, some]) => ({
      ...moving,
      ...when(new Date(moment)),
      bizStep: "loading",
      disposition: "in_progress",
      epcList: some.map(unitOf),
    }))
  const shipped =
    units.length > 0
      ? [
          {
            ...moving,
            ...when(notice.shippedAt),
            bizStep: "shipping",
            disposition: "in_transit",
            epcList: units.map(unitOf),
          },
        ]
      : []
  return JSON.stringify(
    {
      "@context": ["https://ref.gs1.org/standards/epcis/2.0.0/epcis-context.jsonld"],
      type: "EPCISDocument",
      schemaVersion: "2.0",
      creationDate: at.toISOString(),
      epcisBody: { eventList: [...packed, ...stacked, ...loaded, ...shipped] },
    },
    null,
    2,
  )
}
