import type { Knex } from "knex"
import { simpleParser } from "mailparser"
import type { Logger } from "pino"
import { SMTPServer } from "smtp-server"
import { businessNow } from "../clock/index.ts"
import { noteBounce } from "../mail/index.ts"
import { block } from "./blocks.ts"

/** Most bytes of a notice that mail could not be delivered. */
const mostBytes = 256 * 1024

/** What a notice says of why (RFC 3464): its status and the answer of the other server; permanent where its class is 5. */
export function reasonIn(text: string): { readonly permanent: boolean; readonly why: string } {
  const status = /^status:\s*(\d\.\d{1,3}\.\d{1,3})/im.exec(text)?.[1] ?? ""
  const diagnostic = /^diagnostic-code:\s*(?:\w+\s*;\s*)?(.+)$/im.exec(text)?.[1]?.trim() ?? ""
  return { permanent: !/^[24]\./.test(status), why: [status, diagnostic].filter(Boolean).join(" ").slice(0, 280) }
}

/** Notes a notice that came to one of our addresses for it; an address that never takes mail is not written to again. */
export async function takeBounce(db: Knex, to: string, bytes: Buffer): Promise<boolean> {
  const parsed = await simpleParser(bytes, { skipHtmlToText: true, skipTextToHtml: true })
  const report = parsed.attachments
    .filter((one) => one.contentType === "message/delivery-status")
    .map((one) => one.content.toString("utf8"))
    .join("\n")
  const { permanent, why } = reasonIn(report || (parsed.text ?? ""))
  const id = Number(/^bounce\+(\d{1,10})\./.exec(to)?.[1] ?? 0)
  const mail = id ? await db("mail").where({ id }).first("recipient") : undefined
  if (!(await noteBounce(db, to, why || "undeliverable"))) return false
  const told = await db("customer_message").where({ mail_id: id }).first("id")
  if (permanent && told && mail) await block(db, mail.recipient, "bounced", await businessNow(db))
  return true
}

/**
 * Takes mail that comes back, on a port of its own: notices to addresses that name one of our messages, and nothing else.
 * Whoever sends here can note a bounce only with the proof that is in the address.
 */
export function listenForBounces(db: Knex, port: number, host: string, log: Logger): SMTPServer {
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ["AUTH", "STARTTLS"],
    size: mostBytes,
    maxClients: 20,
    socketTimeout: 20_000,
    onRcptTo(address, session, done) {
      if (session.envelope.rcptTo.length > 0 || !/^bounce\+\d{1,10}\.[a-z0-9]{16}@/.test(address.address))
        return done(Object.assign(new Error("no such mailbox"), { responseCode: 550 }))
      done()
    },
    onData(stream, session, done) {
      const parts: Buffer[] = []
      let length = 0
      stream.on("data", (part: Buffer) => {
        length += part.length
        if (length <= mostBytes) parts.push(part)
      })
      stream.on("end", () => {
        if (stream.sizeExceeded) return done(Object.assign(new Error("too large"), { responseCode: 552 }))
        const to = session.envelope.rcptTo[0]?.address ?? ""
        takeBounce(db, to, Buffer.concat(parts)).then(
          (ours) => done(ours ? null : Object.assign(new Error("no such mailbox"), { responseCode: 550 })),
          (error: unknown) => {
            log.error({ err: error }, "a bounce could not be noted")
            done(Object.assign(new Error("later"), { responseCode: 451 }))
          },
        )
      })
    },
  })
  server.on("error", (error) => log.warn({ err: error }, "the bounce listener"))
  server.listen(port, host)
  return server
}
