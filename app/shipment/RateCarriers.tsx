import type { ReactNode } from "react"
import { Link } from "react-router"
import { say } from "words/index.ts"
import type { LedgerWays } from "./ledger.ts"
import type { OfferView } from "./rateView.server.ts"

/** The carriers that have something to offer, each shown or hidden by a press. */
export function RateCarriers({
  offers,
  ways,
  children,
}: {
  offers: readonly OfferView[]
  ways: LedgerWays
  children?: ReactNode
}) {
  const carriers = [
    ...new Map(offers.filter((one) => one.contract).map((one) => [one.carrierCode, one.carrier])).entries(),
  ]
  if (carriers.length < 2) return children ? <p className="rate-carriers">{children}</p> : null
  const toggled = (code: string) => {
    const hidden = new Set(ways.hidden)
    if (!hidden.delete(code)) hidden.add(code)
    return hidden
  }
  return (
    <nav className="rate-carriers" aria-label={say("rate.carriers")}>
      {carriers.map(([code, name]) => (
        <Link
          key={code}
          to={ways.to({ hidden: toggled(code) })}
          replace
          preventScrollReset
          className={ways.hidden.has(code) ? "off" : undefined}
          aria-current={ways.hidden.has(code) ? undefined : "true"}
        >
          {name}
        </Link>
      ))}
      {children}
    </nav>
  )
}
