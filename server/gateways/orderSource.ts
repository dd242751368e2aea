import { coded, reason } from "core/refusal/index.ts"
import { z } from "zod"
import { reach } from "./reach.ts"

const pageSchema = z.object({ orders: z.array(z.unknown()).max(1_000), next: z.string().max(80) })
export type OrdersPage = z.infer<typeof pageSchema>

const most = 4 * 1024 * 1024

/** Days of a source's orders, both included. */
export interface Period {
  readonly from: string
  readonly to: string
}

/**
 * The orders that a source has after a cursor, oldest first and of a period where one is given, and the cursor after
 * them. What is inside an order is for the reader to judge. Throws when the source does not answer with a page, or with one of more than 4 MB.
 */
export async function fetchOrders(
  url: string,
  cursor: string,
  period: Period | null = null,
  timeLimitMs = 8_000,
): Promise<OrdersPage> {
  const at = new URL(url)
  at.searchParams.set("after", cursor)
  if (period) {
    at.searchParams.set("from", period.from)
    at.searchParams.set("to", period.to)
  }
  const response = await reach(at, { headers: { accept: "application/json" }, timeLimitMs, most })
  if (response.status >= 300) throw new Error(coded(reason("reach.status", { status: response.status })))
  const page = pageSchema.safeParse(response.json())
  if (!page.success) throw new Error(coded(reason("reach.other-answer")))
  return page.data
}
