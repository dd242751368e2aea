import { Button, NativeSelect } from "@chakra-ui/react"
import { type MoneyText, showMoney } from "core/money/index.ts"
import { isWorkedHere } from "core/orders/index.ts"
import { useState } from "react"
import { data, Link, redirect, useNavigate, useSearchParams, useSubmit } from "react-router"
import { workContext } from "server/http/context.ts"
import { summaryByNumber } from "server/orders/facts.ts"
import { clock, purchaseOrder, shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { sayReason, sayReasons, sayTrouble, wordFor } from "words/reasons.ts"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { MarksShown } from "../parts/Marks.tsx"
import { answerTo } from "../shell/acts.server.ts"
import { People } from "../shell/People.tsx"
import { Screen } from "../shell/Screen.tsx"
import type { Understood } from "../shell/Sill.tsx"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useNow, useShell } from "../shell/useNow.ts"
import { allow, dayOf, withRights } from "../shell/work.ts"
import type { Route } from "./+types/shipment"
import { Apart, ShipmentPapers } from "./Apart.tsx"
import { Cartons } from "./Cartons.tsx"
import { Depth } from "./Depth.tsx"
import { DragGoods, LineGrip } from "./DragGoods.tsx"
import { ledgerWays } from "./ledger.ts"
import { inHandOf, inWords, kindOf, meaning } from "./packingMeaning.ts"
import { ShipDate } from "./ShipDate.tsx"
import { ShipmentRates } from "./ShipmentRates.tsx"
import { Suggested, suggestedFields } from "./Suggested.tsx"
import { cheapest, fastest } from "./serviceChoice.ts"
import { type ShipmentAnswer, shipmentActs, shipmentScan } from "./shipmentActions.server.ts"
import { freshPlate, movingPlate, shipmentPlate, suggestedPlate } from "./shipmentPlate.ts"
import { type ShipmentView, shipmentView } from "./shipmentView.server.ts"
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

/** The truck that it leaves with: by the hours left today, by day and time later on. */
function leavesInWords(
  leaves: { readonly door: string; readonly onDate: string; readonly cutOff: Date; readonly closed: boolean } | null,
  now: Date,
  today: string,
  zone: string,
): string {
  if (!leaves) return say("ship.no-door")
  if (leaves.closed) return say("stage.gone")
  if (leaves.onDate !== today)
    return say("ship.door-on", { door: leaves.door, day: shortDay(leaves.onDate), time: clock(leaves.cutOff, zone) })
  const until = Math.max(0, Math.floor((leaves.cutOff.getTime() - now.getTime()) / 60_000))
  const time = until < 60 ? `${until} min` : `${Math.floor(until / 60)} h ${String(until % 60).padStart(2, "0")}`
  return say("ship.door-in", { door: leaves.door, time })
}

/** What the orders were joined for, and what has become of it: said aloud where they would cost less apart. */
function JoinedFor({
  for_: { apart, together },
  now,
}: {
  for_: { readonly apart: MoneyText; readonly together: MoneyText }
  now: MoneyText | null
}) {
  const words = say("combine.for", { together: showMoney(together), apart: showMoney(apart) })
  if (!now) return <small>{words}</small>
  const dearer = Number(now.amount) > Number(apart.amount)
  return (
    <small className={dearer ? "ember" : undefined}>
      {words}, {say(dearer ? "combine.now-dearer" : "combine.now-costs", { now: showMoney(now) })}
    </small>
  )
}

/** The parts that an order was shipped in, and the way back to one as long as no label was bought. */
function Parts({ view }: { view: ShipmentView }) {
  return (
    <div className="joined">
      {say("split.parts", { n: view.parts.length })}{" "}
      {view.parts.map((one) =>
        one.orderNumber === view.orderNumber || one.warehouse ? (
          <b key={one.orderNumber}>
            {one.orderNumber} {one.warehouse}
          </b>
        ) : (
          <Link key={one.orderNumber} to={`/shipment/${one.orderNumber}`}>
            {one.orderNumber}
          </Link>
        ),
      )}{" "}
      {view.state === "open" ? (
        <Act intent="whole" className="in-line">
          <Button type="submit">{say("split.make-whole")}</Button>
        </Act>
      ) : null}
    </div>
  )
}

