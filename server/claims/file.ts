import { addressLines } from "core/address/index.ts"
import { localDate } from "core/calendar/index.ts"
import { lineValue } from "core/claims/index.ts"
import { type MoneyText, money, moneyText, showMoney } from "core/money/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { paperWords } from "words/papers.ts"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { addressOf } from "../addresses/row.ts"
import { parsed, record } from "../audit/index.ts"
import { compute } from "../compute/pool.ts"
import { inTransaction } from "../db/connection.ts"
import type { ClaimRow } from "../db/tables.ts"
import { there } from "../db/there.ts"
import { bytesColumn, keepDocument, withOwnBytes } from "../documents/index.ts"
import { postMail } from "../mail/index.ts"
import { claimPdf } from "../pdf/claim.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { claimNumbered, kept } from "./claims.ts"
import { termsOf } from "./facts.ts"

/** Bytes of a claim with all that goes along, at most: mail servers take no more (common practice). */
const mostBytes = 15 * 1024 * 1024

/** A claim as it goes to the carrier: our letter with its photos, and the papers of the shipment behind it. */
export async function claimPaper(db: Knex, row: ClaimRow, now: Date): Promise<Outcome<Buffer>> {
  const { facts, goods, papers } = kept(row)
  const warehouse = await warehouseById(db, row.warehouse_id)
  const own = there(await db("warehouse").where({ id: row.warehouse_id }).first("email"))
  const order = there(await db("sales_order").where({ id: row.order_id }).first())
  const photos = await db("claim_photo").where({ claim_id: row.id }).orderBy("id").select("name", "bytes")
  const documents = await withOwnBytes(db)
    .where({ "d.warehouse_id": row.warehouse_id, "d.order_id": row.order_id, "d.media": "application/pdf" })
    .whereIn("d.id", [...papers])
    .whereNull("d.void_at")
    .orderBy("d.id")
    .select("d.name", "d.kind", bytesColumn(db))
  const size = [...photos, ...documents].reduce((sum, one) => sum + (one.bytes as Buffer).length, 0)
  if (size > mostBytes) return refused(reason("claim.too-large", { limit: mostBytes / 1024 / 1024 }))
  const words = paperWords("en")
  const { say } = words
  const amounts = parsed<{ goods: MoneyText; freight: MoneyText; total: MoneyText; limit: MoneyText | null }>(
    row.amounts,
  )
  const amount = (of: MoneyText) => showMoney(moneyText(money(of.amount, of.currency)))
  const day = (date: string | null) => (date ? words.date(date) : "")
  const receiver = addressLines(addressOf(order)).join(", ")
  const letter = await claimPdf(
    {
      kind: row.kind,
      number: nameOf(row.number),
      date: day(localDate(now, warehouse.zone)),
      claimant: [...warehouse.sender, own.email].filter(Boolean),
      carrier: [row.carrier],
      shipment: [
        say("claim-paper.tracking", { numbers: facts.tracking.join(", ") }),
        ...(facts.master ? [say("claim-paper.master", { number: facts.master })] : []),
        say("claim-paper.shipped", { day: day(facts.shippedOn) }),
        ...(facts.deliveredOn ? [say("claim-paper.delivered", { day: day(facts.deliveredOn) })] : []),
        ...(facts.declared
          ? [say("claim-paper.declared", { amount: amount({ amount: facts.declared, currency: row.currency }) })]
          : []),
        say("claim-paper.receiver", { receiver }),
      ],
      happened: row.happened,
      goods: goods.map((one) => {
        const line = facts.lines.find((each) => each.lineId === one.lineId)
        return {
          sku: line?.sku ?? "",
          description: line?.description ?? "",
          pieces: String(one.pieces),
          unitValue: one.unitValue,
          value: moneyText(lineValue(one, row.currency)).amount,
        }
      }),
      sums: [
        { name: say("claim-paper.goods"), amount: amount(amounts.goods) },
        { name: say("claim-paper.freight"), amount: amount(amounts.freight) },
        { name: say("claim-paper.total"), amount: amount(amounts.total) },
      ],
      demand: say("claim-paper.we-demand", { amount: amount(amounts.total) }),
      enclosed: [...photos.map((one) => one.name), ...documents.map((one) => one.name)],
      photos: photos.map((one) => ({ name: one.name, bytes: one.bytes })),
    },
    now,
    say,
  )
  if (documents.length === 0) return accepted(letter)
  const merged = await compute("mergePdfs", {
    title: nameOf(row.number),
    files: [letter, ...documents.map((one) => one.bytes as Buffer)],
  })
  return accepted(Buffer.from(merged))
}

