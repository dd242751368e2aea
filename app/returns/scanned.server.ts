import { redirect } from "react-router"
import type { Work } from "server/http/context.ts"
import { type Arrived, arrive, arriveSent, returnCode } from "server/returns/arrive.ts"
import { say } from "words/index.ts"
import { sayReasons } from "words/reasons.ts"
import { done, refusal } from "../shell/scan.server.ts"
import { allow } from "../shell/work.ts"

/** Where a return is shown. */
export const returnAt = (name: string): string => `/orders/returns/${encodeURIComponent(name)}`

/** What is said of a package that was taken in. */
export function sayArrived({ name, piece, of, here, late, again }: Arrived): string {
  const one = of > 1 ? `${name}.${piece}` : name
  if (again) return say("goods-back.here-before", { name: one })
  return [say("goods-back.is-here", { name: one, here, of }), ...(late ? [say("goods-back.is-late")] : [])].join(" ")
}

/**
 * What a scan means where goods come back: a package is taken in; a return or an order is shown; what nobody knows can be
 * taken in as unknown.
 */
export async function scannedBack(work: Work, text: string, from: "list" | "return") {
  allow(work, "dock.work")
  const code = await returnCode(work.db, work.warehouse.id, text)
  if (code?.kind === "return") throw redirect(returnAt(code.name))
  if (code?.kind === "order") throw redirect(`/orders/returns?find=${encodeURIComponent(code.orderNumber)}`)
  if (!code) {
    if (from === "return") return refusal(say("goods-back.not-known", { code: text }))
    throw redirect(`/orders/returns?unknown=${encodeURIComponent(text.slice(0, 60))}`)
  }
  const outcome = code.kind === "package" ? await arrive(work, code.packageId) : await arriveSent(work, code)
  return outcome.ok ? done(sayArrived(outcome.value)) : refusal(sayReasons(outcome.reasons))
}
