import { Button } from "@chakra-ui/react"
import { Link } from "react-router"
import { askSchema, book, cancelBooking, changeBooking } from "server/dock/bookings.ts"
import { workContext } from "server/http/context.ts"
import { clock, clockTime, shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { z } from "zod"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { Check, TextField } from "../parts/Fields.tsx"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import type { Plate } from "../shell/Sill.tsx"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useShell } from "../shell/useNow.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/book"
import { BookingState } from "./BookingState.tsx"
import { type BookData, type BookingBrief, bookView } from "./bookView.server.ts"

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const asked = new URL(request.url).searchParams
  return bookView(work, {
    carrier: (asked.get("carrier") ?? "").slice(0, 8),
    collection: Number(asked.get("collection")) || 0,
    order: (asked.get("order") ?? "").slice(0, 12),
    booking: Number(asked.get("booking")) || 0,
    day: asked.get("day"),
  })
}

const asked = askSchema.omit({ takes: true }).extend({ takes: field.tick })

export async function action({ request, context }: Route.ActionArgs) {
  return answerTo(request, context.get(workContext), {
    book: act(
      asked.extend({ carrier: field.text(8), collection: field.id, order: field.id, fee: field.text(12) }),
      (work, { carrier, collection, order, fee, ...ask }, { key }) =>
        book(work, { carrier, collectionId: collection || null, orderId: order || null, ask, fee }, key),
      ({ carrier }) => say("collect.is-asked", { carrier }),
    ),
    change: act(
      asked.extend({ booking: field.id, revision: field.version }),
      (work, { booking, revision, ...ask }) => changeBooking(work, booking, revision, ask),
      ({ carrier }) => say("collect.is-asked", { carrier }),
    ),
    cancel: act(
      z.object({ booking: field.id }),
      (work, { booking }) => cancelBooking(work, booking),
      ({ carrier }) => say("collect.is-cancelled", { carrier }),
    ),
  })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("collect.title")} · ${say("app.name")}` }]

export default function Book({ loaderData: at, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  useLive(null)
  return (
    <Screen
      ribbon={{ door: at.scope.collection?.door }}
      name="book"
      sill={{
        plate: plateOf(at),
        answer: actionData?.answer,
        words: [[say("words.door"), say("words.door.does")]],
      }}
    >
      <div className="place-head">
        <h1>{say("collect.title")}</h1>
      </div>
      <div className="book-body">
        <section>
          <nav className="book-carriers" aria-label={say("collect.carrier")}>
            {at.carriers
              .filter((one) => one.books)
              .map((one) => (
                <Link
                  key={one.code}
                  to={`?carrier=${one.code}`}
                  aria-current={one.code === at.carrier?.code ? "page" : undefined}
                >
                  {one.name}
                </Link>
              ))}
          </nav>
          {at.carrier ? <AskForm at={at} carrier={at.carrier} key={formKey(at)} /> : null}
        </section>
        <section>
          <h2>{say("collect.list")}</h2>
          {at.bookings.length === 0 ? (
            <p>{say("collect.list-none")}</p>
          ) : (
            <ul className="booking-list">
              {at.bookings.map((one) => (
                <BookingRow key={one.id} one={one} />
              ))}
            </ul>
          )}
        </section>
      </div>
    </Screen>
  )
}

const formKey = ({ carrier, change, scope, bookings }: BookData): string =>
  [carrier?.code, change?.id, change?.revision, scope.collection?.id, scope.order?.id, bookings.length].join(" ")

const feeWords = (fee: string, currency: string): string => (currency === "USD" ? `$${fee}` : `${fee} ${currency}`)

function plateOf({ carrier, change, scope }: BookData): Plate {
  if (!carrier) return { verb: say("collect.title"), detail: "", ready: false }
  if (change) return { verb: say("collect.save-change"), detail: change.number, ready: true, form: "collect-form" }
  const verb = say("collect.plate", { carrier: carrier.name })
  if (!carrier.terms) return { verb, detail: say("collect.plate-none"), ready: false }
  if (scope.booked) return { verb, detail: scope.booked, ready: false }
  const detail =
    Number(carrier.fee) > 0
      ? say("collect.plate-detail", { fee: feeWords(carrier.fee, carrier.currency) })
      : say("collect.plate-free")
  return { verb, detail, ready: true, form: "collect-form" }
}

/** What a carrier is asked for. */
function AskForm({ at, carrier }: { at: BookData; carrier: NonNullable<BookData["carrier"]> }) {
  const { zone } = useShell()
  const { scope, change } = at
  const first = change
    ? { ...change.ask, pieces: String(change.ask.pieces), pallets: String(change.ask.pallets) }
    : at.first
  if (!first) return null
  if (!carrier.terms) return <p>{say("collect.none")}</p>
  if (scope.booked && !change) return <p>{scope.booked}</p>
  const { terms } = carrier
  return (
    <>
      {change ? (
        <h2>{say("collect.change-title", { carrier: carrier.name })}</h2>
      ) : carrier.regular.length > 0 && !scope.collection ? (
        <p className="note">
          {say("collect.regular", {
            carrier: carrier.name,
            trucks: carrier.regular
              .map((one) => say("collect.regular-one", { door: one.door, time: one.at }))
              .join(", "),
          })}
        </p>
      ) : null}
      <p className="note">
        {say("collect.rules", {
          from: clockTime(terms.from),
          to: clockTime(terms.to),
          minutes: Math.max(1, terms.window),
          until: terms.until === null ? "none" : clockTime(terms.until),
        })}
      </p>
      <ActForm
        intent={change ? "change" : "book"}
        id="collect-form"
        className="book-form"
        sends={
          change
            ? { booking: change.id, revision: change.revision }
            : {
                carrier: carrier.code,
                collection: scope.collection?.id ?? 0,
                order: scope.order?.id ?? 0,
                fee: carrier.fee,
                key: at.key,
              }
        }
      >
        <p className="book-for">
          {scope.order
            ? say("collect.for-order", { order: scope.order.orderNumber })
            : scope.collection
              ? say("collect.for-door", { door: scope.collection.door, time: clock(scope.collection.cutOff, zone) })
              : say("collect.for-all")}
        </p>
        <TextField name="day" label="collect.day" type="date" value={first.day} needed />
        <TextField name="ready" label="collect.ready" type="time" value={first.ready} needed />
        <TextField name="latest" label="collect.latest" type="time" value={first.latest} needed />
        <TextField name="door" label="collect.door-field" value={first.door} mode="numeric" most={3} needed />
        <TextField name="pieces" label="collect.pieces-field" value={first.pieces} mode="numeric" most={4} needed />
        <TextField name="pallets" label="collect.pallets-field" value={first.pallets} mode="numeric" most={3} />
        <TextField name="weight" label="collect.weight-field" value={first.weight} mode="decimal" most={9} needed />
        <TextField name="place" label="collect.place" value={first.place} most={60} />
        <TextField name="contact" label="collect.contact" value={first.contact} most={60} needed />
        <TextField name="phone" label="collect.phone" value={first.phone} most={24} />
        <TextField name="instructions" label="collect.instructions" value={first.instructions} most={200} />
        <TextField name="tell" label="collect.tell-field" value={first.tell} most={300} note="collect.tell-note" />
        <Check name="takes" label={scope.order ? "collect.takes-order" : "collect.takes"} on={true} />
        <Button type="submit">{say(change ? "collect.save-change" : "collect.send")}</Button>
      </ActForm>
    </>
  )
}

function BookingRow({ one }: { one: BookingBrief }) {
  return (
    <li>
      <b>{one.carrier}</b>{" "}
      {one.collectionId ? (
        <Link to={`/dock/${one.collectionId}`} className="code">
          {one.number || say("collect.to-door", { door: one.ask.door })}
        </Link>
      ) : (
        <span className="code">{one.number}</span>
      )}
      <br />
      {shortDay(one.ask.day)}, {clockTime(one.ask.ready)}–{clockTime(one.ask.latest)},{" "}
      {say("collect.at-door", { door: one.ask.door })}
      <br />
      {say("collect.what-text", { pieces: one.ask.pieces, lb: one.ask.weight, pallets: one.ask.pallets })}
      {Number(one.fee) > 0 ? `, ${feeWords(one.fee, one.currency)}` : ""}
      <br />
      <BookingState one={one} />
      <p className="booking-acts">
        {one.number ? <a href={`/dock/bookings/${one.id}.ics`}>{say("collect.calendar")}</a> : null}
        {one.state === "booked" ? <Link to={`?booking=${one.id}`}>{say("collect.change")}</Link> : null}
      </p>
      {one.state === "booked" || one.state === "asking" ? (
        <Act intent="cancel" sends={{ booking: one.id }}>
          <button
            type="submit"
            className="as-link"
            aria-label={`${say("collect.cancel")} ${one.number || one.carrier}`}
          >
            {say("collect.cancel")}
          </button>
        </Act>
      ) : null}
    </li>
  )
}
