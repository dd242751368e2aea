import { localDate } from "core/calendar/index.ts"
import type { LabelModel } from "core/documents/index.ts"
import type { OrderId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { paperWords } from "words/papers.ts"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { keepDocument, noPrinter, printDocument, whose } from "../documents/index.ts"
import { firstPress } from "../documents/once.ts"
import { printerFor } from "../documents/printers.ts"
import { leadOf } from "../orders/joined.ts"
import { handled, shipmentOf } from "../packages/shipment.ts"
import { labelModel, testNumberOf } from "../papers/label.ts"
import { whyNotMade } from "../papers/unprintable.ts"
import { labelPdf } from "../pdf/label.ts"
import { servicesByName } from "../setup/services.ts"
import { warehouseById } from "../setup/warehouse.ts"

/**
 * Prints a label of every package as it would look by a service, to try printer, form and addresses. Nothing is bought
 * and no carrier is asked: it says so across it, its number is none that can be booked, and the dock refuses it. The same
 * key again prints nothing more.
 */
export async function printTestLabels(
  context: Context,
  ofOrder: OrderId,
  serviceCode: string,
  key: string,
): Promise<Outcome<{ readonly n: number }>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  const orderId = await leadOf(db, ofOrder)
  const shipment = await shipmentOf(db, orderId)
  const service = (await servicesByName(db)).find((one) => one.code === serviceCode)
  if (!shipment || shipment.warehouseId !== actor.warehouseId) return refused(reason("order.unknown"))
  if (!service) return refused(reason("buy.service-cannot"))
  const packages = handled(shipment.packages).slice(0, 20)
  if (packages.length === 0) return refused(reason("pack.no-packages"))
  if (!(await printerFor(db, actor.warehouseId, "label", whose(context)))) return refused(noPrinter("label"))
  const warehouse = await warehouseById(db, shipment.warehouseId)
  const carriage = { carrier: service.carrier, service: service.name }
  const labels: { readonly model: LabelModel; readonly bytes: Buffer }[] = []
  for (const one of packages) {
    const numbers = { trackingNumber: testNumberOf(shipment.orderNumber, one.number), routingCode: "TEST" }
    const model = {
      ...labelModel(warehouse, shipment, { ...one, sscc: "" }, carriage, numbers, localDate(now, warehouse.zone)),
      test: paperWords(shipment.language).say("print.test-across"),
    }
    try {
      labels.push({ model, bytes: await labelPdf(model, now) })
    } catch (error) {
      const why = whyNotMade(error)
      if (!why) throw error
      return refused(...why)
    }
  }
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly n: number }>> => {
    if (!(await firstPress(trx, context, key, "test label"))) return accepted({ n: labels.length })
    for (const { model, bytes } of labels) {
      const id = await keepDocument(trx, {
        warehouseId: actor.warehouseId,
        kind: "test-label",
        name: model.trackingNumber,
        bytes,
        madeAt: now,
        orderId,
        model: { label: model },
      })
      await printDocument(trx, actor.warehouseId, id, "test-label", 1, whose(context))
    }
    await record(trx, actor, now, { action: "paper.tested", orderId, detail: { n: labels.length } })
    return accepted({ n: labels.length })
  })
}
