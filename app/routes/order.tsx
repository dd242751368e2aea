import { Button } from "@chakra-ui/react"
import { addressLines } from "core/address/index.ts"
import { localDate } from "core/calendar/index.ts"
import { isOnTheLine } from "core/orders/index.ts"
import { data, Form, Link, redirect } from "react-router"
import { may, type Right } from "server/accounts/index.ts"
import { bookForm, saveAddress } from "server/addresses/book.ts"
import { confirmAddress, proposeFor } from "server/addresses/check.ts"
import { addressFlags } from "server/addresses/flags.ts"
import { locate } from "server/addresses/places.ts"
import { type TimelineEntry, timeline } from "server/audit/index.ts"
import { type Work, workContext } from "server/http/context.ts"
import { pickingBegun } from "server/intake/begun.ts"
import { decideChange, pendingChange } from "server/intake/change.ts"
import { recordOf, sourceFromRow } from "server/intake/source.ts"
import { addressForm, changeAddress } from "server/orders/address.ts"
import { cancelByHand } from "server/orders/cancel.ts"
import { type OrderSummary, summaryByBench } from "server/orders/facts.ts"
import { joinedWith, joinOffers, joinOrders, partOrder } from "server/orders/join.ts"
import { mark, marksOf } from "server/orders/marks.ts"
import { partiesOf, partyForm, saveParty } from "server/orders/parties.ts"
import { waivable } from "server/orders/passed.ts"
import { choosePattern } from "server/orders/pattern.ts"
import { changePromise } from "server/orders/promise.ts"
import { checkAgain, holdOrder } from "server/orders/release.ts"
import { makeWhole, partsOf, reroute, splitOver } from "server/orders/reroute.ts"
import { waive } from "server/orders/waive.ts"
import { neededOf, warehouseFits } from "server/orders/warehouses.ts"
import { outsideOrder, outsideWarehouses, recallOutside, sendOutside } from "server/outside/index.ts"
import { shipmentOf } from "server/packing/shipment.ts"
import { patternRows } from "server/rules/book.ts"
import { settledOf } from "server/rules/settleOrder.ts"
import { say, sayReasons } from "../messages/index.ts"
import { Choice } from "../screens/Fields.tsx"
import { Joining, type JoinOfferShown } from "../screens/Joining.tsx"
import { joinOfferShown } from "../screens/joining.server.ts"
import { Marks } from "../screens/Marks.tsx"
import { OrderChange } from "../screens/OrderChange.tsx"
import { OrderStops } from "../screens/OrderStops.tsx"
import { Parties } from "../screens/Parties.tsx"
import { Settled } from "../screens/RuleAnswers.tsx"
import { ShipTo } from "../screens/ShipTo.tsx"
import { settingChoices } from "../screens/settingChoices.server.ts"
import { nameFields, shipToFields } from "../screens/shipToFields.ts"
import { told } from "../screens/story.ts"
import { Where } from "../screens/Where.tsx"
import { clock, shortDay } from "../shell/format.ts"
import { People } from "../shell/People.tsx"
import { Screen } from "../shell/Screen.tsx"
import type { Plate } from "../shell/Sill.tsx"
import { done, followScan, refusal, whereWorkStands } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useShell } from "../shell/useNow.ts"
import { dayOf, withRights } from "../shell/work.ts"
import type { Route } from "./+types/order"

