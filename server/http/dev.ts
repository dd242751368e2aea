import type { Express } from "express"
import type { ServerBuild } from "react-router"
import { connect, patience } from "../db/connection.ts"
import { endLive } from "../live/index.ts"
import { makeLog } from "../log/index.ts"
import { makeApp } from "./app.ts"
import { demoOf } from "./demo.ts"

/** The application for whoever works on it, with screens as they are saved (`scripts/dev-server.mjs`). */
export function devApp(build: () => Promise<ServerBuild>): { readonly app: Express; readonly end: () => void } {
  const db = connect(process.env.VARNOK_DATABASE, patience.page)
  const demo = demoOf(process.env.VARNOK_DEMO)
  return {
    app: makeApp({ db, log: makeLog("app"), build, secure: false, demo, fromSources: true }),
    end: () => {
      endLive()
      void db.destroy()
    },
  }
}
