import { mkdirSync, writeFileSync } from "node:fs"
import { createServer as createHttp } from "node:http"
import { join } from "node:path"
import { createTransport } from "nodemailer"
import { SMTPServer } from "smtp-server"
import { answerJson, argument, bodyOf, FileState, listen } from "../process.ts"

/**
 * A mail server. It takes mail over SMTP and keeps each message as a file `N.eml`; a message with an id that it has is
 * taken and not kept twice. Its mailbox is read over HTTP on the port that `PUT /faults` is on too: `GET /messages` and `GET /` list
 * them, `GET /messages/N.eml` is one. Faults: `{ "fault": "busy" | "refuse" | "down" | null }`: asks to come later (451),
 * refuses the recipient (550), or closes the connection.
 *
 * Mail to an address `@bounces.…` is taken, and comes back to its envelope's sender as a delivery status notification
 * (RFC 3464) over SMTP, on the port that `--returns` names.
 *
 * Arguments: --state FOLDER --port N [--mailbox N] [--returns N] (SMTP; HTTP is on the port that is printed second)
 */
interface Message {
  readonly number: number
  readonly id: string
  readonly from: string
  readonly to: string[]
  readonly bytes: number
}
interface State {
  messages: Message[]
  fault: "busy" | "refuse" | "down" | null
}
const folder = argument("state")
mkdirSync(folder, { recursive: true })
const state = new FileState<State>(join(folder, "box.json"), { messages: [], fault: null })

const refusal = (code: number, text: string) => Object.assign(new Error(text), { responseCode: code })

const smtp = new SMTPServer({
  authOptional: true,
  disabledCommands: ["AUTH", "STARTTLS"],
  size: 20 * 1024 * 1024,
  onConnect(_session, done) {
    done(state.value.fault === "down" ? refusal(421, "closing") : null)
  },
  onRcptTo(address, _session, done) {
    if (state.value.fault === "busy") return done(refusal(451, "come again later"))
    if (state.value.fault === "refuse" || /@refused\./.test(address.address))
      return done(refusal(550, "no such mailbox"))
    done()
  },
  onData(stream, session, done) {
    const parts: Buffer[] = []
    stream.on("data", (part: Buffer) => parts.push(part))
    stream.on("end", () => {
      const bytes = Buffer.concat(parts)
      const id = /^message-id:\s*(\S+)/im.exec(bytes.subarray(0, 8_192).toString("latin1"))?.[1] ?? ""
      if (id === "" || !state.value.messages.some((one) => one.id === id)) {
        const number = state.value.messages.length + 1
        writeFileSync(join(folder, `${number}.eml`), bytes)
        const from = session.envelope.mailFrom
        state.value.messages.push({
          number,
          id,
          from: from ? from.address : "",
          to: session.envelope.rcptTo.map((one) => one.address),
          bytes: bytes.length,
        })
        state.save()
        const lost = session.envelope.rcptTo.find((one) => /@bounces\./.test(one.address))
        if (lost && from) void sendBack(from.address, lost.address)
      }
      done()
    })
  },
})
smtp.on("error", () => {})

/** Tells the sender that a mailbox is not there, as the server of the receiver does. */
async function sendBack(to: string, lost: string): Promise<void> {
  const port = Number(argument("returns", "0"))
  if (!port) return
  const boundary = "report-1"
  const raw = [
    `From: Mail Delivery <mailer-daemon@bounces.example>`,
    `To: ${to}`,
    "Subject: Undelivered mail",
    "MIME-Version: 1.0",
    `Content-Type: multipart/report; report-type=delivery-status; boundary="${boundary}"`,
    "",
    `--${boundary}`,
    "Content-Type: text/plain",
    "",
    `Your message to ${lost} was not delivered.`,
    "",
    `--${boundary}`,
    "Content-Type: message/delivery-status",
    "",
    "Reporting-MTA: dns; bounces.example",
    "",
    `Final-Recipient: rfc822; ${lost}`,
    "Action: failed",
    "Status: 5.1.1",
    "Diagnostic-Code: smtp; 550 5.1.1 no such mailbox",
    "",
    `--${boundary}--`,
    "",
  ].join("\r\n")
  const transport = createTransport({ host: "127.0.0.1", port, ignoreTLS: true })
  // the sender's server may be away for a moment
  for (let tries = 0; tries < 20; tries += 1) {
    const sent = await transport.sendMail({ envelope: { from: "", to }, raw }).then(
      () => true,
      (error: { responseCode?: number }) => (error.responseCode ?? 0) >= 500,
    )
    if (sent) return
    await new Promise((resolve) => setTimeout(resolve, 500))
  }
}

const http = createHttp((request, response) => {
  const { pathname } = new URL(request.url ?? "/", "http://mail")
  const number = /^\/messages\/(\d+)\.eml$/.exec(pathname)?.[1]
  void (async () => {
    if (pathname === "/faults" && request.method === "PUT") {
      state.value.fault = (JSON.parse((await bodyOf(request)).toString()) as { fault: State["fault"] }).fault
      state.save()
      return answerJson(response, 200, { fault: state.value.fault })
    }
    if (pathname === "/messages" || pathname === "/") return answerJson(response, 200, state.value.messages)
    if (number && state.value.messages.some((one) => one.number === Number(number))) {
      const { readFile } = await import("node:fs/promises")
      response.writeHead(200, { "content-type": "message/rfc822" }).end(await readFile(join(folder, `${number}.eml`)))
      return
    }
    answerJson(response, 404, { reason: "no such address" })
  })()
})

const at = await listen(smtp.server, Number(argument("port", "0")))
const mailbox = await listen(http, Number(argument("mailbox", "0")))
process.stdout.write(`listening ${at} ${mailbox}\n`)
const stop = () => {
  http.close()
  http.closeAllConnections()
  smtp.close(() => process.exit(0))
}
process.on("SIGTERM", stop)
process.on("SIGINT", stop)
