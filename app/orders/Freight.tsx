import type { FreightShown } from "server/reports/freight.ts"
import { say } from "words/index.ts"

const written = ({ amount, currency }: { amount: string; currency: string }): string => `${amount} ${currency}`

/** The order's freight line: charged, what it cost us, and what its source billed. */
export function Freight({ freight, seesCost }: { freight: FreightShown | null; seesCost: boolean }) {
  if (!freight) return null
  return (
    <section className="order-freight">
      <h2>{say("freight.title")}</h2>
      <dl>
        <dt>{say("freight.charged")}</dt>
        <dd>
          {freight.charged
            ? written(freight.charged)
            : say(freight.before ? "freight.charged-before" : "freight.not-charged")}
        </dd>
        {seesCost && freight.cost ? (
          <>
            <dt>{say("freight.cost")}</dt>
            <dd>{written(freight.cost)}</dd>
          </>
        ) : null}
        {freight.invoices.map((one) => (
          <div key={one.number} className="freight-invoice">
            <dt>{say("freight.invoice", { number: one.number })}</dt>
            <dd>
              {written(one.freight)}
              {one.more !== null && Number(one.more) !== 0 ? (
                <b className="ember"> {say("freight.more", { more: one.more })}</b>
              ) : null}
            </dd>
          </div>
        ))}
      </dl>
    </section>
  )
}
