import { Button } from "@chakra-ui/react"
import { isOnTheLine } from "core/orders/index.ts"
import { data, Link } from "react-router"
import { workContext } from "server/http/context.ts"
import { summaryByNumber } from "server/orders/facts.ts"
import { clock, purchaseOrder, shortDay } from "words/format.ts"
import { type MessageKey, say } from "words/index.ts"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { useChangeOne } from "../parts/ChangeOne.tsx"
import { Choice } from "../parts/Fields.tsx"
import { Marks } from "../parts/Marks.tsx"
import { OwnPapers } from "../parts/OwnPapers.tsx"
import { takeOwnPaper } from "../parts/ownPapers.server.ts"
import { ReturnLabels } from "../parts/ReturnLabels.tsx"
import { Settled } from "../parts/RuleAnswers.tsx"
import type { ReturnsAnswer } from "../parts/returns.server.ts"
import { sayEntry } from "../parts/story.ts"
import { answerTo } from "../shell/acts.server.ts"
import { People } from "../shell/People.tsx"
import { Screen } from "../shell/Screen.tsx"
import type { Plate } from "../shell/Sill.tsx"
import { useKept, useLatest } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useShell } from "../shell/useNow.ts"
import type { Route } from "./+types/order"
import { Elsewhere } from "./Elsewhere.tsx"
import { Freight } from "./Freight.tsx"
import { HandOver } from "./HandOver.tsx"
import { Joining, Leaves } from "./JoinOffers.tsx"
import { OnTheWay } from "./OnTheWay.tsx"
import { OrderChange } from "./OrderChange.tsx"
import { OrderLines } from "./OrderLines.tsx"
import { OrderStops } from "./OrderStops.tsx"
import { orderActs } from "./orderActions.server.ts"
import { orderView } from "./orderView.server.ts"
import { Parties } from "./Parties.tsx"
import { ShipTo } from "./ShipTo.tsx"
import { TellCustomer } from "./TellCustomer.tsx"
import { Where } from "./Where.tsx"

export async function loader({ params, context }: Route.LoaderArgs) {
  const view = await orderView(context.get(workContext), params.orderNumber)
  if (!view) throw data(null, { status: 404 })
  return view
}

