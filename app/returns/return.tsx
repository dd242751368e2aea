import { Button } from "@chakra-ui/react"
import { data, Link, redirect } from "react-router"
import { may } from "server/actors/index.ts"
import { workContext } from "server/http/context.ts"
import { arrive, matchReturn } from "server/returns/arrive.ts"
import {
  closeReturn,
  declineReturn,
  findingsForm,
  finishReturn,
  recordFindings,
  undoFinding,
} from "server/returns/inspect.ts"
import { returnNamed } from "server/returns/list.ts"
import { moveOn, onwardForm } from "server/returns/onward.ts"
import { dayAndClock, shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { z } from "zod"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { TextField } from "../parts/Fields.tsx"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import type { Plate } from "../shell/Sill.tsx"
import { done } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useShell } from "../shell/useNow.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/return"
import { CountItems, wrongGoods } from "./CountItems.tsx"
import { Findings } from "./Findings.tsx"
import { returnAt, sayArrived, scannedBack } from "./scanned.server.ts"
import { type Counts, useCounts } from "./useCounts.ts"

export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const shown = await returnNamed(work.db, work.warehouse.id, params.name.slice(0, 30))
  if (!shown) throw data(null, { status: 404 })
  return {
    shown,
    may: {
      arrive: may(work.actor, "dock.work"),
      count: may(work.actor, "stock.move"),
      work: may(work.actor, "orders.work"),
      scrap: may(work.actor, "stock.adjust"),
    },
    key: crypto.randomUUID(),
  }
}

/** What was counted, as the page sends it: one text, whatever number of items. */
const counted = z
  .string()
  .max(200_000)
  .transform((text, context) => {
    try {
      return JSON.parse(text) as unknown
    } catch {
      context.addIssue({ code: "custom", message: "form.wrong" })
      return z.NEVER
    }
  })
  .pipe(findingsForm)
const why = z.object({ why: field.text(200) })

