import { createReadStream } from "node:fs"
import { mkdir, readdir, rename, stat, utimes, writeFile } from "node:fs/promises"
import { basename, join, resolve } from "node:path"
import type { SourceId } from "core/ids/index.ts"
import { reason } from "core/refusal/index.ts"
import type { Knex } from "knex"
import type { Context } from "../actors/index.ts"
import { businessNow } from "../clock/index.ts"
import { databaseFault } from "../db/faults.ts"
import { FileRefused } from "../formats/orderRow.ts"
import { noting } from "./pull.ts"
import { previewFile } from "./read.ts"
import { startTaking } from "./take.ts"

/** Below which the folders of sources lie. */
const root = (): string => resolve(process.env.VARNOK_DROP ?? ".data/drop")

/** Where the files of a source are dropped, or null for a name that is none. */
export const folderOf = (name: string | null): string | null =>
  name && /^[a-z0-9][a-z0-9-]{0,39}$/.test(name) ? join(root(), name) : null

/** Real time for which a file must lie unchanged before it is read, so that none is read while it is written. */
const settledMs = 1_500

/** Real time after which a file in `taking` was left there by a worker that died; no file takes so long to be read. */
const abandonedMs = 600_000

/**
 * Looks into the folder of a source and takes its files in, the oldest first. A file is moved into `taking` before it
 * is read and into `done` after; one that can't be read goes into `refused`, its reason beside it. A file that was left
 * in `taking` by a worker that died is read again: its orders are the same orders. Returns how many files were read.
 */
export async function watchFolder(db: Knex, sourceId: SourceId, now = Date.now()): Promise<number> {
  const source = await db("order_source").where({ id: sourceId }).first()
  const folder = folderOf(source?.folder ?? null)
  if (!folder || !source?.active || !source.pull_warehouse_id) return 0
  const into = { ...source, pull_warehouse_id: source.pull_warehouse_id }
  return noting(db, sourceId, async () => {
    const at = (name: string) => join(folder, name)
    for (const name of ["taking", "done", "refused"]) await mkdir(at(name), { recursive: true })
    const left = (await files(at("taking"))).filter((file) => now - file.changedAt > abandonedMs)
    const came = (await files(folder)).filter((file) => now - file.changedAt > settledMs && !file.name.startsWith("."))
    const taken: string[] = []
    for (const file of came) {
      // never over a file of the same name that is still being read, and its time from now on is that of the taking
      const to = await free(at("taking"), file.name)
      await utimes(join(folder, file.name), now / 1_000, now / 1_000)
      await rename(join(folder, file.name), to)
      taken.push(basename(to))
    }
    for (const name of [...left.map((file) => file.name), ...taken]) await takeFile(db, into, folder, name)
    return left.length + taken.length
  })
}

async function takeFile(
  db: Knex,
  source: { id: number; code: string; name: string; pull_warehouse_id: number },
  folder: string,
  name: string,
): Promise<void> {
  const path = join(folder, "taking", name)
  const context: Context = {
    db,
    now: await businessNow(db),
    actor: { userId: null, name: source.name, role: "clerk", warehouseId: source.pull_warehouse_id },
  }
  const stream = createReadStream(path)
  try {
    const intakeId = await previewFile(context, source.code, name, stream)
    await startTaking(context, intakeId)
    await rename(path, await free(join(folder, "done"), name))
  } catch (error) {
    if (databaseFault(error) === "away") throw error
    // a file that breaks our reader does not hold up those after it
    const why = error instanceof FileRefused ? error.reason : reason("file.failed", { detail: (error as Error).name })
    const to = await free(join(folder, "refused"), name)
    await rename(path, to)
    const { code, values } = why
    await writeFile(`${to}.reason.txt`, `${code} ${JSON.stringify(values)}\n`)
    await db("intake_refusal").insert({
      source_id: source.id,
      warehouse_id: source.pull_warehouse_id,
      name: name.slice(0, 200),
      reason: JSON.stringify(why),
      at: context.now,
    })
  } finally {
    stream.destroy()
  }
}

async function files(folder: string): Promise<{ name: string; changedAt: number }[]> {
  const found = []
  for (const entry of await readdir(folder, { withFileTypes: true }).catch(() => [])) {
    if (!entry.isFile()) continue
    const at = await stat(join(folder, entry.name)).catch(() => null)
    if (at) found.push({ name: entry.name, changedAt: at.mtimeMs })
  }
  return found.sort((a, b) => a.changedAt - b.changedAt || a.name.localeCompare(b.name))
}

/** A name in a folder that no file has yet, counted up where one does. */
async function free(folder: string, name: string): Promise<string> {
  const taken = new Set(await readdir(folder))
  let at = basename(name)
  for (let n = 2; taken.has(at); n += 1) at = `${n}-${basename(name)}`
  return join(folder, at)
}
