import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from "node:fs"
import { createServer, type IncomingMessage, type Server, type ServerResponse } from "node:http"
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
    mkdirSync(dirname(file), { recursive: true })
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
  server.listen(port, "127.0.0.1", () =>
    process.stdout.write(`listening ${(server.address() as { port: number }).port}\n`),
  )
  const stop = () => server.close(() => process.exit(0)) && server.closeAllConnections()
  process.on("SIGTERM", stop)
  process.on("SIGINT", stop)
  return server
}
