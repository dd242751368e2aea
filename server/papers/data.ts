import type { BillOfLadingModel, InvoiceModel } from "core/papers/index.ts"
import { ciiInvoice } from "../formats/cii.ts"
import { iftmin } from "../formats/iftmin.ts"
import type { Shipment } from "../packages/shipment.ts"
import type { DrawnPaper } from "./drawn.ts"

/** A paper as data for another program. */
export interface DataPaper {
  readonly kind: "invoice-data" | "instruction-data"
  readonly name: string
  readonly media: "application/xml" | "application/edifact"
  readonly bytes: Buffer
}

/** SSCCs of a shipment's packages by their names. */
const ssccsOf = ({ packages, orderNumber }: Pick<Shipment, "packages" | "orderNumber">): ReadonlyMap<string, string> =>
  new Map(packages.flatMap((one) => (one.sscc ? [[`${orderNumber}-${one.number}`, one.sscc] as const] : [])))

/** The instruction to a freight carrier, in the character set of the interchange. */
export const instruction = (
  model: BillOfLadingModel,
  shipment: Pick<Shipment, "packages" | "orderNumber">,
  at: Date,
): Buffer => Buffer.from(iftmin(model, { at, ssccs: ssccsOf(shipment) }), "latin1")

/** The papers of a shipment that other programs read, as they are kept: the invoice as CII, the lading as IFTMIN. */
export const dataPapers = (drawn: readonly DrawnPaper[], shipment: Shipment, at: Date): DataPaper[] =>
  drawn.flatMap((one): DataPaper[] =>
    one.kind === "invoice"
      ? [
          {
            kind: "invoice-data",
            name: one.name,
            media: "application/xml",
            bytes: Buffer.from(ciiInvoice(one.model as InvoiceModel)),
          },
        ]
      : one.kind === "bill-of-lading"
        ? [
            {
              kind: "instruction-data",
              name: one.name,
              media: "application/edifact",
              bytes: instruction(one.model as BillOfLadingModel, shipment, at),
            },
          ]
        : [],
  )
