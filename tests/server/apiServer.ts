import express from "express"
import type { Knex } from "knex"
import { api } from "server/api/index.ts"

/** The API of a database behind a server of its own, as tests call it; `end` closes it. */
export async function startApi(db: Knex): Promise<{ readonly base: string; readonly end: () => void }> {
  const app = express()
  app.use((_request, response, next) => {
    response.locals.requestId = "test-request"
    next()
  })
  app.use("/api/v1", api(db))
  const server = app.listen(0, "127.0.0.1")
  await new Promise((ready) => server.once("listening", ready))
  return {
    base: `http://127.0.0.1:${(server.address() as { port: number }).port}/api/v1`,
    end: () => {
      server.closeAllConnections()
      server.close()
    },
  }
}
