import { Button, Input } from "@chakra-ui/react"
import { confirmBin, confirmItem, confirmQuantity, nextStop, type PickStop } from "core/picking/index.ts"
import type { Outcome } from "core/refusal/index.ts"
import { readings } from "core/scanning/index.ts"
import { data, Form } from "react-router"
import { workContext } from "server/http/context.ts"
import { summaryByBench } from "server/orders/facts.ts"
import { marksOf } from "server/orders/marks.ts"
import { confirmStop, pick, pickStops } from "server/picking/index.ts"
import { say, sayReasons } from "../messages/index.ts"
import { MarksShown } from "../screens/Marks.tsx"
import { People } from "../shell/People.tsx"
import { Screen } from "../shell/Screen.tsx"
import type { Plate, Said, Understood } from "../shell/Sill.tsx"
import { done, followScan, refusal } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { allow, withRights } from "../shell/work.ts"
import type { Route } from "./+types/pick"

export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "bench.see")
  const order = await summaryByBench(work.db, work.warehouse, params.bench)
  if (!order) throw data(null, { status: 404 })
  return {
    id: order.id,
    bench: order.bench,
    customer: order.customer,
    stops: await pickStops(work.db, order.id),
    stopped: order.stops.length > 0,
    marks: await marksOf(work.db, order.id),
  }
}

/** What is confirmed of the stop in hand: travels with each scan, so that the server keeps no state of the walk. */
interface InHand {
  readonly allocation: number
  readonly bin: string
  readonly item: string
}

interface Answer {
  readonly said: Said
  readonly hand?: InHand
}

export async function action({ request, params, context }: Route.ActionArgs): Promise<Answer> {
  const work = context.get(workContext)
  const form = await request.formData()
  const text = String(form.get("text") ?? "")
    .trim()
    .slice(0, 120)
  return withRights(async () => {
    const order = await summaryByBench(work.db, work.warehouse, params.bench)
    if (!order) throw data(null, { status: 404 })
    const stops = await pickStops(work.db, order.id)
    const hand: InHand = {
      allocation: Number(form.get("allocation")) || 0,
      bin: String(form.get("bin") ?? ""),
      item: String(form.get("item") ?? ""),
    }
    const stop = stops.find((one) => one.allocationId === hand.allocation)
    const scanId = String(form.get("scanId") ?? "") || crypto.randomUUID()
    if (form.get("intent") === "by-hand") {
      if (!stop) return refusal(say("pick.no-such-stop"))
      return answer(
        stop,
        hand,
        await pick(work, order.id, {
          scanId,
          allocationId: stop.allocationId,
          bin: stop.bin,
          item: null,
          times: Number(form.get("quantity")),
        }),
      )
    }
    if (!stop) return followScan(work, text)
    if (!hand.bin) {
      const bin = confirmBin(stop, text)
      if (!bin.ok && leadsAway(text)) return followScan(work, text)
      const outcome = await confirmStop(work, order.id, stop.allocationId, text)
      if (!outcome.ok) return refusal(sayReasons(outcome.reasons))
      return {
        ...done(say("pick.bin-right", { bin: stop.bin, description: stop.description })),
        hand: { ...hand, bin: stop.bin, item: "" },
      }
    }
    const total = quantityOf(text)
    if (total !== null) {
      if (!hand.item) return { ...refusal(say("pick.item-first", { sku: stop.sku })), hand }
      return answer(
        stop,
        hand,
        await pick(work, order.id, {
          scanId,
          allocationId: stop.allocationId,
          bin: hand.bin,
          item: stop.sku,
          times: total - stop.picked,
        }),
      )
    }
    const code = readings(text).find((reading) => reading.kind === "gtin")
    const item = code?.kind === "gtin" ? code.gtin : text
    if (confirmBin(stop, text).ok)
      return { ...done(say("pick.bin-right", { bin: stop.bin, description: stop.description })), hand }
    return answer(
      stop,
      { ...hand, item },
      await pick(work, order.id, { scanId, allocationId: stop.allocationId, bin: hand.bin, item, times: 1 }),
    )
  })
}

function answer(stop: PickStop, hand: InHand, outcome: Outcome<{ taken: number }>): Answer {
  if (!outcome.ok) return { ...refusal(sayReasons(outcome.reasons)), hand }
  return {
    ...done(say("pick.taken", { n: outcome.value.taken, sku: stop.sku, bin: stop.bin })),
    hand: { ...hand, bin: stop.bin },
  }
}

/** Whether a text is an order, a door or a package, so that the clerk means to go there. */
const leadsAway = (text: string): boolean =>
  readings(text).some((reading) => ["order", "door", "sscc", "package"].includes(reading.kind))

/** Bare digits of up to four places are how many were taken at this bin in all. */
const quantityOf = (text: string): number | null => (/^\d{1,4}$/.test(text) ? Number(text) : null)

export const meta: Route.MetaFunction = ({ params }) => [
  { title: `${say("pick.title", { bench: params.bench ?? "" })} · ${say("app.name")}` },
]

