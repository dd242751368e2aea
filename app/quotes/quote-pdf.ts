import { workContext } from "server/http/context.ts"
import { quotePdf } from "server/pdf/quote.ts"
import { quoteByNumber } from "server/quotes/index.ts"
import { quoteModel } from "server/quotes/paper.ts"
import { pdf } from "../shell/pdf.server.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/quote-pdf"

/** The quote as the customer gets it. */
export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "quotes.make")
  const quote = await quoteByNumber(work.db, work.warehouse, params.number, work.now)
  if (!quote) throw new Response("", { status: 404 })
  return pdf(quotePdf(quoteModel(work.warehouse, quote), quote.madeAt).then((bytes) => ({ name: quote.number, bytes })))
}
