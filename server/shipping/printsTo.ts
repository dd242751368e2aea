import { formOn, type LabelForm, labelFormOf } from "core/documents/index.ts"
import { type PreferredBy, preferred } from "core/preferences/index.ts"
import type { Context } from "../actors/index.ts"
import { whose } from "../documents/index.ts"
import { printerFor } from "../documents/printers.ts"
import type { Shipment } from "../packages/shipment.ts"
import { preferencesAt, worksAt } from "../setup/preferences.ts"

interface Said {
  readonly kind: PreferredBy["kind"] | "carrier" | "printer"
  readonly name: string
}

/** Where a shipment's labels come out for whoever looks, in which form, and who said so; null where no printer is set. */
export async function labelsGoTo(
  context: Context,
  shipment: Shipment | null,
): Promise<{
  readonly printer: string
  readonly printerBy: Said
  readonly form: LabelForm
  readonly formBy: Said
} | null> {
  const { db, actor } = context
  const printer = await printerFor(db, actor.warehouseId, "label", whose(context))
  if (!printer) return null
  const said = await preferencesAt(db, worksAt(context))
  const usual = preferred(said, "labelForm")
  const carrier = shipment?.serviceId
    ? await db("carrier as c")
        .join("service as s", "s.carrier_id", "c.id")
        .where("s.id", shipment.serviceId)
        .first("c.label_form", "c.name")
    : undefined
  const wanted: readonly { readonly form: string; readonly by: Said }[] = [
    ...(carrier ? [{ form: carrier.label_form, by: { kind: "carrier" as const, name: carrier.name } }] : []),
    ...(usual ? [{ form: usual.value, by: usual.by }] : []),
  ]
  const found = formOn(
    labelFormOf(printer.form),
    wanted.map((one) => one.form),
  )
  const names = await db("warehouse as w")
    .leftJoin("bench as b", (on) => void on.on("b.warehouse_id", "w.id").andOnVal("b.id", context.benchId ?? 0))
    .where("w.id", actor.warehouseId)
    .first("w.name", "b.name as bench")
  const place = printer.by === "bench" ? names?.bench : printer.by === "warehouse" ? names?.name : ""
  return {
    printer: printer.name,
    printerBy: { kind: printer.by, name: place ?? "" },
    form: found.form,
    formBy: (found.wanted === null ? null : wanted[found.wanted]?.by) ?? { kind: "printer", name: "" },
  }
}
