import { createServer } from "node:http"
import express from "express"
import { createServer as createVite } from "vite"

/**
 * The application from its sources, by Vite: screens are replaced in the browser as they are saved, and what the server
 * is made of is read again with the next request.
 */
const http = createServer()
const vite = await createVite({ appType: "custom", server: { middlewareMode: true, hmr: { server: http } } })
const { runner } = vite.environments.ssr
const build = () => runner.import("virtual:react-router/server-build")
let made = null

async function current() {
  const from = await runner.import("/server/http/dev.ts")
  if (made?.from !== from) {
    made?.end()
    made = { from, ...from.devApp(build) }
  }
  return made.app
}

const app = express()
app.use(vite.middlewares)
app.use((request, response, next) => {
  current().then((own) => own(request, response, next), next)
})
http.on("request", app)
await current()
http.listen(Number(process.env.PORT), "127.0.0.1", () => console.log(`listening on ${process.env.PORT}`))
