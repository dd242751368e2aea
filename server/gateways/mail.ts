import { createTransport, type Transporter } from "nodemailer"

export interface MailMessage {
  readonly messageId: string
  readonly from: string
  readonly to: string
  readonly subject: string
  readonly text: string
  /** The same as a page, made by us: no part of it is asked for from outside. */
  readonly html?: string | null
  readonly attachments: readonly { readonly name: string; readonly bytes: Buffer }[]
  /** Where mail that can't be delivered comes back to; empty: to the sender. */
  readonly bouncesTo?: string
  /** Where one press ends such messages (RFC 8058); empty: nowhere. */
  readonly unsubscribe?: string
}

/** The mail server did not take it now; send it again later under the same message id. */
export class MailUnreachable extends Error {}

/** `later`: the server takes others, and this one not now. */
export type MailAnswer = { readonly kind: "sent" } | { readonly kind: "refused" | "later"; readonly why: string }

/** A way to a mail server that is kept open over several messages. */
export interface MailLine {
  readonly send: (message: MailMessage) => Promise<MailAnswer>
  readonly close: () => void
}

/**
 * Opens a way to a mail server over SMTP (RFC 5321). A permanent answer (5xx) to a message is a refusal, and so is
 * an address that is none; another answer (4xx) is for later; where the server itself can't be reached it throws
 * MailUnreachable.
 */
export function mailLine(url: string, timeLimitMs = 5_000): MailLine {
  const { hostname, port } = new URL(url)
  const transport = createTransport({
    pool: true,
    maxConnections: 1,
    maxMessages: 500,
    host: hostname,
    port: Number(port || 25),
    secure: false,
    ignoreTLS: true,
    connectionTimeout: timeLimitMs,
    greetingTimeout: timeLimitMs,
    socketTimeout: timeLimitMs,
    // nothing that a message names is read from disk or fetched
    disableFileAccess: true,
    disableUrlAccess: true,
  })
  return { send: (message) => sendBy(transport, message), close: () => transport.close() }
}

async function sendBy(transport: Pick<Transporter, "sendMail">, message: MailMessage): Promise<MailAnswer> {
  try {
    await transport.sendMail({
      messageId: message.messageId,
      from: message.from,
      to: message.to,
      subject: message.subject,
      text: message.text,
      ...(message.html ? { html: message.html } : {}),
      ...(message.bouncesTo ? { envelope: { from: message.bouncesTo, to: message.to } } : {}),
      ...(message.unsubscribe
        ? {
            headers: {
              "List-Unsubscribe": `<${message.unsubscribe}>`,
              "List-Unsubscribe-Post": "List-Unsubscribe=One-Click",
            },
          }
        : {}),
      attachments: message.attachments.map((one) => ({ filename: one.name, content: one.bytes })),
    })
    return { kind: "sent" }
  } catch (error) {
    const {
      code,
      responseCode,
      response,
      message: text,
    } = error as { code?: string; responseCode?: number; response?: string; message: string }
    // without an answer of the server: nobody whom it could be sent to, now or later
    const unsendable = responseCode === undefined && (code === "EENVELOPE" || code === "EMESSAGE")
    if (unsendable || (responseCode !== undefined && responseCode >= 500))
      return { kind: "refused", why: (response ?? text).slice(0, 280) }
    // 421: the server closes, and takes no other either
    if (responseCode !== undefined && responseCode !== 421)
      return { kind: "later", why: (response ?? text).slice(0, 280) }
    throw new MailUnreachable(text, { cause: error })
  }
}
