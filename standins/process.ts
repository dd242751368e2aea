import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from "node:fs"
import { createServer, type IncomingMessage, type Server, type ServerResponse } from "node:http"
import type { Server as NetServer } from "node:net"
import { dirname } from "node:path"

/** An argument `--name value` of a stand-in's command line. Throws when a needed one is missing. */
export function argument(name: string, fallback?: string): string {
  const at = process.argv.indexOf(`--${name}`)
  const value = at >= 0 ? process.argv[at + 1] : fallback
  if (value === undefined) throw new Error(`--${name} is needed`)
  return value
}

/** State in a JSON file, written whole and moved into place, so that it survives a restart at any moment. */
export class FileState<T> {
  value: T
  constructor(
    private readonly file: string,
    empty: T,
  ) {
    mkdirSync(dirname(file), { recursive: true, mode: 0o700 })
    this.value = existsSync(file) ? (JSON.parse(readFileSync(file, "utf8")) as T) : empty
  }
  save(): void {
    writeFileSync(`${this.file}.new`, JSON.stringify(this.value))
    renameSync(`${this.file}.new`, this.file)
  }
}

export async function bodyOf(request: IncomingMessage, limit = 32 * 1024 * 1024): Promise<Buffer> {
  const parts: Buffer[] = []
  let bytes = 0
  for await (const part of request) {
    bytes += part.length
    if (bytes > limit) throw new Error("too large")
    parts.push(part as Buffer)
  }
  return Buffer.concat(parts)
}

export function answerJson(response: ServerResponse, status: number, body: unknown): void {
  response.writeHead(status, { "content-type": "application/json" }).end(JSON.stringify(body))
}

/** Ports that are tried from the first on, when it is another's. */
const tries = 200

/**
 * Binds a server on loopback to a port, or to the next free one; only binding tells which is free. From 0 on the system
 * chooses. Answers the port.
 */
export async function listen(server: NetServer, first: number): Promise<number> {
  for (let port = first; ; port += 1) {
    try {
      await new Promise<void>((resolve, reject) => {
        server.once("error", reject)
        server.listen(port, "127.0.0.1", () => {
          server.off("error", reject)
          resolve()
        })
      })
      return (server.address() as { port: number }).port
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== "EADDRINUSE" || port + 1 >= first + tries) throw error
    }
  }
}

/** Serves on loopback until told to stop; the port is printed as a line `listening PORT`. */
export function serve(
  port: number,
  handle: (request: IncomingMessage, response: ServerResponse) => Promise<void>,
): Server {
  const server = createServer((request, response) => {
    handle(request, response).catch((error) => {
      if (!response.headersSent) answerJson(response, 500, { error: (error as Error).message })
      else response.destroy()
    })
  })
  void listen(server, port).then((at) => process.stdout.write(`listening ${at}\n`))
  const stop = () => server.close(() => process.exit(0)) && server.closeAllConnections()
  process.on("SIGTERM", stop)
  process.on("SIGINT", stop)
  return server
}
