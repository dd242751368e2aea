import type { LocalDate } from "core/calendar/index.ts"
import { coded, reason } from "core/refusal/index.ts"
import { z } from "zod"
import { connectionTrouble, reach } from "./reach.ts"

/** An order as an outside warehouse is asked to ship it. */
export interface OutsideRequest {
  readonly number: string
  readonly purchaseOrder: string
  readonly promisedOn: LocalDate | null
  readonly receiver: { readonly lines: readonly string[]; readonly country: string; readonly postalCode: string }
  readonly instructions: string
  readonly lines: readonly { readonly sku: string; readonly description: string; readonly quantity: number }[]
}

const answerSchema = z.object({
  key: z.string(),
  state: z.enum(["taken", "shipped", "recalled"]),
  reference: z.string().max(60),
  carrier: z.string().max(60),
  service: z.string().max(60),
  packages: z.array(z.object({ trackingNumber: z.string().min(1).max(40), weightLb: z.string().max(12) })).max(200),
})
export type OutsideAnswer =
  | ({ readonly kind: "known" } & z.infer<typeof answerSchema>)
  | { readonly kind: "refused"; readonly reason: string }
  | { readonly kind: "unknown" }

/** The outside warehouse did not answer, or not so that it says what became of the order. Ask again by the same key. */
export class OutsideUnreachable extends Error {}

/** A warehouse of others. Every call may be made again with the same key and changes nothing the second time. */
export interface OutsideGateway {
  send(key: string, request: OutsideRequest): Promise<OutsideAnswer>
  look(key: string): Promise<OutsideAnswer>
  /** Takes an order back; refused when it is shipped. */
  recall(key: string): Promise<OutsideAnswer>
}

/** An outside warehouse reached over HTTP: `PUT`, `GET` and `DELETE /v1/orders/{key}`, with JSON. */
export function httpOutside(baseUrl: string, timeLimitMs = 4_000): OutsideGateway {
  const call = async (method: string, key: string, body?: unknown): Promise<OutsideAnswer> => {
    let status: number
    let answer: unknown
    try {
      const response = await reach(`${baseUrl}/v1/orders/${key}`, {
        method,
        headers: { "content-type": "application/json", accept: "application/json" },
        body: body === undefined ? undefined : JSON.stringify(body),
        timeLimitMs,
      })
      status = response.status
      answer = response.json()
    } catch (error) {
      throw new OutsideUnreachable(connectionTrouble(error))
    }
    if (status === 404) return { kind: "unknown" }
    if (status === 409 || status === 410 || status === 422) {
      const refusal = z.object({ reason: z.string().max(300) }).safeParse(answer)
      return { kind: "refused", reason: refusal.success ? refusal.data.reason : "no reason given" }
    }
    if (method === "DELETE" && status === 200) return { kind: "unknown" }
    const known = answerSchema.safeParse(answer)
    if ((status !== 200 && status !== 201) || !known.success)
      throw new OutsideUnreachable(coded(reason("reach.status", { status })))
    return { kind: "known", ...known.data }
  }
  return {
    send: (key, request) => call("PUT", key, request),
    look: (key) => call("GET", key),
    recall: (key) => call("DELETE", key),
  }
}
