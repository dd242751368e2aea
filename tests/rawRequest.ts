import { request as ask, type IncomingHttpHeaders } from "node:http"

export interface Told {
  /** 0 where the connection ended without an answer. */
  readonly status: number
  /** The beginning of the answer. */
  readonly text: string
  readonly headers: IncomingHttpHeaders
}

/**
 * Sends parts one after another as fast as they are taken, as no browser would: without a length unless the headers have
 * one, and on while it is refused. Rejects when nothing is answered within a minute.
 */
export function sendRaw(
  base: string,
  method: string,
  path: string,
  headers: Readonly<Record<string, string | number>>,
  parts: Iterable<string | Buffer> = [],
): Promise<Told> {
  const at = new URL(base)
  return new Promise((resolve, reject) => {
    let answered = false
    const request = ask(
      { host: at.hostname, port: at.port, method, path, headers: { "sec-fetch-site": "same-origin", ...headers } },
      (response) => {
        answered = true
        let text = ""
        response.on("data", (part) => {
          if (text.length < 200_000) text += part
        })
        response.on("error", () => undefined)
        response.on("end", () => resolve({ status: response.statusCode ?? 0, text, headers: response.headers }))
      },
    )
    // whoever is refused may find the connection gone while it still sends
    request.on("error", (error) => (answered ? undefined : reject(error)))
    request.setTimeout(60_000, () => request.destroy(new Error(`${method} ${path} is not answered`)))
    const all = parts[Symbol.iterator]()
    const next = () => {
      const one = all.next()
      if (one.done) return void request.end()
      if (request.destroyed) return
      if (request.write(one.value)) setImmediate(next)
      else request.once("drain", next)
    }
    next()
  })
}

/** So many megabytes of a sign or a few. */
export function* megabytes(n: number, sign: string): Generator<Buffer> {
  const one = Buffer.alloc(1024 * 1024, sign)
  for (let at = 0; at < n; at += 1) yield one
}