export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  const order = await summaryByBench(work.db, work.warehouse, params.bench)
  if (!order) throw data(null, { status: 404 })
  const row = await work.db("sales_order").where({ id: order.id }).first()
  const lines = await work
    .db("order_line")
    .join("item", "item.id", "order_line.item_id")
    .where({ order_id: order.id })
    .orderBy("line_number")
    .select("line_number", "sku", "description", "ordered")
  const shipment = await shipmentOf(work.db, order.id)
  const ownLines = new Set(shipment?.lines.filter((line) => line.orderId === order.id).map((line) => line.id))
  const story = await timeline(work.db, order.id)
  const source = await work.db("order_source").where({ id: row.source_id }).first()
  const references = await work.db("order_reference").where({ order_id: order.id }).select("name", "value", "printed")
  const day = order.stops.length > 0 ? await dayOf(work) : null
  const stopped = day?.stopped.find((one) => one.id === order.id)
  const report = await work.db("outbox").where({ order_id: order.id }).first("sent_at")
  return {
    id: order.id,
    bench: order.bench,
    customer: order.customer,
    po: order.poNumber,
    source: order.sourceNumber,
    stage: order.stage,
    stops: order.stops.map((reason) => ({
      reason,
      waivable: reason.code in waivable,
      mayPass: waivable[reason.code] ? may(work.actor, (waivable[reason.code] as { right: Right }).right) : false,
      intakeId: (row.intake_id as number | null) ?? null,
    })),
    solveBy: stopped?.solveBy ?? null,
    door: day?.collections.find((one) => one.id === order.collectionId)?.door ?? null,
    change: may(work.actor, "bench.see") ? await pendingChange(work.db, order.id) : null,
    from: source.name as string,
    record: recordOf(sourceFromRow(source), order.sourceNumber, row.record_url),
    references: references.map((one) => ({ name: one.name, value: one.value, printed: !!one.printed })),
    notes: row.notes as string,
    marks: await marksOf(work.db, order.id),
    mayCancel: may(work.actor, "orders.cancel"),
    settled: settledOf(row),
    patternId: (row.pattern_id as number | null) ?? null,
    patterns: (await patternRows(work.db)).map((one) => ({ id: one.id, name: one.name })),
    choices: await settingChoices(work.db),
    promised: order.promisedOn,
    to: may(work.actor, "bench.see") ? whereWorkStands(order) : `/orders/${order.bench}`,
    held: !!row.held_by_hand,
    abroad: row.country !== work.warehouse.country,
    currency: row.currency as string,
    mayRelease: may(work.actor, "orders.release-hold"),
    mayWork: may(work.actor, "orders.work"),
    maySeeBench: may(work.actor, "bench.see"),
    address: {
      version: row.version as number,
      kind: row.address_kind as string,
      ...Object.fromEntries(shipToFields.map((name) => [name, String(row[name] ?? "")])),
    } as Record<string, string | number>,
    kindConfirmed: !!row.kind_confirmed,
    parties: (await partiesOf(work.db, { id: order.id, customer_id: row.customer_id })).map(
      ({ role, by, email, ...address }) => ({
        role,
        by,
        email,
        lines: addressLines({ ...address, kind: "unknown" }),
        fields: Object.fromEntries(
          nameFields.map((name) => [name, name === "postal_code" ? address.postalCode : address[name]]),
        ),
      }),
    ),
    home: work.warehouse.country,
    flags: await addressFlags(work.db, row),
    zone: locate(row.country, row.postal_code).zone,
    lines: lines.map((line) => ({
      number: line.line_number,
      sku: line.sku,
      description: line.description,
      ordered: line.ordered,
    })),
    where: {
      fits: isOnTheLine(order.stage) && may(work.actor, "orders.work") ? await fitsOf(work, order.id, row) : [],
      here: work.warehouse.id,
      parts: (await partsOf(work.db, order.id)).map((one) => ({ ...one, here: one.id === order.id })),
      isPart: row.split_from_id !== null,
      outside: await outsideOrder(work.db, order.id),
      outsides: isOnTheLine(order.stage) ? await outsideWarehouses(work.db) : [],
      begun: (await pickingBegun(work.db, [order.id])).size > 0,
    },
    joined: await joinedWith(work.db, order.id),
    joinOffer: may(work.actor, "bench.see") ? await offerFor(work, order) : null,
    packages: (shipment?.packages ?? [])
      .filter((one) => order.lead === null || one.lineIds.some((id) => ownLines.has(id)))
      .map((one) => ({
        name: `${shipment?.bench}-${one.number}`,
        state: one.state,
        tracking: one.tracking,
        label: may(work.actor, "bench.see") ? one.labelDocumentId : null,
      })),
    report: report ? (report.sent_at ? "sent" : "waits") : null,
    // the sales desk sees what became of an order, not what its shipment cost
    story: may(work.actor, "bench.see") ? story : story.filter(tellsNoCost).map(withoutAmount),
  }
}

