import { localDate } from "core/calendar/index.ts"
import {
  type NoticeContent,
  type NoticePackage,
  type NoticeParty,
  noticeTree,
  type ShipNotice,
} from "core/shipNotice/index.ts"
import { lengthIn, massIn } from "core/units/index.ts"
import { Decimal } from "decimal.js"
import { inParts, interchange, type SegmentOut } from "./edifactOut.ts"

/** Gross weight as it is said: what the units say adds up to what the whole says. */
const kg = (one: NoticePackage): Decimal => massIn(one.weight, "kg").toDecimalPlaces(3)
const cm = (length: NoticePackage["size"]["length"]): string => lengthIn(length, "cm").toFixed(0)
const day = (date: string): string => date.replaceAll("-", "")

/** Kinds of packages by UNECE Recommendation 21 (from memory): PX pallet, CT carton. */
const kindOf = { pallet: "PX", carton: "CT" } as const

/**
 * A party: UNCL 3035 SU supplier, SF ship from, BY buyer, DP delivery party. By its GLN (UNCL 3055, 9: GS1), else by the
 * code that the seller gives it (91).
 */
const nad = (role: "SU" | "SF" | "BY" | "DP", party: NoticeParty): SegmentOut => [
  "NAD",
  role,
  party.gln ? [party.gln, "", "9"] : party.code ? [party.code.slice(0, 35), "", "91"] : "",
  "",
  inParts(party.name, 35, 5),
  inParts(party.street, 35, 4),
  party.city.slice(0, 35),
  party.state.slice(0, 9),
  party.postalCode.slice(0, 17),
  party.country,
]

/** References of the head are ten at most; each line names its own order besides. */
const mostReferences = 9

/**
 * The advance ship notice of goods that have left: UN/EDIFACT DESADV, directory D.01B. The consignment, then each
 * handled unit with size, weight and SSCC, the cartons on a pallet below it, and what lies in each by order line, with
 * the lots and their dates where they are known. Totals: lines (CNT 2) and handled units (CNT 11), gross weight of all.
 */
export function desadv(
  notice: ShipNotice,
  { at, reference, receiver }: { readonly at: Date; readonly reference: string; readonly receiver: string },
): string {
  const lineOf = new Map(notice.lines.map((one) => [one.line, one]))
  const tree = noticeTree(notice)
  const orders = [...new Set(notice.lines.map((one) => one.purchaseOrder).filter(Boolean))]
  let level = 1
  let lines = 0
  const lot = (one: NoticeContent["lots"][number], all: NoticeContent["lots"]): SegmentOut[] => [
    ["PCI", "36E"],
    ...(one.expiresOn ? [["DTM", ["361", day(one.expiresOn), "102"]] satisfies SegmentOut] : []),
    // of one lot are all pieces of the line
    ...(all.length > 1 ? [["QTY", ["12", one.quantity]] satisfies SegmentOut] : []),
    ["GIN", "BX", one.code.slice(0, 35)],
  ]
  const goods = (one: NoticeContent): SegmentOut[] => {
    const of = lineOf.get(one.line)
    lines += 1
    return [
      ["LIN", lines, "", of?.gtin ? [of.gtin, "SRV"] : ""],
      ["PIA", "1", [(of?.sku ?? "").slice(0, 35), "SA"]],
      ["IMD", "F", "", ["", "", "", ...inParts(of?.description ?? "", 256, 2)]],
      ["QTY", ["12", one.quantity]],
      ...(of?.purchaseOrder ? [["RFF", ["ON", of.purchaseOrder.slice(0, 70)]] satisfies SegmentOut] : []),
      ...one.lots.flatMap((each) => lot(each, one.lots)),
    ]
  }
  const unit = (one: NoticePackage, above: number): SegmentOut[] => {
    level += 1
    return [
      ["CPS", level, above],
      ["PAC", 1, "", kindOf[one.kind]],
      ["MEA", "PD", "AAB", ["KGM", kg(one).toFixed()]],
      ["MEA", "PD", "LN", ["CMT", cm(one.size.length)]],
      ["MEA", "PD", "WD", ["CMT", cm(one.size.width)]],
      ["MEA", "PD", "HT", ["CMT", cm(one.size.height)]],
      ["PCI", "33E"],
      ...(one.tracking ? [["RFF", ["CN", one.tracking.slice(0, 70)]] satisfies SegmentOut] : []),
      ...(one.sscc ? [["GIN", "BJ", one.sscc] satisfies SegmentOut] : []),
      ...one.contents.flatMap(goods),
    ]
  }
  const units = tree.flatMap(({ unit: handled, on }) => {
    const own = unit(handled, 1)
    const above = level
    return [...own, ...on.flatMap((carton) => unit(carton, above))]
  })
  const weight = tree.reduce((sum, one) => sum.add(kg(one.unit)), new Decimal(0))
  return interchange(
    "DESADV",
    [
      ["BGM", "351", notice.number, "9"],
      ["DTM", ["137", at.toISOString().replace(/\D/g, "").slice(0, 12), "203"]],
      ["DTM", ["11", day(localDate(notice.shippedAt, notice.zone)), "102"]],
      ...(notice.arrivesOn ? [["DTM", ["17", day(notice.arrivesOn), "102"]] satisfies SegmentOut] : []),
      ["MEA", "AAX", "AAD", ["KGM", weight.toFixed()]],
      ...orders.slice(0, mostReferences).map((one): SegmentOut => ["RFF", ["ON", one.slice(0, 70)]]),
      ...(notice.tracking ? [["RFF", ["CN", notice.tracking.slice(0, 70)]] satisfies SegmentOut] : []),
      nad("SU", notice.from),
      nad("BY", notice.buyer),
      nad("DP", notice.shipTo),
      ["TDT", "20", notice.form.slice(0, 17), "30", "", [notice.carrierCode, "", "91", notice.carrier.slice(0, 35)]],
      ["CPS", 1],
      ["PAC", tree.length],
      ...units,
      ["CNT", ["2", lines]],
      ["CNT", ["11", tree.length]],
    ],
    { sender: notice.from.gln || notice.from.name.slice(0, 35), receiver: receiver.slice(0, 35), at, reference },
  )
}
