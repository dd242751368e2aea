import { createServer } from "node:net"

/** The first free port of loopback from `first` on. */
export async function freePort(first, taken = new Set()) {
  for (let port = first; port < first + 400; port += 1) {
    if (taken.has(port)) continue
    taken.add(port)
    if (await isFree(port)) return port
  }
  throw new Error(`no free port from ${first} on`)
}

function isFree(port) {
  return new Promise((resolve) => {
    const server = createServer()
    server.once("error", () => resolve(false))
    server.listen(port, "127.0.0.1", () => server.close(() => resolve(true)))
  })
}
