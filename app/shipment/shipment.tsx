import { isWorkedHere } from "core/orders/index.ts"
import { useState } from "react"
import { data, redirect, useNavigate, useSearchParams, useSubmit } from "react-router"
import { workContext } from "server/http/context.ts"
import { summaryByNumber } from "server/orders/facts.ts"
import { clock } from "words/format.ts"
import { say } from "words/index.ts"
import { sayReason } from "words/reasons.ts"
import { takingOf } from "../parts/adviceWords.ts"
import { useChangeOne } from "../parts/ChangeOne.tsx"
import { ReturnLabels } from "../parts/ReturnLabels.tsx"
import { answerTo } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import type { Understood } from "../shell/Sill.tsx"
import { useKept, useLatest } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useNow, useShell } from "../shell/useNow.ts"
import { allow, dayOf, withRights } from "../shell/work.ts"
import type { Route } from "./+types/shipment"
import { Taken } from "./AdviceList.tsx"
import { Apart, ShipmentPapers } from "./Apart.tsx"
import { AtCollection } from "./AtCollection.tsx"
import { Cartons } from "./Cartons.tsx"
import { CartonsHead } from "./CartonsHead.tsx"
import { Depth } from "./Depth.tsx"
import { DragGoods } from "./DragGoods.tsx"
import { LabelsPanel } from "./LabelsPanel.tsx"
import { ledgerWays } from "./ledger.ts"
import { PapersPanel } from "./PapersPanel.tsx"
import { PapersToMake, usePapersWay } from "./PapersToMake.tsx"
import { inHandOf, inWords, meaning } from "./packingMeaning.ts"
import { Receipt } from "./Receipt.tsx"
import { ShipmentHead } from "./ShipmentHead.tsx"
import { ShipmentLines } from "./ShipmentLines.tsx"
import { ShipmentRates } from "./ShipmentRates.tsx"
import { Suggested, suggestedFields } from "./Suggested.tsx"
import { type ShipmentAnswer, shipmentActs, shipmentScan } from "./shipmentActions.server.ts"
import { packingWords, shipmentKeys } from "./shipmentKeys.ts"
import { freshPlate, movingPlate, papersPlate, shipmentPlate, suggestedPlate } from "./shipmentPlate.ts"
import { shipmentView } from "./shipmentView.server.ts"
import { useSuggestion } from "./usePacking.ts"
import { useStale } from "./useStale.ts"

