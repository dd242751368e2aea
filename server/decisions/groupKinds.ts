import { isLocalDate, type LocalDate } from "core/calendar/index.ts"
import type { NoteId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import type { Context, Right } from "../actors/index.ts"
import type { SalesOrderRow } from "../db/tables.ts"
import { dropNote, putNote, putTag, tidyTag } from "../orders/marks.ts"
import type { Ground } from "../plan/plan.ts"
import { type Choice, chooseCollection } from "./choose.ts"
import { putHold } from "./hold.ts"
import { putPattern } from "./pattern.ts"
import { promiseDay, putPromise } from "./promise.ts"

/** An order under its lock, and what a change of it is made with. */
export interface OneOrder {
  readonly trx: Knex
  readonly context: Context
  readonly order: SalesOrderRow
  /** What plans stand on, read once for all orders of the change. */
  readonly ground: () => Promise<Ground>
}

/** One thing that can be done with many orders, and be taken back. */
export interface GroupKind<Change, Before> {
  readonly right: Right
  /** The right to take it back, where that is another. */
  readonly undoRight?: Right
  /** The change as it is kept, or why it makes no sense. */
  readonly tidy?: (change: Change, today: LocalDate) => Outcome<Change>
  /** Does it to one order; what is kept to take it back, or null where it was so already. */
  readonly apply: (one: OneOrder, change: Change) => Promise<Outcome<Before | null>>
  /** Takes it back; false where it is gone already. Refused where somebody changed the order since. */
  readonly takeBack: (one: OneOrder, change: Change, before: Before) => Promise<Outcome<boolean>>
}

export const groupKind = <Change, Before>(kind: GroupKind<Change, Before>): GroupKind<Change, Before> => kind

const done = (did: boolean): Outcome<{ readonly changed: true } | null> => accepted(did ? { changed: true } : null)

export const promise = groupKind<{ what: "promise"; day: string }, { readonly promisedOn: LocalDate | null }>({
  right: "orders.work",
  tidy: (change, today) => {
    const day = promiseDay(change.day || null, today)
    return day.ok ? accepted(change) : day
  },
  apply: async ({ trx, context, order }, { day }) => {
    const outcome = await putPromise(trx, context, order.id, isLocalDate(day) ? day : null)
    if (!outcome.ok) return outcome
    return accepted(order.promised_on === (day || null) ? null : { promisedOn: order.promised_on })
  },
  takeBack: async ({ trx, context, order }, { day }, before) => {
    if (order.promised_on !== (day || null)) return refused(reason("order.changed-meanwhile"))
    const outcome = await putPromise(trx, context, order.id, before.promisedOn)
    return outcome.ok ? accepted(true) : outcome
  },
})

const tagging = (what: "tag" | "untag") =>
  groupKind<{ what: "tag" | "untag"; tag: string }, { readonly changed: true }>({
    right: "orders.work",
    tidy: (change) => {
      const tag = tidyTag(change.tag)
      return tag.ok ? accepted({ ...change, tag: tag.value }) : tag
    },
    apply: async ({ trx, context, order }, { tag }) => done(await putTag(trx, context, order.id, tag, what === "tag")),
    takeBack: async ({ trx, context, order }, { tag }) =>
      accepted(await putTag(trx, context, order.id, tag, what === "untag")),
  })
export const tag = tagging("tag")
export const untag = tagging("untag")

export const note = groupKind<{ what: "note"; text: string }, { readonly noteId: NoteId }>({
  right: "orders.work",
  tidy: (change) => {
    const text = change.text.trim()
    return text ? accepted({ ...change, text }) : refused(reason("note.empty"))
  },
  apply: async ({ trx, context, order }, { text }) => {
    const noteId = await putNote(trx, context, order.id, text)
    return accepted(noteId === null ? null : { noteId })
  },
  takeBack: async ({ trx, context, order }, _, { noteId }) => accepted(await dropNote(trx, context, order.id, noteId)),
})

const holding = (hold: boolean) =>
  groupKind<{ what: "hold" | "let-go" }, { readonly changed: true }>({
    right: hold ? "orders.hold" : "orders.release-hold",
    // to hold is to be let go by a lead; the one who held many a moment ago may take that back
    undoRight: "orders.hold",
    apply: async ({ trx, context, order }) =>
      order.cancelled_at
        ? refused(reason("order.is-cancelled"))
        : done(await putHold(trx, context.actor, context.now, order.id, hold)),
    takeBack: async ({ trx, context, order }) =>
      accepted(await putHold(trx, context.actor, context.now, order.id, !hold)),
  })
export const hold = holding(true)
export const letGo = holding(false)

export const pattern = groupKind<{ what: "pattern"; pattern: number }, { readonly pattern: number | null }>({
  right: "orders.work",
  apply: async ({ trx, context, order }, { pattern: wanted }) => {
    if (order.pattern_id === (wanted || null)) return accepted(null)
    const outcome = await putPattern(trx, context, order.id, wanted || null)
    return outcome.ok ? accepted({ pattern: order.pattern_id }) : outcome
  },
  takeBack: async ({ trx, context, order }, { pattern: wanted }, before) => {
    if (order.pattern_id !== (wanted || null)) return refused(reason("order.changed-meanwhile"))
    const outcome = await putPattern(trx, context, order.id, before.pattern)
    return outcome.ok ? accepted(true) : outcome
  },
})

/** Puts orders on trucks, each on the one that a change wants for it. */
const moving = <Change>(wanted: (change: Change, orderId: number) => Choice) =>
  groupKind<Change, Choice>({
    right: "orders.work",
    apply: async ({ trx, context, order, ground }, change) => {
      const to = wanted(change, order.id)
      const was = { collection: order.chosen_collection_id, service: order.chosen_service_id }
      if (was.collection === to.collection && was.service === to.service) return accepted(null)
      const outcome = await chooseCollection(trx, context, order.id, to, await ground())
      return outcome.ok ? accepted(was) : outcome
    },
    takeBack: async ({ trx, context, order, ground }, change, before) => {
      if (order.chosen_collection_id !== wanted(change, order.id).collection)
        return refused(reason("order.changed-meanwhile"))
      const outcome = await chooseCollection(trx, context, order.id, before, await ground())
      return outcome.ok ? accepted(true) : outcome
    },
  })
export const leave = moving<{ what: "leave"; collection: number }>(({ collection }) => ({
  collection: collection || null,
  service: null,
}))

/** Each order with a collection and service of its own, as advice has it. */
export interface Moves {
  readonly what: "moves"
  readonly moves: readonly { readonly order: number; readonly collection: number; readonly service: number }[]
}
export const moves = moving<Moves>((change, orderId) => {
  const move = change.moves.find((one) => one.order === orderId)
  return { collection: move?.collection ?? null, service: move?.service ?? null }
})
