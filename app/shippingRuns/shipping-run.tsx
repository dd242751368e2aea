import { showMoney } from "core/money/index.ts"
import { useCallback, useEffect, useState } from "react"
import { Link, useFetcher, useSearchParams } from "react-router"
import { workContext } from "server/http/context.ts"
import { say } from "words/index.ts"
import { findFields } from "../parts/changeWords.ts"
import { GroupBar, groupPlate, LastGroup, useChosen } from "../parts/GroupBar.tsx"
import { answerTo } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import type { Answer, Plate } from "../shell/Sill.tsx"
import { useKept, useLatest } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/shipping-run"
import { RunHead } from "./RunHead.tsx"
import { RunRows } from "./RunRows.tsx"
import { runActs, scannedIntoRun } from "./runActions.server.ts"
import { type RunView, runView } from "./runView.server.ts"

export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  return runView(work, Number(params.run))
}

export async function action({ request, params, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  const id = Number(params.run)
  return answerTo(request, work, runActs(work, id), {
    scanned: (text, form) => scannedIntoRun(work, id, text, form.get("pack") === "on"),
  })
}

export const meta: Route.MetaFunction = ({ params }) => [
  { title: `${say("shipping-run.title", { id: params.run ?? "" })} · ${say("app.name")}` },
]

export default function ShippingRunScreen({ loaderData: run, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  useLive(null)
  const [what, setWhat] = useState<string>("service")
  const [search] = useSearchParams()
  const [told, setTold] = useState<Answer | null>(null)
  const chosen = useChosen(
    run.rows.map((row) => row.orderId),
    String(run.id),
  )
  const answer = useLatest(actionData?.answer ?? null, told)
  const scale = run.scales.find((one) => String(one.id) === search.get("scale"))
  const next = scale ? nextToWeigh(run) : null
  useSeen(run)
  const { choose } = chosen
  const onChange = useCallback(
    (orderId: number, changed: string) => {
      choose([orderId])
      setWhat(changed)
    },
    [choose],
  )
  return (
    <Screen
      ribbon={{}}
      name="shipping-run"
      sill={{
        plate: plateOf(run, next, scale?.name ?? "", chosen.any ? groupPlate(chosen, what) : null, scale?.id),
        answer,
        scanFields: { pack: run.packs ? "on" : "" },
        words: [[say("words.order"), say("words.order.does")]],
        does: (text) => {
          const [found] = chosen.any ? findFields(text, run.whats) : []
          if (!found) return false
          setWhat(found)
          requestAnimationFrame(focusField)
          return true
        },
        understand: (text) => {
          const [found] = chosen.any ? findFields(text, run.whats) : []
          return found ? { words: say(`group.what.${found}`), fits: true } : null
        },
      }}
    >
      <RunHead run={run} />
      <section className="orders-found run-found">
        {run.rows.length === 0 ? (
          <p className="nothing">{say("shipping-run.empty")}</p>
        ) : (
          <div className="scrolls">
            <RunRows
              rows={run.rows}
              run={run}
              chosen={chosen}
              onAnswer={setTold}
              onChange={onChange}
              next={next?.name ?? null}
            />
          </div>
        )}
        <WeighBar run={run} scale={scale?.id ?? null} />
        <LastGroup last={run.last} />
        {run.mayWork && run.rows.length > 0 ? (
          <GroupBar
            chosen={chosen}
            what={what}
            onWhat={setWhat}
            sends={{ key: run.key }}
            more={false}
            whats={run.whats}
            choices={run.changes}
          />
        ) : null}
      </section>
    </Screen>
  )
}

/** Who looks at a run that is done has seen that it is: the other screens tell it no longer. */
function useSeen(run: RunView): void {
  const seen = useFetcher({ key: "run-seen" })
  const { submit } = seen
  const told = run.state === "open" && run.endedAt !== null && !run.seen && run.mayWork
  useEffect(() => {
    if (told) void submit({ intent: "seen" }, { method: "post" })
  }, [told, submit])
}

/** Goes to the field of what is to be changed. */
const focusField = () =>
  document.querySelector<HTMLElement>("#group-form .change-field :is(input, select)")?.focus({ preventScroll: true })

/** Weighing down the list with a scale: Enter weighs the next package. */
function WeighBar({ run, scale }: { run: RunView; scale: number | null }) {
  if (run.scales.length === 0 || !run.mayWork || run.rows.every((row) => row.packages.length === 0)) return null
  return (
    <p className="weigh-bar">
      {scale === null ? (
        run.scales.map((one) => (
          <Link key={one.id} to={`?scale=${one.id}`}>
            {say("shipping-run.weigh-on")}: {one.name}
          </Link>
        ))
      ) : (
        <Link to="?">{say("shipping-run.weigh-off")}</Link>
      )}
    </p>
  )
}

interface ToWeigh {
  readonly orderId: number
  readonly number: number
  readonly name: string
}

/** The next package down the list that nobody has weighed. */
function nextToWeigh(run: RunView): ToWeigh | null {
  for (const row of run.rows) {
    if (["asked", "buying", "bought", "out", "with"].includes(row.step)) continue
    const one = row.packages.find((pack) => pack.measuredLb === null)
    if (one) return { orderId: row.orderId, number: one.number, name: `${row.orderNumber}-${one.number}` }
  }
  return null
}

/** What Enter does: what is chosen is changed, a package weighed, the run bought, its labels printed. */
function plateOf(
  run: RunView,
  next: ToWeigh | null,
  scaleName: string,
  group: Plate | null,
  scaleId: number | undefined,
): Plate {
  const { counts, ready } = run
  if (group && run.mayWork) return group
  if (scaleId !== undefined)
    return next
      ? {
          verb: say("shipping-run.weigh-plate", { name: next.name }),
          detail: say("shipping-run.weigh-plate-detail", { scale: scaleName }),
          ready: true,
          send: { intent: "scale", order: String(next.orderId), package: String(next.number), scale: String(scaleId) },
        }
      : { verb: say("shipping-run.weigh-done"), detail: say("shipping-run.weigh-off"), ready: true, to: "?" }
  const done = { done: counts.bought, all: counts.bought + counts.asked + counts.buying }
  if (run.state === "buying")
    return { verb: say("shipping-run.buying-n", done), detail: say("shipping-run.buying-detail"), ready: false }
  if (run.state === "paused")
    return {
      verb: say("shipping-run.resume"),
      detail: say("shipping-run.paused-n", done),
      ready: true,
      send: { intent: "resume" },
    }
  if (counts.waiting > 0)
    return {
      verb: say("shipping-run.wait", { n: counts.waiting }),
      detail: say("shipping-run.wait-detail"),
      ready: false,
    }
  if (counts.ready > 0 && run.putAway)
    return {
      verb: say("shipping-run.take-out"),
      detail: say("shipping-run.take-out-detail"),
      ready: run.mayWork,
      send: { intent: "take-out" },
    }
  if (counts.ready > 0)
    return {
      verb: say("shipping-run.buy", {
        n: counts.ready,
        cost: showMoney({ amount: ready.all.cost, currency: run.currency }),
      }),
      detail: say("shipping-run.buy-detail", { late: ready.all.late }),
      ready: run.mayWork,
      send: { intent: "buy", shipments: String(counts.ready), cost: ready.all.cost },
    }
  return restingPlate(run)
}

/** What Enter does where nothing is to be bought. */
function restingPlate(run: RunView): Plate {
  if (run.unprinted > 0)
    return {
      verb: say("shipping-run.print", { n: run.unprinted }),
      detail: say("shipping-run.print-detail", { order: run.printOrder }),
      ready: true,
      send: { intent: "print", key: run.key },
    }
  if (run.rows.length === 0)
    return { verb: say("shipping-run.empty-plate"), detail: say("shipping-run.empty-detail"), ready: false }
  if (run.counts.bought > 0 && run.counts.bought === run.counts.all)
    return run.putAway
      ? { verb: say("shipping-run.list"), detail: say("shipping-run.done"), ready: true, to: "/orders/runs" }
      : {
          verb: say("shipping-run.put-away"),
          detail: say("shipping-run.done"),
          ready: true,
          send: { intent: "put-away" },
        }
  return { verb: say("shipping-run.rest"), detail: say("shipping-run.rest-detail"), ready: false }
}
