import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { authorise, type Context } from "../actors/index.ts"
import { changeGroup, type GroupResult, resultOf } from "../decisions/group.ts"
import { setHands } from "../decisions/shifts.ts"
import type { Warehouse } from "../setup/warehouse.ts"
import { adviceFor } from "./advice.ts"
import { dayView } from "./index.ts"

/** What was done: orders that leave with another collection, or so many people at work today. */
export type Taken =
  | { readonly kind: "move"; readonly result: GroupResult }
  | { readonly kind: "hands"; readonly hands: number }

/**
 * Does what the day's advice says, as it was seen: moves its orders, which one undo takes back, or puts so many more
 * people to work. Refused when the day has come to another advice meanwhile.
 *
 * @param fingerprint of the advice that the person saw
 * @param key makes taking it twice the same as once
 */
export async function takeAdvice(
  context: Context,
  warehouse: Warehouse,
  fingerprint: string,
  kind: "move" | "hands",
  key: string,
): Promise<Outcome<Taken>> {
  authorise(context.actor, kind === "move" ? "orders.work" : "hands.set")
  const known = await context.db("group_change").where({ id: key, user_id: context.actor.userId }).first("id")
  if (known) return accepted({ kind: "move", result: await resultOf(context.db, key) })
  const day = await dayView(context, warehouse)
  const advice = await adviceFor(context, warehouse, day)
  if (!advice || advice.fingerprint !== fingerprint) return refused(reason("advice.changed"))
  if (kind === "hands") {
    if (!advice.hands) return refused(reason("advice.changed"))
    const hands = day.hands + advice.hands.more
    const set = await setHands(context, warehouse, hands)
    return set.ok ? accepted({ kind, hands }) : set
  }
  const moved = await changeGroup(
    context,
    warehouse,
    key,
    advice.moves.map((move) => move.orderId),
    {
      what: "moves",
      moves: advice.moves.map((move) => ({
        order: move.orderId,
        collection: move.collectionId,
        service: move.serviceId,
      })),
    },
  )
  return moved.ok ? accepted({ kind, result: moved.value }) : moved
}
