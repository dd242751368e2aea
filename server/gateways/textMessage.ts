import { coded, reason } from "core/refusal/index.ts"
import { z } from "zod"
import { reach } from "./reach.ts"

export type TextAnswer =
  | { readonly kind: "sent" }
  | { readonly kind: "refused"; readonly why: string }
  /** The service takes none just now. */
  | { readonly kind: "later"; readonly why: string }

const refusal = z.object({ reason: z.string() }).catch({ reason: "no reason given" })

/** Hands a short message to the service, which takes it once by its key. Throws where it does not answer. */
export async function sendText(
  url: string,
  key: string,
  message: { readonly to: string; readonly text: string },
  timeLimitMs = 4_000,
): Promise<TextAnswer> {
  const { status, json } = await reach(`${url}/v1/messages/${key}`, {
    method: "PUT",
    headers: { "content-type": "application/json", accept: "application/json" },
    body: JSON.stringify(message),
    timeLimitMs,
    most: 64 * 1024,
  })
  if (status === 200 || status === 201) return { kind: "sent" }
  if (status === 422 || status === 400) return { kind: "refused", why: refusal.parse(json()).reason.slice(0, 280) }
  return { kind: "later", why: coded(reason("reach.status", { status })) }
}
