import { type ClaimTerms, claimAmounts } from "core/claims/index.ts"
import { moneyText, showMoney } from "core/money/index.ts"
import type { ClaimWhole } from "server/claims/list.ts"
import { shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import type { TypedGoods } from "./ClaimGoods.tsx"

/** What the claim comes to: as it is typed, or as it was saved. */
export function Sums({ claim, terms, typed }: { claim: ClaimWhole; terms: ClaimTerms; typed: TypedGoods | null }) {
  const amounts = typed
    ? claimAmounts(
        {
          lines: Object.values(typed).flatMap((one) =>
            /^\d{1,7}$/.test(one.pieces) && /^\d{1,9}(\.\d{1,6})?$/.test(one.unitValue)
              ? [{ pieces: Number(one.pieces), unitValue: one.unitValue }]
              : [],
          ),
          currency: claim.currency,
          freight: claim.facts.freight,
          shipmentValue: claim.facts.shipmentValue,
          declared: claim.facts.declared,
          undeclared: claim.facts.undeclared,
        },
        terms,
      )
    : null
  const shown = amounts
    ? {
        goods: moneyText(amounts.goods),
        freight: moneyText(amounts.freight),
        total: moneyText(amounts.total),
        limit: amounts.limit ? moneyText(amounts.limit) : null,
        expected: moneyText(amounts.expected),
      }
    : claim.amounts
  const limit = claim.facts.declared && claim.facts.undeclared.packages === 0 ? "claim.sum-declared" : "claim.sum-limit"
  return (
    <dl className="claim-sums">
      <dt>{say("claim.sum-goods")}</dt>
      <dd>{showMoney(shown.goods)}</dd>
      <dt>{say("claim.sum-freight")}</dt>
      <dd>{showMoney(shown.freight)}</dd>
      <dt className="whole">{say("claim.sum-total")}</dt>
      <dd className="whole">{showMoney(shown.total)}</dd>
      {shown.limit ? (
        <>
          <dt>{say(limit)}</dt>
          <dd>{showMoney(shown.limit)}</dd>
          <dt>{say("claim.sum-expected")}</dt>
          <dd>{showMoney(shown.expected)}</dd>
        </>
      ) : null}
    </dl>
  )
}

/** The shipment that something is claimed for, and how the claim stands. */
export function Facts({ claim }: { claim: ClaimWhole }) {
  const { facts } = claim
  const known = [
    say("claim.fact.shipped", { day: shortDay(facts.shippedOn) }),
    ...(facts.dueOn ? [say("claim.fact.due", { day: shortDay(facts.dueOn) })] : []),
    ...(facts.deliveredOn ? [say("claim.fact.delivered", { day: shortDay(facts.deliveredOn) })] : []),
    ...(claim.filedOn ? [say("claim.fact.filed", { day: shortDay(claim.filedOn), name: claim.filedBy })] : []),
    ...(claim.acknowledgedOn ? [say("claim.fact.acknowledged", { day: shortDay(claim.acknowledgedOn) })] : []),
    ...(claim.reference ? [say("claim.fact.reference", { reference: claim.reference })] : []),
    ...(claim.paid ? [say("claim.fact.paid", { amount: showMoney(claim.paid) })] : []),
    ...(claim.settledOn ? [say("claim.fact.settled", { day: shortDay(claim.settledOn) })] : []),
  ]
  return (
    <>
      <h2>{say("claim.facts")}</h2>
      <p>
        <span className="code">{facts.tracking.join(", ")}</span>
        <br />
        {known.join(", ")}
        {claim.note ? (
          <>
            <br />
            {claim.note}
          </>
        ) : null}
      </p>
    </>
  )
}
