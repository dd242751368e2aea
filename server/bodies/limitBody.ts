import { Readable, Transform, Writable } from "node:stream"
import type { NextFunction, Request, Response } from "express"
import { sayCode } from "words/index.ts"
import { type BodyLimit, formFault, limitOf, sendingMs, withoutSession } from "./bodyLimits.ts"

/** A body that was not taken: the answer's status, and words for whoever sent it. Nothing of the body is in them. */
export interface BodyRefusal {
  readonly status: 400 | 408 | 413 | 415
  readonly code: "body.large" | "body.fields" | "body.slow" | "body.type" | "body.unread"
  readonly values: Readonly<Record<string, number>>
}

const refuse = (
  status: BodyRefusal["status"],
  code: BodyRefusal["code"],
  values: Record<string, number> = {},
): BodyRefusal => ({ status, code, values })

/** Bytes a second at which an upload is read at most, and at which what is not wanted is dropped. */
const fastest = 16 * 1024 * 1024
const dropped = 2 * 1024 * 1024

/** How long a refused sender is still listened to (and nothing kept), so that the answer reaches it. */
const lingerMs = 1_000

/** What stops a request before its route sees it, in words; a limit in bytes is said in kilobytes. */
export const sayBodyRefusal = ({ code, values }: Pick<BodyRefusal, "code" | "values">): string =>
  sayCode(`trouble.${code}`, values.limit ? { limit: Math.floor(values.limit / 1024) } : values) ?? code

export interface BodySettings {
  /** Whether a request comes with a session; nothing large is read for somebody who has none. */
  readonly signedIn: (request: Request) => Promise<boolean>
  readonly times?: typeof sendingMs
}

/**
 * Reads the body of a form within its route's limits before anything parses it, and hands it on whole; counts the bytes
 * of an upload while it goes through. What is over a limit is answered at once with 413 (408 when it came too slowly,
 * 415 when it is no form) and the connection is closed; its bytes are dropped as they come. Requests of the
 * application's own pages (`.data`) go on without a body and with `response.locals.bodyRefusal`, so that the page can
 * say it in its own words; what is large and comes from nobody goes on without a body, to the sign-in.
 */
export function limitBody({ signedIn, times = sendingMs }: BodySettings) {
  const take = async (request: Request, response: Response): Promise<BodyRefusal | null> => {
    const limit = limitOf(request.path)
    const kind = (request.headers["content-type"] ?? "").split(";", 1)[0]?.trim().toLowerCase() ?? ""
    const file = kind === "multipart/form-data" && limit.fileBytes > 0
    if (request.headers["content-encoding"]) return refuse(415, "body.type")
    if (!file && kind !== "application/x-www-form-urlencoded") return refuse(415, "body.type")
    const most = file ? limit.fileBytes : limit.bytes
    if (declared(request) > most) return refuse(413, "body.large", { limit: most })
    const large = file || (declared(request) || most) > withoutSession
    if (large && !(await signedIn(request))) {
      withBody(request, Readable.from([]))
      closeAfter(request, response)
      return null
    }
    if (file) {
      withBody(request, counted(request, response, limit, times))
      return null
    }
    const body = await collect(request, most, times.form)
    if ("status" in body) return body
    if (formFault(body, limit.fields)) return refuse(413, "body.fields", { fields: limit.fields })
    withBody(request, Readable.from([body]))
    return null
  }
  return (request: Request, response: Response, next: NextFunction): void => {
    if (!hasBody(request)) return next()
    if (request.method === "GET" || request.method === "HEAD")
      return sendRefusal(request, response, refuse(400, "body.type"))
    take(request, response).then((refusal) => {
      if (!refusal) return next()
      if (!request.path.endsWith(".data")) return sendRefusal(request, response, refusal)
      response.locals.bodyRefusal = refusal
      closeAfter(request, response)
      withBody(request, Readable.from([]))
      next()
    }, next)
  }
}

export const hasBody = (request: Request): boolean =>
  request.headers["transfer-encoding"] !== undefined || Number(request.headers["content-length"] ?? 0) > 0

/** Bytes that a request says it will send; 0 where it does not say. */
export const declared = (request: Request): number => Number(request.headers["content-length"] ?? 0)

