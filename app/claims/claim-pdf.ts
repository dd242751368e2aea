import { claimNumbered } from "server/claims/claims.ts"
import { claimPaper, nameOf } from "server/claims/file.ts"
import { documentBytes } from "server/documents/index.ts"
import { workContext } from "server/http/context.ts"
import { sayReasons } from "words/reasons.ts"
import { pdf } from "../shell/pdf.server.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/claim-pdf"

/** A claim as it went to the carrier, or as it would go now. */
export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const number = /^\d{1,9}$/.test(params.number) ? Number(params.number) : 0
  const claim = await claimNumbered(work.db, work.warehouse.id, number)
  if (!claim) throw new Response("", { status: 404 })
  const sent = claim.document_id ? await documentBytes(work, claim.document_id) : undefined
  if (sent) return pdf(Promise.resolve(sent))
  const made = await claimPaper(work.db, claim, work.now)
  if (!made.ok)
    return new Response(`${sayReasons(made.reasons)}\n`, {
      status: 422,
      headers: { "content-type": "text/plain; charset=utf-8" },
    })
  return pdf(Promise.resolve({ name: nameOf(number), bytes: made.value }))
}