/** What the warehouses have of an order, and how far each is. */
async function fitsOf(work: Work, orderId: number, row: { country: string; postal_code: string }) {
  const fits = await warehouseFits(work.db, { ...row, id: orderId }, await neededOf(work.db, orderId))
  return fits.map((fit) => ({ ...fit, missing: fit.missing.map((one) => one.sku) }))
}

/** Whether the order is worth joining with others of its ship-to, as the page shows it. */
async function offerFor(work: Work, order: OrderSummary): Promise<JoinOfferShown | null> {
  if (order.stops.length > 0 || !isOnTheLine(order.stage)) return null
  const [offer] = await joinOffers(work, work.warehouse.id, order.id)
  return offer ? joinOfferShown(offer) : null
}

/** Refused bookings name prices in their reasons. */
const tellsNoCost = (entry: TimelineEntry): boolean => !["buy.refused", "buy.differs"].includes(entry.action)
const withoutAmount = (entry: TimelineEntry): TimelineEntry => ({
  ...entry,
  detail: { ...entry.detail, amount: null },
})

export async function action({ request, params, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  const form = await request.formData()
  const order = await summaryByBench(work.db, work.warehouse, params.bench)
  if (!order) throw data(null, { status: 404 })
  return withRights(async () => {
    switch (form.get("intent")) {
      case "address": {
        const fields = addressForm.safeParse(Object.fromEntries(form))
        if (!fields.success)
          return refusal(
            fields.error.issues.map((issue) => `${say(`order.${String(issue.path[0])}`)}: ${issue.message}`).join("; "),
          )
        const outcome = await changeAddress(work, order.id, fields.data)
        return outcome.ok ? done(say("order.saved")) : refusal(sayReasons(outcome.reasons))
      }
      case "hold":
      case "release":
        await holdOrder(work, order.id, form.get("intent") === "hold")
        return done("")
      case "party": {
        const fields = partyForm.safeParse(Object.fromEntries(form))
        if (!fields.success)
          return refusal([...new Set(fields.error.issues.map((issue) => say(issue.message)))].join(" "))
        const outcome = await saveParty(work, order.id, fields.data)
        return outcome.ok ? done(say("order.saved")) : refusal(sayReasons(outcome.reasons))
      }
      case "propose": {
        const outcome = await proposeFor(work, order.id)
        return outcome.ok ? { ...done(""), proposal: outcome.value } : refusal(sayReasons(outcome.reasons))
      }
      case "confirm": {
        const outcome = await confirmAddress(work, order.id, Number(form.get("version")))
        return outcome.ok ? done(say("ship-to.confirmed")) : refusal(sayReasons(outcome.reasons))
      }
      case "to-book": {
        const row = await work.db("sales_order").where({ id: order.id }).first()
        const fields = bookForm.safeParse({ ...row, customer: order.customer, code: String(form.get("code") ?? "") })
        if (!fields.success) return refusal(fields.error.issues.map((issue) => say(issue.message)).join(" "))
        const outcome = await saveAddress(work, fields.data, null)
        return outcome.ok ? done(say("ship-to.in-book")) : refusal(sayReasons(outcome.reasons))
      }
      case "take-change":
      case "keep-change": {
        const take = form.get("intent") === "take-change"
        const outcome = await decideChange(work, order.id, Number(form.get("change")) || 0, take ? "take" : "keep")
        if (!outcome.ok) return refusal(sayReasons(outcome.reasons))
        const { back } = outcome.value
        return done(
          back.length === 0
            ? say(take ? "change.taken" : "change.kept")
            : say("change.carry", { back: back.map((one) => `${one.quantity} × ${one.sku} → ${one.bin}`).join(", ") }),
        )
      }
      case "pass": {
        const outcome = await waive(work, order.id, String(form.get("code") ?? ""))
        if (!outcome.ok) return refusal(sayReasons(outcome.reasons))
        return outcome.value.length === 0 ? done(say("story.order.stop-ended")) : refusal(sayReasons(outcome.value))
      }
      case "promise": {
        const day = String(form.get("promised_on") ?? "")
        const outcome = await changePromise(work, order.id, day || null, localDate(work.now, work.warehouse.zone))
        return outcome.ok ? done(say("order.promise-saved")) : refusal(sayReasons(outcome.reasons))
      }
      case "tag":
      case "untag":
      case "note":
      case "drop-note": {
        const what = form.get("intent") as "tag" | "untag" | "note" | "drop-note"
        const outcome = await mark(
          work,
          order.id,
          what === "note"
            ? { what, text: String(form.get("note") ?? "") }
            : what === "drop-note"
              ? { what, id: Number(form.get("note")) || 0 }
              : { what, tag: String(form.get("tag") ?? "") },
        )
        return outcome.ok ? done("") : refusal(sayReasons(outcome.reasons))
      }
      case "reroute": {
        const outcome = await reroute(work, order.id, Number(form.get("warehouse")) || 0)
        if (!outcome.ok) return refusal(sayReasons(outcome.reasons))
        throw redirect("/orders")
      }
      case "split": {
        const outcome = await splitOver(work, order.id, Number(form.get("warehouse")) || 0)
        return outcome.ok ? done(say("split.done", outcome.value)) : refusal(sayReasons(outcome.reasons))
      }
      case "whole": {
        const outcome = await makeWhole(work, order.id)
        return outcome.ok ? done(say("split.whole")) : refusal(sayReasons(outcome.reasons))
      }
      case "outside": {
        const outcome = await sendOutside(work, order.id, Number(form.get("warehouse")) || 0)
        return outcome.ok ? done(say("outside.sent")) : refusal(sayReasons(outcome.reasons))
      }
      case "recall": {
        const outcome = await recallOutside(work, order.id)
        return outcome.ok ? done(say("outside.recalled")) : refusal(sayReasons(outcome.reasons))
      }
      case "join": {
        const outcome = await joinOrders(work, form.getAll("order").map(Number).filter(Number.isInteger))
        return outcome.ok
          ? done(say("join.done-one", { lead: outcome.value.lead }))
          : refusal(sayReasons(outcome.reasons))
      }
      case "part": {
        const outcome = await partOrder(work, order.id)
        return outcome.ok ? done(say("join.parted")) : refusal(sayReasons(outcome.reasons))
      }
      case "pattern": {
        const outcome = await choosePattern(work, order.id, Number(form.get("pattern")) || null)
        return outcome.ok ? done(say("order.pattern-done")) : refusal(sayReasons(outcome.reasons))
      }
      case "cancel": {
        const outcome = await cancelByHand(work, order.id)
        return outcome.ok ? done(say("stage.cancelled")) : refusal(sayReasons(outcome.reasons))
      }
      case "check": {
        const reasons = await checkAgain(work, order.id)
        return reasons.length === 0 ? done(say("story.order.stop-ended")) : refusal(sayReasons(reasons))
      }
      default:
        return followScan(work, String(form.get("text") ?? "").slice(0, 120))
    }
  })
}

export const meta: Route.MetaFunction = ({ params }) => [
  { title: `${say("order.title", { bench: params.bench ?? "" })} · ${say("app.name")}` },
]

export default function Order({ loaderData: order, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { zone } = useShell()
  const people = useLive(order.id)
  const proposal = actionData && "proposal" in actionData ? actionData.proposal : null
  return (
    <Screen
      ribbon={{ order: order.id }}
      name="order"
      sill={{ plate: plateOf(order), said: actionData?.said, words: [[say("words.order"), say("words.order.does")]] }}
    >
      <section className="order-left">
        <div className="order-name">
          <h1>{order.bench}</h1>
          <p>
            <b>{order.customer}</b>
            <br />
            {order.po ? say("order.their", { po: order.po }) : null}
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
        {order.change ? <OrderChange change={order.change} mayWork={order.mayWork} /> : null}
        {order.stops.length > 0 ? (
          <OrderStops stops={order.stops} solveBy={order.solveBy} door={order.door} mayWork={order.mayWork} />
        ) : null}
        <h2>{say("order.lines")}</h2>
        <table className="rows tight">
          <tbody>
            {order.lines.map((line) => (
              <tr key={line.number}>
                <td>
                  {line.description}
                  <br />
                  <span className="code">{line.sku}</span>
                </td>
                <td className="figure big">{line.ordered}</td>
              </tr>
            ))}
          </tbody>
        </table>
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
          ) : !isOnTheLine(order.stage) ? null : (
            <OneButton intent="hold" words="order.hold" />
          )}
          {order.mayWork ? <Link to={`/orders/new?copy=${order.bench}`}>{say("order.copy")}</Link> : null}
          {order.mayCancel && isOnTheLine(order.stage) ? <OneButton intent="cancel" words="order.cancel" /> : null}
        </div>
      </section>
      <ShipTo order={order} answered={actionData?.said.key ?? null} proposal={proposal} />
      <section className="order-story">
        <Where where={order.where} mayWork={order.mayWork} />
        <Joining joined={order.joined} offer={order.joinOffer} mayChange={order.mayWork && isOnTheLine(order.stage)} />
        {order.maySeeBench ? <SentWith order={order} /> : null}
        <h2>{say("order.parties")}</h2>
        <Parties parties={order.parties} home={order.home} mayChange={order.mayWork && isOnTheLine(order.stage)} />
        <h2>{say("order.story")}</h2>
        <ol>
          {order.story.map((entry) => (
            <li key={entry.id}>
              <span className="code">{clock(entry.at, zone)}</span> <span>{told(entry)}</span> <em>{entry.actor}</em>
            </li>
          ))}
        </ol>
        {order.report ? (
          <p className={order.report === "waits" ? "ember" : undefined}>{say(`order.report-${order.report}`)}</p>
        ) : null}
      </section>
    </Screen>
  )
}

