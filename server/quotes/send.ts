import type { QuoteId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { noFacts } from "core/telling/index.ts"
import type { Knex } from "knex"
import type { PaperLanguage } from "words/papers.ts"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { postMail } from "../mail/index.ts"
import { whyNotMade } from "../papers/unprintable.ts"
import { quotePdf } from "../pdf/quote.ts"
import { type Warehouse, warehouseById } from "../setup/warehouse.ts"
import { dayIn, languageOf } from "../telling/facts.ts"
import { htmlOf, type Template } from "../telling/render.ts"
import { wordsOn } from "../telling/words.ts"
import { type Quote, quoteByNumber } from "./index.ts"
import { quoteModel } from "./paper.ts"

/** What an e-mail with a quote says, by its template, in the language of its customer. */
async function wordsOf(
  db: Knex,
  warehouse: Warehouse,
  quote: Quote,
): Promise<Template & { readonly language: PaperLanguage }> {
  const customer = quote.customer.code
    ? await db("customer").where({ code: quote.customer.code }).first("language")
    : undefined
  const language = languageOf(customer?.language ?? "en")
  const words = await wordsOn(db, "quote", "mail", language, {
    ...noFacts,
    sender: warehouse.company,
    customer: quote.customer.name,
    quote: quote.number,
    valid_until: dayIn(language, quote.validUntil),
  })
  return { ...words, language }
}

/** Sends a quote's paper by e-mail, in the words of its template. The same key again sends nothing more. */
export async function mailQuote(context: Context, number: string, to: string, key: string): Promise<Outcome<null>> {
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
  const words = await wordsOf(db, warehouse, quote)
  await inTransaction(db, async (trx) => {
    const posted = await postMail(trx, {
      onceKey: `quote ${quote.id} ${key}`.slice(0, 100),
      warehouseId: warehouse.id,
      to,
      subject: words.subject,
      body: words.body,
      html: htmlOf(words.body, {
        sender: warehouse.company,
        address: warehouse.sender.slice(1),
        link: "",
        language: words.language,
        footer: [],
      }),
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
