import { existsSync, mkdtempSync } from "node:fs"
import { tmpdir } from "node:os"
import { join } from "node:path"
import type { TestProject } from "vitest/node"
import { removeDatabase, startDatabase } from "../../scripts/database.mjs"
import { builtStandins } from "./standins.ts"

declare module "vitest" {
  export interface ProvidedContext {
    databaseUrl: string
    databaseSocket: string
  }
}

/** One throw-away MariaDB for all server tests, in memory where there is room for it. */
export default async function setup(project: TestProject) {
  const folder = mkdtempSync(join(existsSync("/dev/shm") ? "/dev/shm" : tmpdir(), "varnok-tests-"))
  const database = await startDatabase(folder, { firstPort: 33600, volatile: true })
  // read by scripts/stack.mjs in every test that starts stand-ins
  process.env.VARNOK_STANDINS_BUILT = await builtStandins()
  project.provide("databaseUrl", database.url)
  project.provide("databaseSocket", database.socket)
  return async () => {
    await database.stop()
    removeDatabase(folder)
  }
}