export async function loader({ params, request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  if (!params.orderNumber) {
    const { next } = await dayOf(work)
    throw redirect(next ? `/shipment/${next.order.orderNumber}` : "/")
  }
  const order = await summaryByNumber(work.db, work.warehouse, params.orderNumber)
  if (!order) throw data(null, { status: 404 })
  if (order.lead) throw redirect(`/shipment/${order.lead.orderNumber}`)
  const { searchParams } = new URL(request.url)
  const variants = searchParams.get("drawing") === "variants"
  return shipmentView(work, order, searchParams.get("service"), variants)
}

export async function action({ request, params, context }: Route.ActionArgs): Promise<ShipmentAnswer> {
  const work = context.get(workContext)
  const order = await withRights(() => summaryByNumber(work.db, work.warehouse, params.orderNumber ?? ""))
  if (!order) throw data(null, { status: 404 })
  return answerTo(request, work, shipmentActs(work, order.id), {
    scanned: (text, form) => shipmentScan(work, order.id, text, form),
  })
}

export const meta: Route.MetaFunction = ({ params }) => [
  { title: `${say("ship.title", { orderNumber: params.orderNumber ?? "" })} · ${say("app.name")}` },
]

export default function ShipmentScreen({ loaderData: view, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { zone, today, next } = useShell()
  const now = useNow()
  const [search] = useSearchParams()
  const [byMouse, setByMouse] = useState<{ answer: string; number: number } | null>(null)
  const people = useLive(view.orderId)
  const { outcome: suggestion, others, standings, working, hold } = useSuggestion(view.toSuggest)
  const [depth, setDepth] = useState<number | null>(null)
  const looked = view.packages.find((one) => one.number === depth && (one.inside || one.load)) ?? null
  // the carton that the suggestion begins with; where it is not there yet, the one that would do by volume
  const first = suggestion?.ok ? suggestion.value.boxes.find((box) => box.code !== null) : undefined
  const [typeByHand, setTypeByHand] = useState<{ answer: string; code: string } | null>(null)
  const submit = useSubmit()
  const navigate = useNavigate()
  const answerKey = actionData?.answer.key ?? ""
  const wantedType =
    typeByHand?.answer === answerKey
      ? typeByHand.code
      : (first?.code ?? view.suggestion?.code ?? view.catalogue[0]?.code)
  const asked = byMouse && byMouse.answer === answerKey ? byMouse.number : actionData?.hand
  const open = view.packages.filter((one) => one.state === "open")
  const hand = inHandOf(view, asked)
  // what scans take out of, as long as something is in it
  const out =
    byMouse?.answer === answerKey
      ? null
      : (open.find((one) => one.number === actionData?.from && one.number !== hand && one.contents.length > 0)
          ?.number ?? null)
  const editable = view.state === "open" && view.packages.every((one) => one.state === "open")
  const wanted = search.get("service")
  const chosen =
    view.offers.find((offer) => offer.code === wanted && offer.contract) ??
    view.offers.find((offer) => offer.preselected) ??
    null
  const ways = ledgerWays(search)
  const papersOpen = usePapersWay().open && view.toMake !== null
  const stale = useStale(chosen?.cutOff ?? null, now)
  const change = useChangeOne(view.orderId, true)
  const firstAdvice = view.advice.map((one) => takingOf(one, view.key)).find((one) => one !== null) ?? null
  const understand = (text: string): Understood | null => {
    const meant = view.state === "open" ? meaning(view, text, hand, out) : null
    if (!meant) return change.understand(text)
    if (meant.kind === "refused") return { fits: false, words: sayReason(meant.why) }
    return { fits: true, words: inWords(view, meant) }
  }
  const own = useLatest(actionData?.answer ?? null, change.answer)
  const answer =
    own?.refused || !view.trouble
      ? own
      : {
          key: `trouble ${view.version} ${view.trouble.code}`,
          refused: view.state === "open",
          words: sayReason(view.trouble),
        }
  const left = view.lines.reduce((sum, line) => sum + line.picked - line.packed, 0)
  // the truck that the label will be bought for; once it is bought, its own
  const leaves =
    view.state === "open" && chosen?.cutOff && chosen.door
      ? { door: chosen.door, onDate: chosen.leaves ?? today, cutOff: chosen.cutOff, closed: false }
      : view.collection
  return (
    <Screen
      ribbon={{ order: view.orderId, door: leaves?.door }}
      name="shipment"
      sill={{
        plate:
          papersOpen && (view.toMake?.abroad || view.toMake?.freight)
            ? papersPlate(view)
            : hand !== null && out !== null
              ? movingPlate(hand, out)
              : freshPlate(
                  shipmentPlate(view, hand, left, chosen, next, suggestedPlate(view, suggestion, working)),
                  stale,
                ),
        understand,
        does: (text) => (view.state === "open" && meaning(view, text, hand, out) ? false : change.does(text)),
        scanFields: { hand: hand ? String(hand) : "", from: out ? String(out) : "" },
        answer,
        keys: shipmentKeys(view, hand, {
          weigh: (number) => void submit({ intent: "scale", package: String(number) }, { method: "post" }),
          take:
            suggestion?.ok && suggestion.value.boxes.length > 0 && view.state === "open"
              ? () => void submit(suggestedFields(view, suggestion.value, false), { method: "post" })
              : firstAdvice
                ? () => void submit(firstAdvice, { method: "post" })
                : null,
          look: (number) => setDepth(depth === number ? null : number),
          choose: (service) => void navigate(ways.to({ service }), { replace: true, preventScrollReset: true }),
        }),
        words: packingWords(),
      }}
    >
      {change.bar}
      <DragGoods>
        <section className="ship-lines">
          <ShipmentHead view={view} leaves={leaves} people={people} now={chosen?.contract ?? null} />
          <ShipmentLines view={view} hand={hand} editable={editable} />
          {view.toMake ? <PapersToMake papers={view.toMake} orderNumber={view.orderNumber} /> : null}
          {view.lines.length === 0 ? <p>{say(view.toPick > 0 ? "ship.not-picked" : "pick.all-done")}</p> : null}
          {view.bought ? <Receipt view={view} bought={view.bought} /> : null}
          {view.collected ? <AtCollection collected={view.collected} /> : null}
          <ReturnLabels view={view.returns} prices={actionData?.returnPrices ?? null} today={today} />
        </section>
        <section className="ship-boxes" hidden={papersOpen}>
          <CartonsHead
            view={view}
            editable={editable}
            type={wantedType}
            onType={(code) => setTypeByHand({ answer: answerKey, code })}
          />
          <Suggested view={view} suggestion={suggestion} others={others} standings={standings} hold={hold} />
          {editable && view.packages.length > 0 ? (
            <div className="pack-more">
              <Apart view={view} left={left} />
              <ShipmentPapers view={view} />
            </div>
          ) : null}
          <Cartons
            view={view}
            hand={hand}
            editable={editable}
            onHand={(number) => setByMouse({ answer: answerKey, number })}
            looked={looked?.number ?? null}
            onLook={setDepth}
          />
        </section>
      </DragGoods>
      <section className={`ship-rates${stale ? " stale" : ""}${papersOpen ? " whole" : ""}`}>
        {papersOpen && view.toMake ? (
          <PapersPanel papers={view.toMake} orderNumber={view.orderNumber} />
        ) : looked ? (
          <Depth one={looked} lines={view.lines} onClose={() => setDepth(null)} />
        ) : view.offers.length > 0 ? (
          <ShipmentRates view={view} chosen={chosen} ways={ways} stale={stale} today={today} />
        ) : view.bought ? (
          <LabelsPanel view={view} />
        ) : !isWorkedHere(view.stage) ? null : (
          <div>
            <Taken view={view} />
            <p className="note">{say("rate.none")}</p>
          </div>
        )}
        <span className="sr-only">{clock(now, zone)}</span>
      </section>
    </Screen>
  )
}