/** What the order is sent with and who said so; a pattern can be chosen for it. */
function SentWith({ order }: { order: Awaited<ReturnType<typeof loader>> }) {
  return (
    <div className="sent-with">
      <h2>{say("order.sent-with")}</h2>
      <Settled settled={order.settled} choices={order.choices} />
      {Object.keys(order.settled).length === 0 ? <p>{say("order.sent-plain")}</p> : null}
      {order.mayWork && order.patterns.length > 0 && isOnTheLine(order.stage) ? (
        <Form method="post" key={order.patternId}>
          <input type="hidden" name="intent" value="pattern" />
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
        </Form>
      ) : null}
    </div>
  )
}

function OneButton({ intent, words }: { intent: string; words: string }) {
  return (
    <Form method="post">
      <input type="hidden" name="intent" value={intent} />
      <Button type="submit">{say(words)}</Button>
    </Form>
  )
}

function plateOf(order: Awaited<ReturnType<typeof loader>>): Plate {
  if (!order.maySeeBench) return { verb: say("orders.plate-find"), detail: order.customer, ready: true, to: "/orders" }
  if (order.stops.length > 0)
    return {
      verb: say("order.plate.stopped", { bench: order.bench }),
      detail: say("order.plate.stopped-detail"),
      ready: true,
      send: { intent: "check" },
    }
  if (order.to.startsWith("/pick/"))
    return { verb: say("order.plate.pick", { bench: order.bench }), detail: order.customer, ready: true, to: order.to }
  if (order.to.startsWith("/shipment/"))
    return {
      verb: say(order.stage === "labelled" ? "order.title" : "order.plate.pack", { bench: order.bench }),
      detail: order.customer,
      ready: true,
      to: order.to,
    }
  return { verb: say("order.plate.day"), detail: order.customer, ready: true, to: "/" }
}
