import { createTransport } from "nodemailer"

export interface MailMessage {
  readonly messageId: string
  readonly from: string
  readonly to: string
  readonly subject: string
  readonly text: string
  readonly attachment: { readonly name: string; readonly bytes: Buffer } | null
}

/** The mail server did not take it now; send it again later under the same message id. */
export class MailUnreachable extends Error {}

export type MailAnswer = { readonly kind: "sent" } | { readonly kind: "refused"; readonly why: string }

/**
 * Hands a message to a mail server over SMTP (RFC 5321). A permanent answer (5xx) is a refusal; what may be otherwise
 * later throws MailUnreachable.
 */
export async function sendMail(url: string, message: MailMessage, timeLimitMs = 5_000): Promise<MailAnswer> {
  const { hostname, port } = new URL(url)
  const transport = createTransport({
    host: hostname,
    port: Number(port || 25),
    secure: false,
    ignoreTLS: true,
    connectionTimeout: timeLimitMs,
    greetingTimeout: timeLimitMs,
    socketTimeout: timeLimitMs,
  })
  try {
    await transport.sendMail({
      messageId: message.messageId,
      from: message.from,
      to: message.to,
      subject: message.subject,
      text: message.text,
      ...(message.attachment
        ? { attachments: [{ filename: message.attachment.name, content: message.attachment.bytes }] }
        : {}),
    })
    return { kind: "sent" }
  } catch (error) {
    const {
      responseCode,
      response,
      message: text,
    } = error as { responseCode?: number; response?: string; message: string }
    if (responseCode !== undefined && responseCode >= 500)
      return { kind: "refused", why: (response ?? text).slice(0, 280) }
    throw new MailUnreachable(text)
  } finally {
    transport.close()
  }
}
