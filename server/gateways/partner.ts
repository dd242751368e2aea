import { mkdir, readdir, readFile, rename, stat, writeFile } from "node:fs/promises"
import { join, resolve } from "node:path"
import { coded, reason } from "core/refusal/index.ts"
import { reach } from "./reach.ts"

/** A message as a customer's system is handed it. */
export interface PartnerMessage {
  /** By which it takes the message once. */
  readonly key: string
  readonly name: string
  readonly media: string
  readonly bytes: Buffer
}

/** What a system answered: it has it (200, 201, 204), has it and answers later (202), or will not have it. */
export type PartnerAnswer =
  | { readonly kind: "acknowledged" }
  | { readonly kind: "taken" }
  | { readonly kind: "refused"; readonly status: number }

/**
 * Posts a message to a customer's system, under the message's own key. Throws to be tried again: nobody answered, or the
 * other side is not well (5xx), too busy (429) or slow (408).
 */
export async function postToPartner(url: string, message: PartnerMessage, timeLimitMs = 8_000): Promise<PartnerAnswer> {
  const { status } = await reach(url, {
    method: "POST",
    headers: {
      "content-type": message.media,
      "idempotency-key": message.key,
      "content-disposition": `attachment; filename="${message.name}"`,
    },
    body: message.bytes,
    timeLimitMs,
    most: 64 * 1024,
  })
  if (status === 202) return { kind: "taken" }
  if (status === 200 || status === 201 || status === 204) return { kind: "acknowledged" }
  if (status >= 400 && status < 500 && status !== 408 && status !== 429) return { kind: "refused", status }
  throw new Error(coded(reason("reach.status", { status })))
}

/** Below which the folders lie that messages are put in. */
const root = (): string => resolve(process.env.VARNOK_OUT ?? ".data/out")
const folderOf = (name: string): string => {
  if (!/^[a-z0-9][a-z0-9-]{0,39}$/.test(name)) throw new Error(`no name of a folder: ${name}`)
  return join(root(), name)
}

/** Puts a message into a folder, whole at once: again it is the same file. */
export async function putIntoFolder(folder: string, message: PartnerMessage): Promise<void> {
  const into = folderOf(folder)
  await mkdir(join(into, "answers"), { recursive: true })
  const path = join(into, message.name)
  await writeFile(`${path}.part`, message.bytes)
  await rename(`${path}.part`, path)
}

/** An answer that was put into a folder for us. */
export interface FolderAnswer {
  readonly name: string
  readonly bytes: Buffer
  /** Puts it aside: among those that were read, or those that could not be. */
  aside(read: boolean): Promise<void>
}

/** No answer is larger. */
const mostBytes = 1024 * 1024
/** Answers that are read at once. */
const mostAtOnce = 100
/** Real time for which a file must lie unchanged, so that none is read while it is written. */
const settledMs = 1_500

/** The answers that lie in `answers` of a folder, the oldest names first. */
export async function answersIn(folder: string, now = Date.now()): Promise<FolderAnswer[]> {
  const from = join(folderOf(folder), "answers")
  const names = await readdir(from, { withFileTypes: true }).catch(() => [])
  const found: FolderAnswer[] = []
  for (const entry of names.sort((a, b) => (a.name < b.name ? -1 : 1))) {
    if (found.length >= mostAtOnce) break
    if (!entry.isFile() || entry.name.startsWith(".") || entry.name.endsWith(".part")) continue
    const path = join(from, entry.name)
    const at = await stat(path).catch(() => null)
    if (!at || now - at.mtimeMs < settledMs) continue
    const bytes = at.size > mostBytes ? Buffer.alloc(0) : await readFile(path).catch(() => null)
    if (bytes === null) continue
    found.push({
      name: entry.name,
      bytes,
      aside: async (read) => {
        const to = join(from, read ? "read" : "refused")
        await mkdir(to, { recursive: true })
        await rename(path, join(to, `${Date.now()}-${entry.name}`))
      },
    })
  }
  return found
}
