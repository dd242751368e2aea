import { coded, reason } from "core/refusal/index.ts"
import { Webhook } from "standardwebhooks"
import { reach } from "./reach.ts"

export type ReportAnswer = { readonly kind: "taken" } | { readonly kind: "refused"; readonly status: number }

/** Refused for good: the source will not have it, however often it is sent. Anything else is tried again. */
const forGood = new Set([400, 404, 405, 409, 410, 413, 415, 422])

function answerOf(status: number): ReportAnswer {
  if (status >= 200 && status < 300) return { kind: "taken" }
  if (forGood.has(status)) return { kind: "refused", status }
  throw new Error(coded(reason("reach.status", { status })))
}

/** Sends a report to an order's source. The source takes a message id once; again changes nothing. Throws to try again. */
export async function sendReport(
  url: string,
  messageId: string,
  payload: unknown,
  timeLimitMs = 4_000,
): Promise<ReportAnswer> {
  const { status } = await reach(url, {
    method: "POST",
    headers: { "content-type": "application/json", "idempotency-key": messageId },
    body: JSON.stringify(payload),
    timeLimitMs,
    most: 64 * 1024,
  })
  return answerOf(status)
}

/**
 * Sends a report as a signed message, as the Standard Webhooks specification has it: id, timestamp, and a signature for
 * each secret, so that whoever still knows the one before can check it as well. Throws to try again.
 *
 * @param at real time: the other side refuses what is not of now
 */
export async function sendWebhook(
  url: string,
  messageId: string,
  body: { readonly type: string; readonly timestamp: string; readonly data: unknown },
  secrets: readonly string[],
  at = new Date(),
  timeLimitMs = 8_000,
): Promise<ReportAnswer> {
  const text = JSON.stringify(body)
  const id = `msg_${messageId}`
  const { status } = await reach(url, {
    method: "POST",
    headers: {
      "content-type": "application/json",
      "webhook-id": id,
      "webhook-timestamp": String(Math.floor(at.getTime() / 1000)),
      "webhook-signature": secrets.map((secret) => new Webhook(secret).sign(id, at, text)).join(" "),
    },
    body: text,
    timeLimitMs,
    most: 64 * 1024,
  })
  return answerOf(status)
}