export default function Pick({ loaderData: order, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const people = useLive(order.id)
  const stop = nextStop(order.stops)
  const hand =
    actionData?.hand && actionData.hand.allocation === stop?.allocationId
      ? actionData.hand
      : { allocation: stop?.allocationId ?? 0, bin: "", item: "" }
  const doneStops = order.stops.filter((one) => one.picked >= one.quantity).length
  const understand = (text: string): Understood | null => {
    if (!stop) return null
    if (!hand.bin) {
      const bin = confirmBin(stop, text)
      if (bin.ok) return { fits: true, words: say("pick.bin-right", { bin: stop.bin, description: stop.description }) }
      return leadsAway(text) ? null : words(bin)
    }
    const total = quantityOf(text)
    if (total !== null)
      return hand.item
        ? words(confirmQuantity(stop, total - stop.picked), stop)
        : { fits: false, words: say("pick.item-first", { sku: stop.sku }) }
    const gtin = readings(text).find((reading) => reading.kind === "gtin")
    return words(confirmItem(stop, gtin?.kind === "gtin" ? gtin.gtin : text), stop)
  }
  return (
    <Screen
      ribbon={{ order: order.id }}
      name="pick"
      sill={{
        plate: plateOf(order, stop, hand),
        understand,
        scanFields: { allocation: String(hand.allocation), bin: hand.bin, item: hand.item },
        said: actionData?.said,
        words: [
          [say("words.bin"), say("words.bin.does")],
          [say("words.item"), say("words.item.does.pick")],
          [say("words.digits"), say("words.digits.does.pick")],
          [say("words.order"), say("words.order.does")],
        ],
      }}
    >
      <section className="pick-now">
        <h1>
          <small>
            {order.bench} {order.customer}
          </small>
        </h1>
        <People names={people} />
        <MarksShown marks={order.marks} notes="" />
        {stop ? (
          <>
            <p className="pick-step">{say("pick.of", { n: doneStops + 1, of: order.stops.length })}</p>
            <p className={hand.bin ? "pick-bin done" : "pick-bin"}>{stop.bin}</p>
            <div className="pick-what">
              <p className="pick-count">{stop.quantity - stop.picked}</p>
              <div>
                <p className="pick-description">{stop.description}</p>
                <p className="code">
                  {stop.sku}
                  {stop.lot ? `, ${say("pick.lot", { lot: stop.lot })}` : ""}
                </p>
                <p className="code">
                  {stop.levels
                    .map((level) => `${level.name} ${level.gtin ?? "–"}${level.count > 1 ? ` (${level.count})` : ""}`)
                    .join(", ")}
                </p>
              </div>
            </div>
            <Form method="post" className="by-hand">
              <input type="hidden" name="intent" value="by-hand" />
              <input type="hidden" name="allocation" value={stop.allocationId} />
              <label htmlFor="by-hand">{say("pick.quantity-label")}</label>
              <Input
                id="by-hand"
                name="quantity"
                type="number"
                min={1}
                max={stop.quantity - stop.picked}
                defaultValue={stop.quantity - stop.picked}
                key={`${stop.allocationId} ${stop.picked}`}
                width="90px"
              />
              <Button type="submit">{say("pick.by-hand")}</Button>
              <span>{say("pick.by-hand-note")}</span>
            </Form>
          </>
        ) : (
          <p className="pick-description">{order.stops.length === 0 ? say("pick.nothing") : say("pick.all-done")}</p>
        )}
      </section>
      <section className="pick-walk">
        <table className="rows">
          <caption className="sr-only">{say("pick.table")}</caption>
          <thead>
            <tr>
              <th scope="col">{say("pick.bin")}</th>
              <th scope="col">{say("pick.line")}</th>
              <th scope="col">{say("pick.item")}</th>
              <th scope="col" className="figure">
                {say("pick.take")}
              </th>
              <th scope="col" className="figure">
                {say("pick.left")}
              </th>
            </tr>
          </thead>
          <tbody>
            {order.stops.map((one) => (
              <tr
                key={one.allocationId}
                className={one === stop ? "next" : one.picked >= one.quantity ? "pale" : undefined}
              >
                <th scope="row" className="code big">
                  {one.bin}
                </th>
                <td>{one.line}</td>
                <td>
                  {one.description}
                  <br />
                  <span className="code">
                    {one.sku}
                    {one.lot ? `, ${say("pick.lot", { lot: one.lot })}` : ""}
                  </span>
                </td>
                <td className="figure big">{one.quantity}</td>
                <td className="figure big">{one.quantity - one.picked}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
    </Screen>
  )
}

const words = (outcome: Outcome<unknown>, stop?: PickStop): Understood =>
  outcome.ok
    ? { fits: true, words: stop ? say("pick.taken", { n: String(outcome.value), sku: stop.sku, bin: stop.bin }) : "" }
    : { fits: false, words: sayReasons(outcome.reasons) }

function plateOf(
  order: { bench: string; stops: readonly PickStop[]; stopped: boolean },
  stop: PickStop | null,
  hand: InHand,
): Plate {
  if (order.stopped)
    return {
      verb: say("ship.plate.stopped"),
      detail: say("pick.order-stopped"),
      ready: true,
      to: `/orders/${order.bench}`,
    }
  if (!stop) {
    if (order.stops.length === 0) return { verb: say("plate.nothing"), detail: say("pick.nothing"), ready: false }
    return {
      verb: say("pick.plate.done", { bench: order.bench }),
      detail: say("pick.plate.done-detail", { n: order.stops.reduce((sum, one) => sum + one.quantity, 0) }),
      ready: true,
      to: `/shipment/${order.bench}`,
    }
  }
  if (!hand.bin)
    return {
      verb: say("pick.plate.bin", { bin: stop.bin }),
      detail: say("pick.plate.bin-detail", { quantity: stop.quantity - stop.picked, description: stop.description }),
      ready: false,
    }
  return {
    verb: say("pick.plate.item", { sku: stop.sku }),
    detail: say("pick.plate.item-detail", { left: stop.quantity - stop.picked }),
    ready: false,
  }
}
