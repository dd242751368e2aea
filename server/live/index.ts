import { randomUUID } from "node:crypto"
import type { OrderId, UserId, WarehouseId } from "core/ids/index.ts"
import type { Knex } from "knex"
import type { Context } from "../actors/index.ts"
import { announce } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"

interface Notice {
  readonly id: number
  readonly warehouse_id: number
  readonly order_id: number | null
}
type Listener = (notice: Notice) => void

const everyMs = 300
/** Rows are numbered when they are written and seen when they are committed, so a little of the past is read again. */
const overlap = 200

/** The notices of all processes, read from the database for as long as anybody listens. */
class Feed {
  private readonly listeners = new Set<Listener>()
  private readonly seen = new Set<number>()
  private last: number | null = null
  private timer: NodeJS.Timeout | null = null

  constructor(private readonly db: Knex) {}

  listen(listener: Listener): () => void {
    this.listeners.add(listener)
    if (!this.timer) {
      this.last = null
      this.seen.clear()
      this.timer = setTimeout(() => void this.read(), 0)
    }
    return () => {
      this.listeners.delete(listener)
    }
  }

  private async read(): Promise<void> {
    try {
      const begin = this.last === null
      this.last ??= Number((await this.db("change_notice").max({ id: "id" }).first())?.id ?? 0)
      const rows: Notice[] = await this.db("change_notice")
        .where("id", ">", this.last - overlap)
        .orderBy("id")
        .limit(2_000)
        .select("id", "warehouse_id", "order_id")
      for (const row of rows) {
        if (this.seen.has(row.id)) continue
        this.seen.add(row.id)
        this.last = Math.max(this.last, row.id)
        if (!begin) for (const listener of this.listeners) listener(row)
      }
      for (const id of this.seen) if (id < this.last - 2 * overlap) this.seen.delete(id)
    } catch {
      // the database is away for a moment: what changed meanwhile is told when it is back
    }
    this.timer = this.listeners.size > 0 ? setTimeout(() => void this.read(), everyMs) : null
    this.timer?.unref()
  }
}

const feeds = new WeakMap<Knex, Feed>()
const open = new Set<() => void>()

/** Ends all streams, so that a process that is asked to stop need not wait for browsers. */
export function endLive(): void {
  for (const end of open) end()
}

const beatMs = Number(process.env.VARNOK_BEAT_MS ?? 10_000)

/**
 * A stream of server-sent events for one browser: `change` when something in its warehouse changed (with the order's
 * id), `people` with the names of others who look at the same order. Who looks is told to the others.
 *
 * @param orderId of the order that the browser shows, or null
 * @param lasts whether the session still does; asked at every beat, and the stream ends with it
 */
export function liveStream(
  { db, actor }: Context,
  orderId: OrderId | null,
  stop: AbortSignal,
  lasts: () => Promise<boolean> = async () => true,
): ReadableStream<Uint8Array> {
  const feed = feeds.get(db) ?? new Feed(db)
  feeds.set(db, feed)
  const presence = randomUUID()
  const text = new TextEncoder()
  let end = () => {}
  const closer = () => end()
  return new ReadableStream<Uint8Array>({
    async start(controller) {
      const send = (event: string, data: unknown) => {
        try {
          controller.enqueue(text.encode(`event: ${event}\ndata: ${JSON.stringify(data)}\n\n`))
        } catch {
          end()
        }
      }
      // of several answers under way at once only the newest question's counts
      let asked = 0
      const people = async () => {
        if (orderId === null) return
        const nth = ++asked
        const names = await othersAt(db, orderId, actor.userId ?? 0)
        if (nth === asked) send("people", names)
      }
      const unlisten = feed.listen((notice) => {
        if (notice.warehouse_id !== actor.warehouseId) return
        send("change", { order: notice.order_id })
        if (orderId !== null && notice.order_id === orderId) void people().catch(() => undefined)
      })
      const beat = setInterval(() => {
        lasts().then(
          (still) => {
            if (still) return
            send("signed-out", {})
            end()
          },
          // the database is away for a moment
          () => undefined,
        )
        send("beat", {})
        if (orderId === null) return
        void db("presence")
          .where({ id: presence })
          .update({ seen_at: new Date() })
          // whose process died tells nobody that they left
          .then(people)
          .catch(() => undefined)
      }, beatMs)
      end = () => {
        end = () => {}
        open.delete(closer)
        clearInterval(beat)
        unlisten()
        void leave(db, presence, actor.warehouseId, orderId).catch(() => undefined)
        try {
          controller.close()
        } catch {
          // the browser has gone already
        }
      }
      open.add(closer)
      stop.addEventListener("abort", closer, { once: true })
      send("beat", {})
      if (orderId === null) return
      await db("presence").insert({
        id: presence,
        user_id: there(actor.userId),
        name: actor.name,
        warehouse_id: actor.warehouseId,
        order_id: orderId,
        seen_at: new Date(),
      })
      await announce(db, { warehouseId: actor.warehouseId, orderId })
      await people()
    },
    cancel: closer,
  })
}

async function leave(db: Knex, presence: string, warehouseId: WarehouseId, orderId: OrderId | null): Promise<void> {
  if (orderId === null) return
  await inTransaction(db, async (trx) => {
    await trx("presence").where({ id: presence }).delete()
    await announce(trx, { warehouseId, orderId })
  })
}

/** The names of others who have an order open now. */
export async function othersAt(db: Knex, orderId: OrderId, userId: UserId): Promise<string[]> {
  const rows = await db("presence")
    .where({ order_id: orderId })
    .whereNot({ user_id: userId })
    .where("seen_at", ">", new Date(Date.now() - 2.5 * beatMs))
    .distinct("name")
    .orderBy("name")
  return rows.map((row) => row.name)
}