/** The packages of a shipment with pallets, in words. */
const packagesName = (view: ShipmentView) => {
  return view.packages.every((one) => one.kind === "pallet" || one.on !== null) ? "ship.pallets" : "ship.packages"
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
  const { outcome: suggestion, working } = useSuggestion(view.toSuggest)
  const [depth, setDepth] = useState<number | null>(null)
  const looked = view.packages.find((one) => one.number === depth && one.inside) ?? null
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
  const stale = useStale(chosen?.cutOff ?? null, now)
  const understand = (text: string): Understood | null => {
    const meant = view.state === "open" ? meaning(view, text, hand, out) : null
    if (!meant) return null
    if (meant.kind === "refused") return { fits: false, words: sayReason(meant.why) }
    return { fits: true, words: inWords(view, meant) }
  }
  const answer =
    actionData?.answer.refused || !view.trouble
      ? actionData?.answer
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
  /** Single keys of the numeric pad: `.` weighs what is in hand, `*` takes the suggestion, `+` looks into the carton, `-` chooses the cheapest service and `/` the fastest. */
  const dayKeys = () => {
    const keys: Record<string, () => void> = {}
    if (editable && hand && view.scales.length > 0)
      keys.NumpadDecimal = () => void submit({ intent: "scale", package: String(hand) }, { method: "post" })
    if (view.state === "open" && suggestion?.ok && suggestion.value.boxes.length > 0)
      keys.NumpadMultiply = () => void submit(suggestedFields(view, suggestion.value, false), { method: "post" })
    if (hand) keys.NumpadAdd = () => setDepth(depth === hand ? null : hand)
    const choose = (offer: { code: string } | null) => {
      if (offer) void navigate(ways.to({ service: offer.code }), { replace: true, preventScrollReset: true })
    }
    if (view.offers.length > 0) {
      keys.NumpadSubtract = () => choose(cheapest(view.offers))
      keys.NumpadDivide = () => choose(fastest(view.offers))
    }
    return keys
  }
  return (
    <Screen
      ribbon={{ order: view.orderId, door: leaves?.door }}
      name="shipment"
      sill={{
        plate:
          hand !== null && out !== null
            ? movingPlate(hand, out)
            : freshPlate(
                shipmentPlate(view, hand, left, chosen, next, suggestedPlate(view, suggestion, working)),
                stale,
              ),
        understand,
        scanFields: { hand: hand ? String(hand) : "", from: out ? String(out) : "" },
        answer,
        keys: dayKeys(),
        words: [
          [say("words.item"), say("words.item.does.pack")],
          [say("words.line"), say("words.line.does")],
          [say("words.carton"), say("words.carton.does")],
          [say("words.weight"), say("words.weight.does")],
          [say("words.fill"), say("words.fill.does")],
          [say("words.hand"), say("words.hand.does")],
          [say("words.from"), say("words.from.does")],
          [say("words.out"), say("words.out.does")],
          [say("words.scale"), say("words.scale.does")],
          [say("words.count"), say("words.count.does")],
          [say("words.cheapest"), say("words.cheapest.does")],
          [say("words.fastest"), say("words.fastest.does")],
          [say("words.order"), say("words.order.does")],
        ],
      }}
    >
      <DragGoods>
        <section className="ship-lines">
          <div className="order-name">
            <h1>{view.orderNumber}</h1>
            <p>
              <b>{view.customer}</b>
              <br />
              {view.shipTo.length > 0
                ? view.shipTo.map((one) => (
                    <span key={one}>
                      {one}
                      <br />
                    </span>
                  ))
                : view.place}
              {view.poNumber ? say("order.their", { po: purchaseOrder(view.poNumber) }) : ""}
            </p>
          </div>
          <p className="order-promise">
            {view.promisedOn ? say("ship.promised") : say("order.no-promise")}{" "}
            <b>{view.promisedOn ? shortDay(view.promisedOn) : ""}</b>
            <span>
              {isWorkedHere(view.stage) ? leavesInWords(leaves, now, today, zone) : say(`stage.${view.stage}`)}
            </span>
          </p>
          <ShipDate view={view} onDate={leaves?.onDate ?? null} />
          <People names={people} />
          {view.members.length > 1 ? (
            <p className="joined">
              {say("combine.shipment", { n: view.members.length })}{" "}
              {view.members.map((one) => (
                <Link key={one.orderNumber} to={`/orders/${one.orderNumber}`}>
                  {one.orderNumber}
                </Link>
              ))}
              {view.joinedFor ? <JoinedFor for_={view.joinedFor} now={chosen?.contract ?? null} /> : null}
            </p>
          ) : null}
          {view.parts.length > 1 ? <Parts view={view} /> : null}
          {view.abroad ? <p className="terms">{say("ship.terms", { ...view.terms })}</p> : null}
          <MarksShown marks={view.marks} notes={view.notes} />
          {view.stopped.length > 0 ? <p className="ember">{sayReasons(view.stopped)}</p> : null}
          <table className="ship-table">
            <thead>
              <tr>
                <th scope="col">
                  <span className="sr-only">{say("pick.line")}</span>
                </th>
                <th scope="col">
                  <span className="sr-only">{say("pick.item")}</span>
                </th>
                {(["ord", "pick", "pack"] as const).map((name) => (
                  <th key={name} scope="col" className="figure">
                    {say(`ship.${name}`)}
                  </th>
                ))}
                <th scope="col">
                  <span className="sr-only">{say("ship.put-all")}</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {view.lines.map((line) => (
                <tr key={line.id} className={line.packed >= line.ordered ? "pale" : undefined}>
                  <th scope="row">{line.letter}</th>
                  <td>
                    {editable && line.picked > line.packed ? (
                      <LineGrip line={line.id} letter={line.letter} quantity={line.picked - line.packed}>
                        {line.description}
                      </LineGrip>
                    ) : (
                      line.description
                    )}
                    <br />
                    <span className="code">
                      {line.order ? `${line.order} ` : ""}
                      {line.bins.join(" ")}{" "}
                      {line.lots.length > 0 ? say("pick.lot", { lot: line.lots.join(" ") }) : line.sku}
                    </span>
                  </td>
                  <td className="figure big">{line.ordered}</td>
                  <td className="figure big">{line.picked}</td>
                  <td className="figure big">{line.packed}</td>
                  <td className="acts">
                    {editable && hand && line.picked > line.packed ? (
                      <Act intent="put" sends={{ package: hand, line: line.id }}>
                        <Button
                          type="submit"
                          name="quantity"
                          value="1"
                          px="6px"
                          aria-label={say("ship.put-one-label", {
                            line: line.letter,
                            n: hand,
                            kind: kindOf(view, hand),
                          })}
                        >
                          {say("ship.put-one")}
                        </Button>
                        <Button
                          type="submit"
                          name="quantity"
                          value={line.picked - line.packed}
                          px="6px"
                          aria-label={say("ship.put-all-label", {
                            line: line.letter,
                            n: hand,
                            kind: kindOf(view, hand),
                          })}
                        >
                          {say("ship.put-all")}
                        </Button>
                      </Act>
                    ) : null}
                    {line.picked > line.packed && line.ownCarton && view.state === "open" ? (
                      <Act intent="own-cartons" sends={{ key: view.key, line: line.id }}>
                        <Button
                          type="submit"
                          px="6px"
                          aria-label={say("packing.own-cartons-label", { line: line.letter })}
                        >
                          {say("packing.own-cartons")}
                        </Button>
                      </Act>
                    ) : null}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {view.lines.length === 0 ? <p>{say(view.toPick > 0 ? "ship.not-picked" : "pick.all-done")}</p> : null}
          {view.bought ? (
            <div className="receipt">
              <h2>{say("rate.bought", { service: view.bought.service, amount: showMoney(view.bought.amount) })}</h2>
              <p className="code">{view.bought.tracking}</p>
              <p>
                {say("ship.plate.dock-detail", { tracking: "", n: view.pieces, printed: view.printed }).replace(
                  /^: /,
                  "",
                )}
              </p>
              {view.printTrouble ? (
                <p className="ember">{say("papers.trouble", { trouble: sayTrouble(view.printTrouble) })}</p>
              ) : null}
              <ul>
                {view.packages.map((one) =>
                  one.label ? (
                    <li key={one.id}>
                      <a href={`/papers/${one.label}.pdf`}>{one.name}</a>
                    </li>
                  ) : null,
                )}
                {view.bought.papers.map((one) => (
                  <li key={one.id}>
                    <a href={`/papers/${one.id}.pdf`}>
                      {wordFor("papers.kind", one.kind)} {one.name}
                    </a>
                  </li>
                ))}
              </ul>
              {view.state === "bought" && view.bought.mayVoid ? (
                <Act intent="void">
                  <Button type="submit">{say("ship.void", { amount: showMoney(view.bought.amount) })}</Button>{" "}
                  <small>{say("ship.void-until", { n: view.bought.voidHours })}</small>
                </Act>
              ) : null}
            </div>
          ) : null}
        </section>
        <section className="ship-boxes">
          <header>
            <h2>
              {view.pieces === 0
                ? say("ship.no-cartons")
                : view.packages.some((one) => one.kind === "pallet")
                  ? say(packagesName(view), { n: view.pieces })
                  : say("ship.cartons", { n: view.pieces })}
            </h2>
            {view.state === "open" &&
            (editable || view.packages.length === 0) &&
            view.toPick === 0 &&
            isWorkedHere(view.stage) ? (
              <ActForm intent="add" sends={{ key: view.key }} className="new-carton">
                <label htmlFor="packaging">{say("ship.new")}</label>
                <NativeSelect.Root width="280px">
                  <NativeSelect.Field
                    id="packaging"
                    name="packaging"
                    value={wantedType}
                    onChange={(event) => setTypeByHand({ answer: answerKey, code: event.currentTarget.value })}
                  >
                    {view.catalogue.map((type) => (
                      <option key={type.code} value={type.code}>
                        {type.code} {type.name} {type.size}
                        {type.low === null ? "" : `, ${say("packing.low", { n: type.low })}`}
                      </option>
                    ))}
                  </NativeSelect.Field>
                  <NativeSelect.Indicator />
                </NativeSelect.Root>
                <label className="check">
                  <input type="checkbox" name="fill" value="yes" /> {say("ship.fill")}
                </label>
                <Button type="submit">{say("ship.add")}</Button>
              </ActForm>
            ) : null}
            {editable &&
            view.packages.some((one) => one.kind !== "pallet" && one.on === null && one.contents.length > 0) ? (
              <Act intent="palletise">
                <Button type="submit">{say("ship.palletise")}</Button>
              </Act>
            ) : null}
            {editable ? null : <ShipmentPapers view={view} />}
            {view.state === "open" && !editable && view.packages.length > 0 ? (
              <Act intent="reopen">
                <Button type="submit">{say("ship.reopen")}</Button>
              </Act>
            ) : null}
            {view.state === "buying" && !view.givingUp ? (
              <Act intent="give-up">
                <Button type="submit">{say("ship.give-up")}</Button>
              </Act>
            ) : null}
          </header>
          <Suggested view={view} suggestion={suggestion} />
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
      <section className={stale ? "ship-rates stale" : "ship-rates"}>
        {looked ? (
          <Depth one={looked} lines={view.lines} onClose={() => setDepth(null)} />
        ) : view.offers.length > 0 ? (
          <ShipmentRates view={view} chosen={chosen} ways={ways} stale={stale} today={today} />
        ) : view.bought || !isWorkedHere(view.stage) ? null : (
          <p className="note">{say("rate.none")}</p>
        )}
        <span className="sr-only">{clock(now, zone)}</span>
      </section>
    </Screen>
  )
}
