import { localDate } from "core/calendar/index.ts"
import { type DutyEstimate, dutyEstimate, hsTitle, isIncoterm } from "core/customs/index.ts"
import { dangerousFlaws } from "core/dangerous/index.ts"
import { moneyText } from "core/money/index.ts"
import {
  abroad,
  chargesOf,
  exportsGoods,
  filingOf,
  invoicedOf,
  type PaperFacts,
  paperGaps,
  papersNeeded,
} from "core/papers/index.ts"
import { massIn } from "core/units/index.ts"
import { Decimal } from "decimal.js"
import type { Work } from "server/http/context.ts"
import type { Shipment } from "server/packages/shipment.ts"
import { unprintableOn } from "server/papers/drawn.ts"
import { forOffer, mayNeedPapers, paperFacts } from "server/papers/facts.ts"
import type { Offer } from "server/rating/offers.ts"

/** The papers that a shipment needs before it is bought, with what each lacks and the fields to fill it in; null: none. */
export async function papersToMake(work: Work, shipment: Shipment | null, chosen: Offer | null) {
  if (shipment?.state !== "open" || !mayNeedPapers(work.warehouse, shipment, chosen?.terms ?? null)) return null
  const { db, warehouse, now, actor } = work
  const facts = await paperFacts(db, warehouse, shipment, {
    on: chosen && forOffer(chosen),
    today: localDate(now, warehouse.zone),
    signer: actor.name,
  })
  const needed = papersNeeded(facts)
  const gaps = paperGaps(needed)
  const unprintable = gaps.length === 0 ? unprintableOn(facts) : []
  const border = abroad(facts)
  return {
    needed: needed.map(({ kind, copies, why, electronic, gaps: lacking }) => ({
      kind,
      copies,
      why,
      electronic,
      lacks: lacking.length,
    })),
    gaps: [...gaps, ...unprintable],
    abroad: border,
    freight: needed.some((one) => one.kind === "bill-of-lading"),
    customs: shipment.customs,
    terms: shipment.terms,
    phone: shipment.shipTo.phone,
    currency: shipment.orderCurrency,
    lading: shipment.lading,
    attached: facts.attached,
    lines: shipment.lines.map((line) => ({
      id: line.id,
      letter: line.letter,
      sku: line.sku,
      said: line.said,
      description: line.customs.description,
      material: line.customs.material ?? "",
      use: line.customs.use ?? "",
      hsCode: line.customs.hsCode,
      hsTitle: hsTitle(line.customs.hsCode),
      origin: line.customs.origin,
      unit: line.customs.unit ?? "",
      netKg: line.unitNet ? massIn(line.unitNet, "kg").toDecimalPlaces(4).toString() : "",
      value: line.customs.unitValue?.toDecimalPlaces(4).toString() ?? "",
      gaps: gaps.filter(
        ({ code, values }) => values.line === String(line.customs.lineNumber) && code.startsWith("customs."),
      ),
      dangerous: line.hazard ? dangerousFlaws(line.hazard, { line: line.customs.lineNumber, sku: line.sku }) : [],
    })),
    filing: exportsGoods(facts) ? filingOf(facts) : null,
    duty: border ? dutyOf(facts) : null,
    /** Who pays duty and tax: as it was said, or as the terms have it. */
    dutyPayer: shipment.wishes.dutiesPayer ?? (facts.terms.incoterm === "DDP" ? "shipper" : "receiver"),
  }
}
export type PapersView = NonNullable<Awaited<ReturnType<typeof papersToMake>>>

/** The estimate of duty and tax as plain data; null where no table says what the country takes. */
function dutyOf(facts: PaperFacts) {
  const { lines } = invoicedOf(facts)
  if (lines.length === 0 || !isIncoterm(facts.terms.incoterm)) return null
  const charged = new Map(chargesOf(facts).map((one) => [one.kind, one.amount]))
  const estimate = dutyEstimate(
    { rules: facts.importRules, rates: facts.dutyRates, exchange: facts.exchange },
    {
      country: facts.shipTo.country,
      day: facts.date,
      lines: lines.map(({ hsCode, origin, value }) => ({ hsCode, origin, value })),
      freight: charged.get("freight") ?? { ...facts.charges.freight, amount: facts.charges.freight.amount.mul(0) },
      insurance: charged.get("insurance") ?? { ...facts.charges.freight, amount: facts.charges.freight.amount.mul(0) },
    },
  )
  return estimate && shownDuty(estimate)
}

const shownDuty = (estimate: DutyEstimate) => ({
  currency: estimate.currency,
  rate: estimate.rate.toSignificantDigits(8).toString(),
  rateOn: estimate.rateOn,
  from: estimate.rule.from,
  goods: moneyText(estimate.goods).amount,
  carriage: moneyText(estimate.carriage).amount,
  lines: estimate.lines.map((line) => ({
    hsCode: line.hsCode,
    origin: line.origin,
    base: moneyText(line.base).amount,
    percent: percentText(line.share),
    known: line.known,
    duty: moneyText(line.duty).amount,
  })),
  duty: moneyText(estimate.duty).amount,
  dutyFree: estimate.dutyFree,
  taxBase: moneyText(estimate.taxBase).amount,
  taxPercent: percentText(estimate.rule.tax),
  tax: moneyText(estimate.tax).amount,
  taxFree: estimate.taxFree,
  total: moneyText(estimate.total).amount,
})

const percentText = (share: string): string => new Decimal(share).mul(100).toString()
