import { showMoney } from "core/money/index.ts"
import { Fragment } from "react"
import { Link, useParams } from "react-router"
import { clockTime, shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { sayReason, sayReasons, wordFor } from "words/reasons.ts"
import { isShown, type LedgerWays, sorted } from "./ledger.ts"
import type { OfferView } from "./shipmentView.server.ts"

/**
 * The services with their charges: those in time, those that are late below a line, and those that can't take it with
 * the reasons. The chosen one tells why each charge and its arrival are what they are.
 */
export function RateTable({
  offers,
  chosen,
  today,
  ways,
  paid,
}: {
  offers: readonly OfferView[]
  chosen: string | null
  today: string
  ways: LedgerWays
  /** What the customer paid for freight; null where nothing is known of it. */
  paid: string | null
}) {
  const shown = offers.filter((offer) => isShown(offer, ways, chosen))
  const rated = sorted(
    shown.filter((offer) => offer.contract),
    ways.sort,
  )
  const { orderNumber } = useParams()
  const cannot = shown.filter((offer) => !offer.contract)
  const firstLate = rated.findIndex((offer) => offer.late)
  return (
    <>
      <table className="rates">
        <caption className="sr-only">{say("rate.table")}</caption>
        <thead>
          <tr>
            <th scope="col">
              <span className="sr-only">#</span>
            </th>
            <th scope="col">{say("rate.service")}</th>
            <th scope="col">{say("rate.door")}</th>
            <Sortable name="arrives" ways={ways} />
            {(["base", "fuel", "extra"] as const).map((name) => (
              <th key={name} scope="col" className="figure">
                {say(`rate.${name}`)}
              </th>
            ))}
            <Sortable name="contract" ways={ways} figure />
            <th scope="col" className="figure">
              {say("rate.list")}
            </th>
            <th scope="col" className="figure">
              {say("rate.charge")}
            </th>
          </tr>
        </thead>
        <tbody>
          {rated.map((offer, index) => (
            <Fragment key={offer.code}>
              <OfferRow
                offer={offer}
                chosen={offer.code === chosen}
                ruled={index === firstLate && index > 0}
                today={today}
                to={ways.to({ service: offer.code })}
              />
              {offer.code === chosen ? <Why offer={offer} offers={offers} today={today} paid={paid} /> : null}
            </Fragment>
          ))}
        </tbody>
      </table>
      {cannot.length > 0 ? (
        <details className="cannot" open={rated.length === 0}>
          <summary>{say("rate.cannot-n", { n: cannot.length })}</summary>
          <ul>
            {cannot.map((offer) => (
              <li key={offer.code}>
                <b>{offer.name}</b> {sayReasons(offer.refusals)}{" "}
                {offer.toBook ? (
                  <Link to={`/dock/book?carrier=${offer.carrierCode}&order=${orderNumber ?? ""}`}>
                    {say("hand.book")}
                  </Link>
                ) : null}
              </li>
            ))}
          </ul>
        </details>
      ) : null}
    </>
  )
}

const marginWords = (margin: string): string =>
  say(margin.startsWith("-") ? "rate.adds" : "rate.keeps", { figure: margin.replace("-", "") })

/** How much the first is over the second, with its sign. */
const signedBy = (a: string | undefined, b: string | undefined): string => {
  const cents = Math.round(Number(a ?? 0) * 100) - Math.round(Number(b ?? 0) * 100)
  return `${cents < 0 ? "−" : "+"}${(Math.abs(cents) / 100).toFixed(2)}`
}

/** A heading that sorts by its column. */
function Sortable({
  name,
  ways,
  figure = false,
}: {
  name: "arrives" | "contract"
  ways: LedgerWays
  figure?: boolean
}) {
  return (
    <th scope="col" className={figure ? "figure" : undefined} aria-sort={ways.sort === name ? "ascending" : undefined}>
      <Link
        to={ways.to({ sort: name })}
        replace
        preventScrollReset
        title={say("rate.sort", { name: say(`rate.${name}`) })}
      >
        {say(`rate.${name}`)}
      </Link>
    </th>
  )
}

function OfferRow({
  offer,
  chosen,
  ruled,
  today,
  to,
}: {
  offer: OfferView
  chosen: boolean
  ruled: boolean
  today: string
  to: string
}) {
  const classes = [chosen ? "next" : "", offer.unbeaten && !offer.late ? "" : "beaten", ruled ? "ruled" : ""]
  const theirs = offer.payer !== null
  return (
    <tr className={classes.join(" ")}>
      <td>
        <i className={offer.unbeaten && !offer.late ? "numeral solid" : "numeral"}>{offer.numeral}</i>
      </td>
      <th scope="row">
        {chosen ? (
          offer.name
        ) : (
          <Link to={to} replace preventScrollReset>
            {offer.name}
          </Link>
        )}
        {offer.asked ? <small className="strong"> {say("rate.asked")}</small> : null}
        <Note offer={offer} />
      </th>
      <td>
        <i
          className={offer.leaves === today ? "plate-small" : "plate-small hollow"}
          title={offer.leaves ? say("rate.leaves", { day: shortDay(offer.leaves) }) : ""}
        >
          {offer.door}
        </i>
      </td>
      <td className="sign">
        {offer.arrives ? `${shortDay(offer.arrives.date)}, ${clockTime(offer.arrives.time)}` : ""}
      </td>
      {[offer.base, offer.fuel, offer.extra].map((figure, index) => (
        <td key={index} className="figure">
          {theirs ? "" : figure}
        </td>
      ))}
      <td className="figure strong">{theirs ? "" : offer.contract?.amount}</td>
      <td className="figure">{offer.list?.amount}</td>
      <td className="figure">{offer.charged?.amount}</td>
    </tr>
  )
}

/** What one must know of an offer beside its figures, in the row itself. */
function Note({ offer }: { offer: OfferView }) {
  if (offer.down) return <small className="ember"> {say("rate.down")}</small>
  if (offer.short) return <small className="ember"> {say("rate.short", offer.short)}</small>
  if (offer.needs) return <small> {say(`rate.needs-${offer.needs}`)}</small>
  if (offer.payer) return <small> {say("rate.they-pay", { payer: wordFor("payer", offer.payer) })}</small>
  return null
}

/** Every charge with its rule and figures, and how the arrival was reached. */
function Why({
  offer,
  offers,
  today,
  paid,
}: {
  offer: OfferView
  offers: readonly OfferView[]
  today: string
  paid: string | null
}) {
  const asked = offers.find((one) => one.asked && one.contract && one.code !== offer.code)
  const several = new Set(offer.charges.map((charge) => charge.package)).size > 1
  return (
    <tr className="next why">
      <td />
      <td colSpan={9}>
        <dl>
          {(offer.payer ? [] : offer.charges).map((charge, index) => (
            <div key={index}>
              <dt>{showMoney(charge.amount)}</dt>
              <dd>
                <b>
                  {charge.package !== null && several
                    ? say("rate.of-package", { what: wordFor("charge", charge.code), package: charge.package })
                    : wordFor("charge", charge.code)}
                </b>
                {": "}
                {charge.why.map((one) => sayReason(one, { package: charge.package ?? "" })).join(", ")}
              </dd>
            </div>
          ))}
          {offer.charged ? (
            <div>
              <dt>{offer.charged.amount}</dt>
              <dd>
                <b>{say("rate.charge")}</b>: {offer.charged.why.map((one) => sayReason(one)).join(", ")};{" "}
                {marginWords(offer.charged.margin)}
                {paid === null ? "" : `; ${say("rate.paid", { paid, more: signedBy(paid, offer.contract?.amount) })}`}
              </dd>
            </div>
          ) : null}
          {asked ? (
            <div>
              <dt>{signedBy(asked.contract?.amount, offer.contract?.amount)}</dt>
              <dd>{say("rate.asked-other", { name: asked.name })}</dd>
            </div>
          ) : null}
          {offer.arrives && offer.days ? (
            <div>
              <dt>{shortDay(offer.arrives.date)}</dt>
              <dd>
                {offer.leaves && offer.leaves !== today
                  ? `${say("rate.leaves", { day: shortDay(offer.leaves) })}, `
                  : ""}
                {offer.arrivalWhy.map((one) => sayReason(one)).join(", ")}; {say("rate.arrival-days", offer.days)}
                {offer.onTime
                  ? `; ${say("rate.on-time", offer.onTime)}, ${say("rate.by-then", { day: shortDay(offer.onTime.by) })}`
                  : `; ${say("rate.not-measured")}`}
                {offer.tariff ? `; ${say("rate.tariff", offer.tariff)}` : ""}
              </dd>
            </div>
          ) : null}
        </dl>
      </td>
    </tr>
  )
}
