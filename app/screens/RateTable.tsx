import { showMoney } from "core/money/index.ts"
import { Fragment } from "react"
import { Link } from "react-router"
import { say, sayReason, sayReasons } from "../messages/index.ts"
import { shortDay } from "../shell/format.ts"
import type { OfferView } from "./shipmentView.server.ts"

/** The services with their charges; the chosen one tells why each charge is what it is, those that can't say why. */
export function RateTable({
  offers,
  chosen,
  today,
  choose,
}: {
  offers: readonly OfferView[]
  chosen: string | null
  today: string
  choose: (code: string) => string
}) {
  const rated = offers
    .filter((offer) => offer.contract)
    .sort((a, b) => Number(a.late) - Number(b.late) || Number(a.contract?.amount) - Number(b.contract?.amount))
  const cannot = offers.filter((offer) => !offer.contract)
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
            <th scope="col">{say("rate.arrives")}</th>
            {["base", "fuel", "extra", "contract", "list"].map((name) => (
              <th key={name} scope="col" className="figure">
                {say(`rate.${name}`)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rated.map((offer) => (
            <Fragment key={offer.code}>
              <tr
                className={[offer.code === chosen ? "next" : "", offer.unbeaten && !offer.late ? "" : "beaten"].join(
                  " ",
                )}
              >
                <td>
                  <i className={offer.unbeaten && !offer.late ? "numeral solid" : "numeral"}>{offer.numeral}</i>
                </td>
                <th scope="row">
                  {offer.code === chosen ? (
                    offer.name
                  ) : (
                    <Link to={choose(offer.code)} replace preventScrollReset>
                      {offer.name}
                    </Link>
                  )}
                  {offer.down ? (
                    <small className="ember"> {say("rate.down")}</small>
                  ) : offer.needs ? (
                    <small> {say(`rate.needs-${offer.needs}`)}</small>
                  ) : offer.late ? (
                    <small> {say("rate.late")}</small>
                  ) : null}
                </th>
                <td>
                  <i
                    className={offer.leaves === today ? "plate-small" : "plate-small hollow"}
                    title={offer.leaves ? say("rate.leaves", { day: shortDay(offer.leaves) }) : ""}
                  >
                    {offer.door}
                  </i>
                </td>
                <td className="sign">{offer.arrives ? `${shortDay(offer.arrives.date)} ${offer.arrives.time}` : ""}</td>
                <td className="figure">{offer.base}</td>
                <td className="figure">{offer.fuel}</td>
                <td className="figure">{offer.extra}</td>
                <td className="figure strong">{offer.contract?.amount}</td>
                <td className="figure">{offer.list?.amount}</td>
              </tr>
              {offer.code === chosen ? (
                <tr className="next why">
                  <td />
                  <td colSpan={8}>
                    {offer.charges.map((charge, index) => (
                      <span key={index}>
                        {showMoney(charge.amount)} {sayReason(charge.why)}
                      </span>
                    ))}
                    {offer.leaves !== today && offer.leaves ? (
                      <span>{say("rate.leaves", { day: shortDay(offer.leaves) })}</span>
                    ) : null}
                  </td>
                </tr>
              ) : null}
            </Fragment>
          ))}
        </tbody>
      </table>
      {cannot.length > 0 ? (
        <details className="cannot" open={rated.length === 0}>
          <summary>{say(cannot.length === 1 ? "rate.cannot-one" : "rate.cannot-n", { n: cannot.length })}</summary>
          <ul>
            {cannot.map((offer) => (
              <li key={offer.code}>
                <b>{offer.name}</b> {sayReasons(offer.refusals)}
              </li>
            ))}
          </ul>
        </details>
      ) : null}
    </>
  )
}