/** The bytes of a body, or why they were not taken; what comes after is dropped unread. */
export function collect(request: Request, most: number, within: number): Promise<Buffer | BodyRefusal> {
  return new Promise((resolve) => {
    const parts: Buffer[] = []
    let bytes = 0
    const settle = (answer: Buffer | BodyRefusal) => {
      clearTimeout(timer)
      request.off("data", take).off("end", end).off("error", broken).off("close", broken)
      resolve(answer)
    }
    const take = (part: Buffer) => {
      bytes += part.length
      if (bytes > most) settle(refuse(413, "body.large", { limit: most }))
      else parts.push(part)
    }
    const end = () => settle(Buffer.concat(parts))
    const broken = () => settle(refuse(400, "body.unread"))
    const timer = setTimeout(() => settle(refuse(408, "body.slow")), within)
    request.on("data", take).once("end", end).once("error", broken).once("close", broken)
  })
}

/** An upload as it goes through: over its limit, silent or slow, it is answered here and ends for whoever reads it. */
function counted(request: Request, response: Response, limit: BodyLimit, times: typeof sendingMs): Readable {
  let bytes = 0
  const stop = (refusal: BodyRefusal) => {
    request.unpipe(through)
    through.destroy(new Error(refusal.code))
    sendRefusal(request, response, refusal)
  }
  const began = Date.now()
  const through = new Transform({
    transform(part: Buffer, _encoding, done) {
      bytes += part.length
      silence.refresh()
      if (bytes > limit.fileBytes) return stop(refuse(413, "body.large", { limit: limit.fileBytes }))
      // whoever sends faster than anybody needs waits, so that the pages of others do not
      const early = (bytes / fastest) * 1_000 - (Date.now() - began)
      if (early > 5) setTimeout(() => done(null, part), early)
      else done(null, part)
    },
  })
  const silence = setTimeout(() => stop(refuse(408, "body.slow")), times.silence)
  const whole = setTimeout(() => stop(refuse(408, "body.slow")), times.file)
  const still = () => {
    clearTimeout(silence)
    clearTimeout(whole)
  }
  request.once("end", still)
  through.once("close", still)
  // who sends breaks off: whoever reads hears of it
  request.once("close", () => {
    still()
    if (!request.complete) through.destroy(new Error("body.unread"))
  })
  // whoever reads has had enough before the end: the rest is nobody's
  through.once("close", () => {
    if (request.complete || response.headersSent) return
    request.unpipe(through)
    closeAfter(request, response)
  })
  // an error is for whoever reads; when nobody does any more, it is nobody's
  through.on("error", () => undefined)
  return request.pipe(through)
}

/** Whoever handles the request reads this instead of the connection itself. */
function withBody(request: Request, body: Readable): void {
  bodies.set(request, body)
}

const bodies = new WeakMap<Request, Readable>()

/**
 * A request as the router's adapter reads it, with the body that was let through. The adapter reads the request as a
 * stream, and this one has been read already.
 */
export function limited(request: Request): Request {
  const body = bodies.get(request)
  if (!body) return request
  const { method, headers, originalUrl, protocol, hostname, app, ip } = request
  return Object.assign(body, {
    method,
    headers,
    originalUrl,
    protocol,
    hostname,
    app,
    ip,
    get: request.get.bind(request),
  }) as unknown as Request
}

/** Answers at once and closes the connection. */
export function sendRefusal(request: Request, response: Response, refusal: BodyRefusal): void {
  if (response.headersSent) return void response.destroy()
  closeAfter(request, response)
  response
    .status(refusal.status)
    .type("text")
    .send(`${sayBodyRefusal(refusal)}\n`)
}

/**
 * The connection ends with this answer. What still comes in is dropped for a moment before that, since a sender whose
 * connection is cut while it sends may never read the answer.
 */
export function closeAfter(request: Request, response: Response): void {
  response.setHeader("connection", "close")
  const drained = new Promise<void>((resolve) => {
    if (request.complete || request.destroyed) return resolve()
    const late = setTimeout(resolve, lingerMs)
    for (const event of ["end", "close", "error"])
      request.once(event, () => {
        clearTimeout(late)
        resolve()
      })
  })
  request.pipe(
    new Writable({
      write: (part: Buffer, _encoding, done) => void setTimeout(done, (part.length / dropped) * 1_000),
    }),
  )
  const end = response.end.bind(response)
  response.end = ((...args: unknown[]) => {
    const [chunk, encoding] = args
    if (typeof chunk === "string" || chunk instanceof Uint8Array)
      response.write(chunk, typeof encoding === "string" ? (encoding as BufferEncoding) : "utf8")
    void drained.then(() => end())
    return response
  }) as typeof response.end
}
