import { existsSync, mkdtempSync, rmSync } from "node:fs"
import { tmpdir } from "node:os"
import { join } from "node:path"
import { connect } from "server/db/connection.ts"
import { migrate } from "server/db/migrate.ts"
import { startDatabase } from "../../scripts/database.mjs"
import { type Program, start } from "../../scripts/stack.mjs"
import { openRig, type Rig } from "./rig.ts"

/** What came to the printer's stand-in. */
export interface Printed {
  readonly name: string
  readonly queue: string
  readonly waits?: boolean
}

/** A rig whose database and workers can be killed and started again: a durable database of its own. */
export interface FaultRig {
  readonly rig: Rig
  /** The database's socket, for programs of its own. */
  readonly socket: string
  readonly kill: () => void
  readonly again: () => Promise<void>
  readonly worker: () => Promise<Program>
  readonly printed: () => Promise<Printed[]>
  readonly drop: () => Promise<void>
}

/** @param leaseMs how long a killed worker's jobs stay with it */
export async function openFaultRig(firstPort: number, leaseMs: number): Promise<FaultRig> {
  const folder = mkdtempSync(join(existsSync("/dev/shm") ? "/dev/shm" : tmpdir(), "varnok-faults-"))
  let database = await startDatabase(folder, { firstPort })
  const db = connect(database.url)
  await migrate(db)
  const rig = await openRig(Promise.resolve({ db, url: database.url, drop: () => db.destroy() }))
  const workers: Program[] = []
  return {
    rig,
    socket: database.socket,
    kill: () => database.kill(),
    again: async () => {
      database = await startDatabase(folder, { port: database.port })
    },
    worker: async () => {
      const name = `worker-${workers.length + 1}`
      const program = start(name, process.execPath, ["--import", "tsx", "server/worker/main.ts"], {
        env: { VARNOK_DATABASE: rig.url, VARNOK_LEASE_MS: String(leaseMs), VARNOK_LOG: "warn" },
        logs: rig.folder,
      })
      workers.push(program)
      await program.started
      return program
    },
    printed: async () => (await (await fetch(`${rig.at.printer}/jobs`)).json()) as Printed[],
    drop: async () => {
      // those that a failure left running
      await Promise.all(workers.map((one) => one.kill()))
      await rig.drop()
      await database.stop()
      rmSync(folder, { recursive: true, force: true })
    },
  }
}

/** What a query answers once the database is back. */
export async function patiently<T>(ask: () => Promise<T>): Promise<T> {
  for (let tries = 0; ; tries += 1) {
    try {
      return await ask()
    } catch (error) {
      if (tries > 200) throw error
      await new Promise((resolve) => setTimeout(resolve, 100))
    }
  }
}
