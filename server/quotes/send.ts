import type { QuoteId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { postMail } from "../mail/index.ts"
import { whyNotMade } from "../papers/unprintable.ts"
import { quotePdf } from "../pdf/quote.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { quoteByNumber } from "./index.ts"
import { quoteModel } from "./paper.ts"

/** Sends a quote's paper by e-mail, with words of whoever sends it. The same key again sends nothing more. */
export async function mailQuote(
  context: Context,
  number: string,
  to: string,
  words: { readonly subject: string; readonly body: string },
  key: string,
): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "quotes.make")
  if (!z.email().max(120).safeParse(to).success) return refused(reason("quote.no-address"))
  const warehouse = await warehouseById(db, actor.warehouseId)
  const quote = await quoteByNumber(db, warehouse, number, now)
  if (!quote) return refused(reason("quote.gone"))
  if (quote.state === "withdrawn") return refused(reason("quote.withdrawn"))
  const paper = await quotePdf(quoteModel(warehouse, quote), quote.madeAt).catch((error: unknown) => {
    const why = whyNotMade(error)
    if (!why) throw error
    return why
  })
  if (!Buffer.isBuffer(paper)) return refused(...paper)
  await inTransaction(db, async (trx) => {
    const posted = await postMail(trx, {
      onceKey: `quote ${quote.id} ${key}`.slice(0, 100),
      warehouseId: warehouse.id,
      to,
      subject: words.subject,
      body: words.body,
      attachment: { name: `${quote.number}.pdf`, bytes: paper },
      quoteId: quote.id,
      by: actor.name,
      at: now,
    })
    if (posted) await record(trx, actor, now, { action: "quote.mailed", detail: { number, to } })
  })
  return accepted(null)
}

export interface MailRow {
  readonly id: number
  readonly to: string
  readonly state: "waiting" | "sent" | "refused" | "bounced"
  readonly trouble: string | null
}

/** What was sent of a quote, the latest first. */
export async function mailsOf({ db }: Pick<Context, "db">, quoteId: QuoteId): Promise<MailRow[]> {
  const rows = await db("mail").where({ quote_id: quoteId }).orderBy("id", "desc").limit(20)
  return rows.map((row) => ({ id: row.id, to: row.recipient, state: row.state, trouble: row.trouble }))
}