export const nameOf = (number: number): string => `CL-${number}`

export const fileForm = z.object({
  way: z.enum(["mail", "hand"]),
  reference: z.string().trim().max(60).default(""),
  /** After the carrier's last day all the same. */
  late: z.string().optional(),
})

/**
 * Files a claim with its carrier: by e-mail to where it takes them, or noted as filed by hand. What was sent is kept. Safe
 * to repeat; refused where it lacks what a claim must have, or the carrier's last day is over, which a lead may overrule.
 */
export async function fileClaim(
  context: Context,
  number: number,
  said: z.infer<typeof fileForm>,
): Promise<Outcome<{ readonly to: string }>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  const late = said.late === "on"
  if (late) authorise(actor, "orders.override")
  const at = await claimNumbered(db, actor.warehouseId, number)
  if (!at) return refused(reason("claim.gone", { number }))
  if (at.state !== "draft") return accepted({ to: at.filed_to })
  const warehouse = await warehouseById(db, actor.warehouseId)
  const today = localDate(now, warehouse.zone)
  const { email } = await termsOf(db, at.carrier_id)
  if (said.way === "mail" && email === "") return refused(reason("claim.no-address", { carrier: at.carrier }))
  if (at.happened === "") return refused(reason("claim.what-happened", { field: "happened" }))
  if (!(Number(at.total) > 0)) return refused(reason("claim.nothing"))
  if (today > at.file_by && !late) return refused(reason("claim.over", { carrier: at.carrier, day: at.file_by }))
  const paper = await claimPaper(db, at, now)
  if (!paper.ok) return paper
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly to: string }>> => {
    const row = there(await trx("claim").where({ id: at.id }).forUpdate().first())
    if (row.state !== "draft") return accepted({ to: row.filed_to })
    // what was drawn is what is filed
    if (row.version !== at.version) return refused(reason("claim.changed"))
    const to = said.way === "mail" ? email : ""
    const documentId = await keepDocument(trx, {
      warehouseId: row.warehouse_id,
      kind: "claim",
      name: nameOf(number),
      bytes: paper.value,
      madeAt: now,
      orderId: row.order_id,
    })
    await trx("claim")
      .where({ id: row.id })
      .update({
        state: "filed",
        filed_on: today,
        filed_to: to,
        filed_by: actor.name,
        reference: said.reference,
        document_id: documentId,
        version: row.version + 1,
      })
    const amount = { amount: Number(row.total).toFixed(2), currency: row.currency }
    if (to !== "") {
      const { say } = paperWords("en")
      await postMail(trx, {
        onceKey: `claim ${row.id}`,
        warehouseId: row.warehouse_id,
        to,
        subject: say("claim-paper.subject", { number: nameOf(number), tracking: kept(row).facts.tracking[0] ?? "" }),
        body: say("claim-paper.mail", { number: nameOf(number), amount: showMoney(amount) }),
        attachment: null,
        documents: [documentId],
        quoteId: null,
        by: actor.name,
        at: now,
      })
    }
    await record(trx, actor, now, {
      action: to === "" ? "claim.filed-by-hand" : "claim.filed",
      orderId: row.order_id,
      detail: { number, carrier: row.carrier, amount, to },
    })
    return accepted({ to })
  })
}
