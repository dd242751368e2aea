import { Button } from "@chakra-ui/react"
import type { FreightShown } from "server/reports/freight.ts"
import type { FreightLine } from "server/shipping/freightLine.ts"
import { say } from "words/index.ts"
import { ActForm } from "../parts/ActForm.tsx"
import { TextField } from "../parts/Fields.tsx"

const written = ({ amount, currency }: { amount: string; currency: string }): string => `${amount} ${currency}`

/** The order's freight line: charged, what it cost us, and what its source billed. */
export function Freight({
  of: { freight, freightLine: line, seesFloor: seesCost, mayCharge, key: sendKey },
}: {
  of: {
    readonly freight: FreightShown | null
    readonly freightLine: FreightLine
    readonly seesFloor: boolean
    readonly mayCharge: boolean
    readonly key: string
  }
}) {
  const settable = line.settable && mayCharge
  if (!freight && !line.byHand && !settable) return null
  return (
    <section className="order-freight">
      <h2>{say("freight.title")}</h2>
      <dl>
        <dt>{say("freight.charged")}</dt>
        <dd>
          {freight?.charged
            ? written(freight.charged)
            : line.byHand
              ? say("freight.by-hand", line.byHand)
              : say(
                  freight?.before ? "freight.charged-before" : freight ? "freight.not-charged" : "freight.by-the-rules",
                )}
        </dd>
        {seesCost && freight?.cost ? (
          <>
            <dt>{say("freight.cost")}</dt>
            <dd>{written(freight.cost)}</dd>
          </>
        ) : null}
        {(freight?.invoices ?? []).map((one) => (
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
      {settable ? (
        <details className="back-move">
          <summary>{say("freight.set-it")}</summary>
          <ActForm intent="freight-line" id="freight-line" sends={{ key: sendKey }}>
            <TextField
              name="amount"
              id="freight-amount"
              label="freight.amount"
              value={freight?.charged?.amount ?? line.byHand?.amount}
              mode="decimal"
              most={10}
            />
            <TextField name="why" id="freight-why" label="freight.why" value={line.byHand?.why} most={120} />
            <Button type="submit">{say("freight.save")}</Button>
          </ActForm>
        </details>
      ) : null}
    </section>
  )
}
