import type { BillOfLadingModel, PaperParty } from "core/papers/index.ts"
import { lengthIn, massIn } from "core/units/index.ts"
import { inParts, interchange, type SegmentOut } from "./edifactOut.ts"

const kg = (value: BillOfLadingModel["weight"]): string => massIn(value, "kg").toFixed(1)
const cm = (value: BillOfLadingModel["units"][number]["size"]["length"]): string => lengthIn(value, "cm").toFixed(0)

/** Name and address of a party: UNCL 3035 CZ consignor, CN consignee, CA carrier. */
const nad = (role: "CZ" | "CN", party: PaperParty): SegmentOut => [
  "NAD",
  role,
  "",
  "",
  inParts(party.company || party.attention, 35, 5),
  inParts([party.street, party.street2].filter(Boolean).join(", "), 35, 4),
  party.city.slice(0, 35),
  party.state.slice(0, 9),
  party.postalCode.slice(0, 17),
  party.country,
]

/** Kinds of packages by UNECE Recommendation 21 (from memory): PX pallet, CT carton, PK package. */
const kindOf = { pallet: "PX", carton: "CT", piece: "PK" } as const

/**
 * The instruction to a freight carrier to carry a shipment: UN/EDIFACT IFTMIN, directory D.01B. It says what its bill of
 * lading says: parties, references, gross weight and handling units, goods by unit with size and weight, the unit's SSCC,
 * dangerous goods.
 */
export function iftmin(
  model: BillOfLadingModel,
  { at, ssccs }: { readonly at: Date; readonly ssccs: ReadonlyMap<string, string> },
): string {
  const day = model.shipDate.replaceAll("-", "")
  const units = model.units.flatMap((unit, index): SegmentOut[] => {
    const sscc = ssccs.get(unit.name) ?? ""
    return [
      ["GID", index + 1, [1, kindOf[unit.kind]], [unit.pieces, kindOf[unit.kindOfPieces]]],
      ["FTX", "AAA", "", "", inParts(unit.description, 512, 5)],
      ["MEA", "AAE", "G", ["KGM", kg(unit.weight)]],
      ["DIM", "2", ["CMT", cm(unit.size.length), cm(unit.size.width), cm(unit.size.height)]],
      ...(sscc
        ? ([
            ["PCI", "33E"],
            ["GIN", "BJ", sscc],
          ] satisfies SegmentOut[])
        : []),
    ]
  })
  // dangerous goods stand with the last unit's group, each with its number and words (UNCL 8273 CFR, from memory)
  const hazardous = model.hazardous.flatMap((one): SegmentOut[] => [
    ["DGS", "CFR", one.hazardClass, one.unNumber.replace("UN", "")],
    ["FTX", "AAD", "", "", inParts(`${one.shippingName}, ${one.quantity}`, 512, 5)],
  ])
  return interchange(
    "IFTMIN",
    [
      ["BGM", "610", model.number, "9"],
      ["DTM", ["137", at.toISOString().replace(/\D/g, "").slice(0, 12), "203"]],
      ["DTM", ["200", day, "102"]],
      ["CNT", ["7", kg(model.weight), "KGM"]],
      ["CNT", ["11", model.units.length]],
      ["RFF", ["CU", model.sourceNumber]],
      ...(model.purchaseOrder ? ([["RFF", ["ON", model.purchaseOrder]]] satisfies SegmentOut[]) : []),
      ...(model.proNumber ? ([["RFF", ["CN", model.proNumber]]] satisfies SegmentOut[]) : []),
      ["CPI", "4", "", model.payer === "collect" ? "C" : "P"],
      ["TDT", "20", "", "3", "", [model.carrierCode]],
      nad("CZ", model.shipper),
      nad("CN", model.consignee),
      ...units,
      ...hazardous,
    ],
    {
      sender: model.shipper.company.slice(0, 35),
      receiver: model.carrierCode,
      at,
      reference: model.number.slice(0, 14),
    },
  )
}