export async function action({ request, params, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  const name = params.name.slice(0, 30)
  return answerTo(
    request,
    work,
    {
      arrived: act(z.object({ package: field.id }), (work, { package: id }) => arrive(work, id), sayArrived),
      count: act(
        z.object({ found: counted, surplus: field.tick }),
        (work, { found, surplus }, { key }) => recordFindings(work, name, found, { key, surplus }),
        ({ pieces, bin }) => ({ ...done(say("goods-back.counted", { n: pieces, bin })), counted: true }),
      ),
      undo: act(
        z.object({ finding: field.id }),
        (work, { finding }) => undoFinding(work, name, finding),
        () => say("goods-back.undone"),
      ),
      finish: act(
        z.object({ empty: field.tick }),
        (work, said) => finishReturn(work, name, said),
        ({ missing }) => say("goods-back.finished", { name, missing }),
      ),
      onward: act(
        onwardForm.extend({ finding: field.id }),
        (work, { finding, ...said }, { key }) => moveOn(work, name, finding, said, key),
        ({ bin }, { to, quantity }) =>
          to === "away"
            ? say("goods-back.went.away", { n: quantity })
            : say(`goods-back.went.${to}`, { n: quantity, bin }),
      ),
      match: act(
        z.object({ order: field.text(20) }),
        (work, { order }) => matchReturn(work, name, order),
        ({ name: known }) => {
          // it has another name by now
          throw redirect(returnAt(known))
        },
      ),
      decline: act(
        why,
        (work, { why }) => declineReturn(work, name, why),
        () => say("goods-back.was-declined", { name }),
      ),
      close: act(
        why,
        (work, { why }) => closeReturn(work, name, why),
        () => say("goods-back.was-closed", { name }),
      ),
    },
    { scanned: (text) => scannedBack(work, text, "return") },
  )
}

export const meta: Route.MetaFunction = ({ loaderData }) => [
  { title: `${loaderData?.shown.name ?? ""} · ${say("goods-back.title")} · ${say("app.name")}` },
]

type Data = Route.ComponentProps["loaderData"]

export default function Return({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { zone } = useShell()
  const { shown, may, key } = loaderData
  useLive(null)
  const open = shown.state === "arrived" && may.count
  const counts = useCounts(shown, actionData && "counted" in actionData ? actionData.answer.key : "", key)
  return (
    <Screen
      ribbon={{}}
      name="return"
      sill={{
        plate: plateOf(loaderData, counts),
        does: (text) => open && counts.scan(text),
        understand: (text) => {
          const item = open ? counts.itemOf(text) : null
          return item ? { fits: true, words: say("goods-back.scan-counts", { sku: item.sku, n: item.pieces }) } : null
        },
        answer: actionData?.answer,
        words: [
          [say("words.item"), say("goods-back.words-item")],
          [say("words.package"), say("goods-back.words-package")],
        ],
      }}
    >
      <div className="place-head">
        <h1>{shown.name}</h1>
        <p>
          <b>{say(`goods-back.is.${shown.state}`)}</b>
          {shown.late ? <b className="ember"> {say("goods-back.late")}</b> : null}
          {", "}
          {say(`goods-back.kind.${shown.kind}`)}
          {shown.validUntil ? `, ${say("return.until", { day: shortDay(shown.validUntil) })}` : ""}
          {shown.orderNumber ? (
            <>
              {`, ${shown.customer}, `}
              <Link to={`/orders/${shown.orderNumber}`}>{say("goods-back.order", { order: shown.orderNumber })}</Link>
            </>
          ) : null}
          {shown.note ? `, ${shown.note}` : ""}
        </p>
        <Link to="/orders/returns">{say("goods-back.title")}</Link>
      </div>
      <div className="two wide-left">
        <section className="scrolls return-goods-back">
          {shown.kind === "unknown" && shown.state === "arrived" ? (
            <p className="note">{say("goods-back.match-first")}</p>
          ) : null}
          <CountItems shown={shown} open={open} counts={counts} />
        </section>
        <section className="item-edit">
          <Packages data={loaderData} zone={zone} />
          <Findings shown={shown} open={open} mayMove={may.count} mayScrap={may.scrap} sendKey={key} />
          <Settling data={loaderData} counting={counts.pieces > 0 || counts.wrong.length > 0} />
        </section>
      </div>
    </Screen>
  )
}

function plateOf({ shown, may }: Data, { pieces, wrong, sendable }: Counts): Plate {
  const list: Plate = { verb: say("goods-back.plate-list"), detail: "", ready: true, to: "/orders/returns" }
  if (shown.state === "awaited") return { verb: say("goods-back.plate"), detail: shown.name, ready: false }
  if (shown.state !== "arrived" || !may.count) return list
  if (wrong.length > 0) return { verb: say("goods-back.plate-correct"), detail: wrongGoods(wrong), ready: false }
  if (pieces > 0)
    return {
      verb: say("goods-back.plate-count", { n: pieces }),
      detail: shown.bins.inspection ?? "",
      ready: sendable,
      form: "count-form",
    }
  if (shown.findings.length > 0 && shown.kind !== "unknown")
    return { verb: say("goods-back.plate-finish"), detail: shown.name, ready: true, form: "finish-form" }
  return { verb: say("goods-back.plate-wait"), detail: say("goods-back.plate-wait-detail"), ready: false }
}

/** The packages that a return comes in, and which of them are here. */
function Packages({ data: { shown, may }, zone }: { data: Data; zone: string }) {
  return (
    <>
      <h2>{say("goods-back.packages")}</h2>
      <ul className="back-packages">
        {shown.packages.map((one) => (
          <li key={one.id}>
            <b>{`${shown.name}.${one.piece}`}</b> <span className="code">{one.tracking}</span>{" "}
            {one.arrivedAt
              ? say("goods-back.arrived-at", { time: dayAndClock(one.arrivedAt, zone) })
              : one.state
                ? [one.carrier, say(`tracking.state.${one.state}`)].join(", ")
                : say("goods-back.is.awaited")}
            {!one.arrivedAt && may.arrive && shown.state !== "declined" ? (
              <Act intent="arrived" sends={{ package: one.id }}>
                <Button
                  type="submit"
                  variant="ghost"
                  aria-label={say("goods-back.mark-arrived-of", { name: `${shown.name}.${one.piece}` })}
                >
                  {say("goods-back.mark-arrived")}
                </Button>
              </Act>
            ) : null}
          </li>
        ))}
      </ul>
    </>
  )
}

/** How a return ends: looked through, of an order that is found out, not taken, or no longer awaited. */
function Settling({ data: { shown, may }, counting }: { data: Data; counting: boolean }) {
  const { state, kind } = shown
  const clean = shown.findings.every((one) => !one.inStock)
  return (
    <>
      {state === "arrived" && kind !== "unknown" && may.count ? (
        <ActForm intent="finish" id="finish-form" className="back-finish">
          {shown.findings.length === 0 ? (
            <label className="tick-line">
              <input type="checkbox" name="empty" /> {say("goods-back.was-empty")}
            </label>
          ) : null}
          {counting ? <p className="note">{say("goods-back.record-first")}</p> : null}
          <Button type="submit" disabled={counting}>
            {say("goods-back.plate-finish")}
          </Button>
        </ActForm>
      ) : null}
      {state === "arrived" && kind === "unknown" && may.work ? (
        <ActForm intent="match" id="match-form" className="back-match">
          <TextField name="order" id="match-order" label="goods-back.of-order" most={20} />
          <Button type="submit">{say("goods-back.match")}</Button>
        </ActForm>
      ) : null}
      {state === "arrived" && kind !== "unknown" && clean && may.scrap ? (
        <details className="back-move">
          <summary>{say("goods-back.decline")}</summary>
          <ActForm intent="decline" id="decline-form">
            <TextField name="why" id="decline-why" label="goods-back.why" most={200} />
            <Button type="submit">{say("goods-back.decline")}</Button>
          </ActForm>
        </details>
      ) : null}
      {(state === "awaited" || (state === "arrived" && kind === "unknown")) && may.work ? (
        <details className="back-move">
          <summary>{say(state === "awaited" ? "goods-back.close" : "goods-back.close-unknown")}</summary>
          <ActForm intent="close" id="close-form">
            <TextField name="why" id="close-why" label="goods-back.why" most={200} />
            <Button type="submit">{say("goods-back.close-it")}</Button>
          </ActForm>
        </details>
      ) : null}
    </>
  )
}
