import type { Server } from "node:net"

/**
 * Binds a server to a port, or to the next one when it is taken, up to `tries` ports; only binding tells whether a port
 * is free. Answers the port. Rejects with the last error when none was.
 */
export async function listen(server: Server, first: number, host: string, tries: number): Promise<number> {
  for (let port = first; ; port += 1) {
    try {
      await bind(server, port, host)
      return (server.address() as { port: number }).port
    } catch (error) {
      const taken = (error as NodeJS.ErrnoException).code === "EADDRINUSE"
      if (!taken || port + 1 >= first + tries) throw error
    }
  }
}

const bind = (server: Server, port: number, host: string): Promise<void> =>
  new Promise((resolve, reject) => {
    const failed = (error: Error) => reject(error)
    server.once("error", failed)
    server.listen(port, host, () => {
      server.off("error", failed)
      resolve()
    })
  })
