import { existsSync } from "node:fs"
import { join } from "node:path"
import { fileURLToPath } from "node:url"
import { Piscina } from "piscina"
import type { TaskName, Tasks } from "./worker.ts"

/** One pool for a process, kept over reloads in development. */
const held = globalThis as { varnokPool?: Piscina }

function pool(): Piscina {
  if (held.varnokPool) return held.varnokPool
  const source = fileURLToPath(new URL("./worker.ts", import.meta.url))
  const built = join("build", "server", "compute.js")
  const fromSource = existsSync(source)
  held.varnokPool = new Piscina({
    filename: fromSource ? source : join(process.cwd(), built),
    ...(fromSource ? { execArgv: ["--import", "tsx"] } : {}),
    minThreads: 0,
    maxThreads: 2,
    idleTimeout: 30_000,
  })
  return held.varnokPool
}

/** Real time after which a computation is given up, whatever was asked of it. */
const longestMs = 120_000

/**
 * Computes something heavy of core in a thread beside the server, so that pages are answered meanwhile. Rejects with
 * AbortError when the signal says so, or when it takes longer than anything should: the thread is stopped then.
 */
export const compute = <Name extends TaskName>(
  task: Name,
  input: Parameters<Tasks[Name]>[0],
  signal?: AbortSignal,
): Promise<Awaited<ReturnType<Tasks[Name]>>> => {
  const limit = AbortSignal.timeout(longestMs)
  return pool().run({ task, input }, { signal: signal ? AbortSignal.any([signal, limit]) : limit })
}

/** Ends the threads; for the end of the process. */
export async function closePool(): Promise<void> {
  await held.varnokPool?.close()
  held.varnokPool = undefined
}
