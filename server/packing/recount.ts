import type { OrderId } from "core/ids/index.ts"
import { type Outcome, type Reason, reason } from "core/refusal/index.ts"
import type { Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { flawKey, type Override, type Shipment } from "../packages/shipment.ts"
import { returnPackaging } from "../packages/used.ts"
import { type Changed, change } from "./change.ts"

/** Pieces that somebody counted in a package, by line's id; a line that is not named has none in it. */
export type Counted = ReadonlyMap<number, number>

/** Whether a flaw says that a package weighs other than its contents. */
export const isOfWeight = (flaw: Pick<Reason, "code">): boolean => flaw.code.startsWith("flaw.weight")

/** What was counted, by the lines' letters: `4 a, 2 b`. */
const inLetters = (shipment: Shipment, counted: Counted): string =>
  shipment.lines.flatMap((line) => (counted.get(line.id) ? [`${counted.get(line.id)} ${line.letter}`] : [])).join(", ")

/**
 * Counts a package again, such as when it weighs other than its contents. Where the count agrees, the weight is let pass
 * with it, for this very weight; where it does not, the contents become what was counted, and closed packages are opened
 * for it. Both are kept on the order's story. Refused where more is counted than was picked and is in no other package.
 * A key counts once.
 */
export const recount = (
  context: Context,
  orderId: OrderId,
  number: number,
  counted: Counted,
  key: string,
): Promise<Outcome<Shipment>> =>
  change(
    context,
    orderId,
    { action: null, once: { key, text: `count ${number}: ${[...counted].join(" ")}` } },
    async (trx, shipment): Promise<Changed> => {
      const one = shipment.packages.find((each) => each.number === number)
      if (!one) return [reason("pack.no-such-package", { number })]
      const inside = new Map(one.lineIds.map((id, at) => [id, one.contents[at]?.quantity ?? 0]))
      for (const [id, quantity] of counted) {
        const line = shipment.lines.find((each) => each.id === id)
        if (!line) return [reason("pack.no-such-line")]
        const most = line.picked - line.packed + (inside.get(id) ?? 0)
        if (!Number.isInteger(quantity) || quantity < 0) return [reason("pick.quantity", { quantity })]
        if (quantity > most) return [reason("pack.counted-more", { line: line.letter, sku: line.sku, quantity, most })]
      }
      const were = shipment.lines.filter((line) => inside.get(line.id) || counted.get(line.id))
      const same = were.every((line) => (inside.get(line.id) ?? 0) === (counted.get(line.id) ?? 0))
      const words = inLetters(shipment, counted)
      if (same) {
        const passed = one.flaws
          .filter(isOfWeight)
          .map((flaw): Override => ({ key: flawKey(flaw), flaw, why: "", actor: context.actor.name, counted: words }))
        await trx("package")
          .where({ id: one.id })
          .update({ overrides: JSON.stringify([...one.overridden, ...passed]) })
      } else {
        await returnPackaging(trx, shipment)
        await trx("package").where({ shipment_id: shipment.id, state: "closed" }).update({ state: "open" })
        for (const line of were) {
          const at = { package_id: one.id, order_line_id: line.id }
          const quantity = counted.get(line.id) ?? 0
          if (quantity === 0) await trx("package_content").where(at).delete()
          else
            await trx("package_content")
              .insert({ ...at, quantity, unverified: 0 })
              .onConflict(["package_id", "order_line_id"])
              .merge({ quantity, unverified: trx.raw("LEAST(unverified, ?)", [quantity]) })
        }
      }
      await record(trx, context.actor, context.now, {
        action: same ? "pack.counted" : "pack.counted-other",
        orderId: shipment.orderId,
        detail: {
          number,
          counted: words,
          was: inLetters(shipment, inside),
          measured: one.measured ? (one.flaws.find(isOfWeight)?.values.measured ?? "") : "",
        },
      })
      return []
    },
  )