export async function action({ request, params, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  const order = await summaryByNumber(work.db, work.warehouse, params.orderNumber)
  if (!order) throw data(null, { status: 404 })
  const upload = takeOwnPaper(work, "order")
  return answerTo(request, work, orderActs(work, order), {
    upload: (file, name) => upload(file, name, { id: String(order.id) }),
  })
}

export const meta: Route.MetaFunction = ({ params }) => [
  { title: `${say("order.title", { orderNumber: params.orderNumber ?? "" })} · ${say("app.name")}` },
]

export default function Order({ loaderData: order, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { zone, today } = useShell()
  const people = useLive(order.id)
  const change = useChangeOne(order.id, order.mayWork)
  const answer = useLatest(actionData?.answer ?? null, change.answer)
  const proposal = actionData && "proposal" in actionData ? actionData.proposal : null
  return (
    <Screen
      ribbon={{ order: order.id }}
      name="order"
      sill={{
        plate: plateOf(order),
        answer,
        understand: change.understand,
        does: change.does,
        words: [
          [say("words.order"), say("words.order.does")],
          [say("words.field"), say("words.field.does")],
        ],
      }}
    >
      {change.bar}
      <section className="order-left">
        <div className="order-name">
          <h1>{order.orderNumber}</h1>
          <p>
            <b>{order.customer}</b>
            <br />
            {order.po ? say("order.their", { po: purchaseOrder(order.po) }) : null}
            <br />
            {order.record ? (
              <a href={order.record} className="code" rel="noreferrer" target="_blank">
                {order.source}
              </a>
            ) : (
              <span className="code">{order.source}</span>
            )}{" "}
            {order.from}
          </p>
        </div>
        <p className="order-promise">
          {order.promised ? `${say("order.promised")} ` : say("order.no-promise")}
          <b>{order.promised ? shortDay(order.promised) : ""}</b>{" "}
          <span>{order.stops.length > 0 ? say("stage.part-stopped") : say(`stage.${order.stage}`)}</span>
        </p>
        {order.plan ? (
          <p className="order-plan">
            {order.plan.leaves ? (
              <>
                {say("plan.leaves")} <Leaves at={order.plan.leaves} />
                {order.plan.service
                  ? ` ${say(order.plan.by === "chosen" ? "plan.by-chosen" : "plan.by", { service: order.plan.service })}`
                  : ""}
              </>
            ) : (
              say("plan.none")
            )}
            {order.plan.must ? (
              <>
                {"; "}
                {say("plan.must")} <Leaves at={order.plan.must} />
              </>
            ) : null}
            {`; ${say("plan.minutes", { n: order.plan.minutes })}`}
          </p>
        ) : null}
        {order.references.length > 0 ? (
          <p className="order-references">
            {order.references.map((one) => (
              <span key={one.name}>
                {one.name}: <b>{one.value}</b>
                {one.printed ? "" : ` (${say("order.not-printed")})`}
              </span>
            ))}
          </p>
        ) : null}
        <Marks marks={order.marks} notes={order.notes} mayChange={order.mayWork} />
        <People names={people} />
        {order.change ? (
          <OrderChange change={order.change} mayWork={order.mayWork} labelled={order.stage === "labelled"} />
        ) : null}
        {order.stops.length > 0 ? (
          <OrderStops
            orderNumber={order.orderNumber}
            stops={order.stops}
            solveBy={order.solveBy}
            door={order.door}
            mayWork={order.mayWork}
          />
        ) : null}
        <OrderLines order={order} answered={actionData?.answer.key ?? null} />
        {order.packages.length > 0 ? (
          <>
            <h2>{say("order.packages")}</h2>
            <ul className="order-packages">
              {order.packages.map((one) => (
                <li key={one.name}>
                  <b>{one.name}</b> {say(`package.${one.state}`)}{" "}
                  {one.tracking ? <span className="code">{one.tracking}</span> : null}{" "}
                  {one.label ? <a href={`/papers/${one.label}.pdf`}>{say("papers.view")}</a> : null}
                </li>
              ))}
            </ul>
          </>
        ) : null}
        <div className="order-hold">
          {!order.mayWork ? null : order.held ? (
            order.mayRelease ? (
              <OneButton intent="release" words="order.release" />
            ) : null
          ) : !isOnTheLine(order.stage) && order.stage !== "labelled" ? null : (
            <OneButton intent="hold" words="order.hold" />
          )}
          {order.mayWork ? <Link to={`/orders/new?copy=${order.orderNumber}`}>{say("order.copy")}</Link> : null}
          {order.mayCancel && isOnTheLine(order.stage) ? <OneButton intent="cancel" words="order.cancel" /> : null}
          {order.mayCancel && order.stage === "labelled" ? (
            <OneButton intent="void-cancel" words="change.void-cancel" />
          ) : null}
        </div>
      </section>
      <ShipTo order={order} answered={actionData?.answer.key ?? null} proposal={proposal} />
      <section className="order-story">
        <Where where={order.where} mayWork={order.mayWork} />
        <OnTheWay units={order.tracked} orderNumber={order.orderNumber} mayWork={order.mayWork} />
        <HandOver handed={order.handed} ready={order.mayWork && order.stage === "packed"} />
        <Elsewhere
          mayRecord={order.mayWork && isOnTheLine(order.stage)}
          today={today}
          carriers={order.carriersElsewhere}
        />
        <Joining joined={order.joined} offer={order.joinOffer} mayChange={order.mayWork && isOnTheLine(order.stage)} />
        {order.seesFloor ? <SentWith order={order} /> : null}
        <Freight of={order} />
        <TellCustomer
          telling={order.telling}
          mayWork={order.mayWork}
          ready={order.stage === "packed" || order.stage === "labelled"}
        />
        <h2>{say("order.parties")}</h2>
        <Parties parties={order.parties} home={order.home} mayChange={order.mayWork && isOnTheLine(order.stage)} />
        <ReturnLabels
          view={order.returns}
          prices={(actionData as ReturnsAnswer | undefined)?.returnPrices ?? null}
          today={today}
        />
        <OwnPapers owner="order" id={order.id} papers={order.ownPapers} mayChange={order.mayWork} />
        <h2>{say("order.story")}</h2>
        <ol>
          {order.story.map((entry) => (
            <li key={entry.id}>
              <span className="code">{clock(entry.at, zone)}</span> <span>{sayEntry(entry)}</span>{" "}
              <em>{entry.actor}</em>
            </li>
          ))}
        </ol>
        {order.report ? (
          <p className={order.report === "sent" ? undefined : "ember"}>
            {order.seesFloor ? (
              <Link to={`/orders/reports?find=${order.orderNumber}`}>{say(`order.report-${order.report}`)}</Link>
            ) : (
              say(`order.report-${order.report}`)
            )}
          </p>
        ) : null}
        {order.messages ? (
          <p className={order.messages.refused > 0 ? "ember" : undefined}>
            <Link to={`/dock/messages?find=${order.messages.order}`}>{say("order.messages", order.messages)}</Link>
          </p>
        ) : null}
      </section>
    </Screen>
  )
}

/** What the order is sent with and who said so; a pattern can be chosen for it. */
function SentWith({ order }: { order: Awaited<ReturnType<typeof loader>> }) {
  // the service stands beside the truck above; here only where a rule or an instruction is why
  const { service, ...others } = order.settled
  const settled = service && (!order.plan || order.plan.by === "settled") ? order.settled : others
  return (
    <div className="sent-with">
      <h2>{say("order.sent-with")}</h2>
      <Settled settled={settled} choices={order.choices} />
      {order.sent ? (
        <p>
          <b>{order.sent.service}</b>
          {order.sent.arrivesOn ? `, ${say("order.sent-arrives", { day: shortDay(order.sent.arrivesOn) })}` : ""}
        </p>
      ) : Object.keys(settled).length === 0 ? (
        <p>{say("order.sent-plain")}</p>
      ) : null}
      {order.mayWork && isOnTheLine(order.stage) ? (
        <ActForm intent="priority" key={`p ${order.priority}`}>
          <Choice
            name="priority"
            label="order.priority"
            value={String(order.priority)}
            options={(["2", "1", "0", "-1"] as const).map((value) => ({ value, text: say(`order.priority.${value}`) }))}
          />
          <Button type="submit">{say("order.priority-save")}</Button>
        </ActForm>
      ) : null}
      {order.mayWork && order.patterns.length > 0 && isOnTheLine(order.stage) ? (
        <ActForm intent="pattern" key={order.patternId}>
          <Choice
            name="pattern"
            label="order.pattern"
            value={String(order.patternId ?? "")}
            options={[
              { value: "", text: say("order.pattern-none") },
              ...order.patterns.map((one) => ({ value: String(one.id), text: one.name })),
            ]}
          />
          <Button type="submit">{say("order.pattern-do")}</Button>
        </ActForm>
      ) : null}
    </div>
  )
}

function OneButton({ intent, words }: { intent: string; words: MessageKey }) {
  return (
    <Act intent={intent}>
      <Button type="submit">{say(words)}</Button>
    </Act>
  )
}

function plateOf(order: Awaited<ReturnType<typeof loader>>): Plate {
  if (!order.seesFloor) return { verb: say("orders.plate-find"), detail: order.customer, ready: true, to: "/orders" }
  if (order.change?.kind === "cancelled" && order.stage === "labelled" && order.mayWork)
    return {
      verb: say("order.plate.void", { orderNumber: order.orderNumber }),
      detail: say("order.plate.void-detail"),
      ready: true,
      send: { intent: "void-cancel" },
    }
  if (order.stops.length > 0)
    return {
      verb: say("order.plate.stopped", { orderNumber: order.orderNumber }),
      detail: say("order.plate.stopped-detail"),
      ready: true,
      send: { intent: "check" },
    }
  if (order.to.startsWith("/pick/"))
    return {
      verb: say("order.plate.pick", { orderNumber: order.orderNumber }),
      detail: order.customer,
      ready: true,
      to: order.to,
    }
  if (order.to.startsWith("/shipment/"))
    return {
      verb: say(order.stage === "labelled" ? "order.title" : "order.plate.pack", { orderNumber: order.orderNumber }),
      detail: order.customer,
      ready: true,
      to: order.to,
    }
  return { verb: say("order.plate.day"), detail: order.customer, ready: true, to: "/" }
}
