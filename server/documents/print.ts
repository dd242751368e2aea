import type { Knex } from "knex"
import { announce } from "../audit/index.ts"
import { ippPrinter, type PrinterGateway } from "../gateways/printer.ts"

/**
 * Sends a print job to its printer. Printing can't be taken back, so from the second try on the printer is first
 * asked whether it has a job of this name (RFC 8011, Get-Jobs). Throws to be run again; the clerk sees the trouble.
 */
export async function sendPrintJob(
  db: Knex,
  printJobId: number,
  tries: number,
  printerAt: (uri: string) => PrinterGateway = ippPrinter,
): Promise<void> {
  const job = await db("print_job")
    .join("printer", "printer.id", "print_job.printer_id")
    .join("document", "document.id", "print_job.document_id")
    .where("print_job.id", printJobId)
    .first(
      "print_job.name",
      "print_job.state",
      "printer.uri",
      "printer.media",
      "print_job.copies",
      "document.bytes",
      "document.order_id",
      "document.warehouse_id",
    )
  if (job?.state !== "waiting") return
  const printer = printerAt(job.uri)
  try {
    const there = tries > 1 && (await printer.has(job.name))
    if (!there) await printer.print(job.name, job.bytes, job.media, job.copies)
    await db("print_job")
      .where({ id: printJobId, state: "waiting" })
      .update({ state: "printed", printed_at: new Date(), tries, trouble: null })
    await announce(db, { warehouseId: job.warehouse_id, orderId: job.order_id })
  } catch (error) {
    await db("print_job")
      .where({ id: printJobId })
      .update({ tries, trouble: (error as Error).message.slice(0, 300) })
    await announce(db, { warehouseId: job.warehouse_id, orderId: job.order_id })
    throw error
  }
}
