import { createServer } from "node:http"
import express from "express"
import { createServer as createVite } from "vite"

/** The application from its sources, by Vite: screens are replaced in the browser as they are saved. */
const http = createServer()
const vite = await createVite({ appType: "custom", server: { middlewareMode: true, hmr: { server: http } } })
const { runner } = vite.environments.ssr
const { devApp } = await runner.import("/server/http/dev.ts")
const app = express()
app.use(vite.middlewares)
app.use(devApp(() => runner.import("virtual:react-router/server-build")))
http.on("request", app)
http.listen(Number(process.env.PORT), "127.0.0.1", () => console.log(`listening on ${process.env.PORT}`))
