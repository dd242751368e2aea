import { Button } from "@chakra-ui/react"
import { Link } from "react-router"
import { say } from "words/index.ts"
import { Act } from "../parts/ActForm.tsx"
import { AdviceList } from "./AdviceList.tsx"
import { isShown, type LedgerWays } from "./ledger.ts"
import { RateCarriers } from "./RateCarriers.tsx"
import { RatePlot } from "./RatePlot.tsx"
import { RateTable } from "./RateTable.tsx"
import { RouteMap } from "./RouteMap.tsx"
import { shipmentPlate } from "./shipmentPlate.ts"
import type { OfferView, ShipmentView } from "./shipmentView.server.ts"
import { Variants } from "./Variants.tsx"
import { Wishes } from "./Wishes.tsx"

/** The comparison of a shipment: a drawing on the left, the ledger with what can be asked for on the right. */
export function ShipmentRates({
  view,
  chosen,
  ways,
  stale,
  today,
}: {
  view: ShipmentView
  chosen: OfferView | null
  ways: LedgerWays
  stale: boolean
  today: string
}) {
  const code = chosen?.code ?? null
  const shown = view.offers.filter((one) => isShown(one, ways, code))
  return (
    <>
      <div className={ways.drawing === "variants" ? "rate-side with-variants" : "rate-side"}>
        {ways.drawing === "map" && view.places ? (
          <RouteMap places={view.places} />
        ) : (
          <RatePlot offers={shown} promised={view.promisedOn} chosen={code} variants={view.variants} />
        )}
        <p className="drawings">
          {(["plot", "variants", "map"] as const).map((one) => (
            <Link
              key={one}
              to={ways.to({ drawing: one })}
              replace
              preventScrollReset
              aria-current={ways.drawing === one ? "true" : undefined}
            >
              {say(`rate.drawing.${one}`)}
            </Link>
          ))}
          {view.offers.some((one) => one.onTime) && ways.drawing !== "map" ? <small>{say("rate.bar")}</small> : null}
        </p>
        {ways.drawing === "variants" ? <Variants variants={view.variants} ways={ways} /> : null}
        <RateCarriers offers={view.offers.filter((one) => ways.all || one.hiddenBy === null)} ways={ways}>
          <Hidden offers={view.offers} ways={ways} />
        </RateCarriers>
        {stale ? (
          <p className="stale-word" role="status">
            {say("rate.stale")}
          </p>
        ) : null}
      </div>
      <div>
        {view.state === "open" ? <AdviceList view={view} chosen={chosen} /> : null}
        <RateTable offers={view.offers} chosen={code} today={today} ways={ways} paid={view.wishes?.paid ?? null} />
        {view.kind === "unknown" ? <p className="note">{say("kind.unknown.rated")}</p> : null}
        {view.state === "open" && view.wishes ? (
          <Wishes wishes={view.wishes} formKey={view.key} mayCharge={view.mayCharge} orderNumber={view.orderNumber} />
        ) : null}
        {view.state === "open" && chosen && view.packages.length > 0 ? <BuyElse view={view} chosen={chosen} /> : null}
      </div>
    </>
  )
}

/** How many services are not shown and whose default that is, and the way to them. */
function Hidden({ offers, ways }: { offers: ShipmentView["offers"]; ways: LedgerWays }) {
  const by = new Map<string, number>()
  for (const { hiddenBy } of offers) {
    if (!hiddenBy) continue
    const who = say(`preference.by.${hiddenBy.kind}`, { name: hiddenBy.name })
    by.set(who, (by.get(who) ?? 0) + 1)
  }
  if (by.size === 0) return null
  return (
    <span className="rate-hidden">
      {[...by].map(([who, n]) => say("preference.hides", { n, by: who })).join(", ")}{" "}
      <Link to={ways.to({ all: !ways.all })} replace preventScrollReset>
        {say(ways.all ? "preference.hide-again" : "preference.show-hidden")}
      </Link>
    </span>
  )
}

/** What else can be done with the chosen service than to buy and print: buy alone, or try how its label looks. */
function BuyElse({ view, chosen }: { view: ShipmentView; chosen: OfferView }) {
  const buys = shipmentPlate(view, null, 0, chosen, null).send
  return (
    <div className="buy-else">
      {buys?.intent === "buy" ? (
        <Act sends={{ ...buys, unprinted: "yes" }}>
          <Button type="submit">{say("ship.unprinted")}</Button>
        </Act>
      ) : null}
      <Act intent="test-label" sends={{ service: chosen.code, key: view.key }}>
        <Button type="submit" variant="ghost">
          {say("ship.test")}
        </Button>{" "}
        <small>{say("ship.test-note")}</small>
      </Act>
    </div>
  )
}
