import type { OrderId } from "core/ids/index.ts"
import type { Money } from "core/money/index.ts"
import { rateShipment, type Wishes, wishesSchema } from "core/rating/index.ts"
import type { Outcome, Reason } from "core/refusal/index.ts"
import type { OptionCode, Service } from "core/tariff/index.ts"
import type { Context } from "../actors/index.ts"
import { rateable } from "../packages/goods.ts"
import type { Shipment } from "../packages/shipment.ts"
import { change } from "../packing/change.ts"
import { type Offer, pricedBy, requestFor } from "../rating/offers.ts"
import type { Rated } from "./buy.ts"

/** A change of the options alone, made on those that are asked for by then; `words` tell it in the order's story. */
export interface OptionsChange {
  readonly words: string
  readonly change: (options: readonly OptionCode[]) => OptionCode[]
}

/**
 * Changes what a shipment is asked for; what is not named stays. Rates that were seen before are void with it. Options
 * are changed under the shipment's lock, so that two who ask at once both get what they asked for.
 */
export const askFor = (
  context: Context,
  orderId: OrderId,
  wanted: Partial<Wishes>,
  key: string,
  options: OptionsChange | null = null,
): Promise<Outcome<Shipment>> =>
  change(
    context,
    orderId,
    {
      action: "ship.asked",
      detail: { wanted: [options?.words, inWords(wanted)].filter(Boolean).join(", ") },
      once: { key, text: `${options?.words ?? ""} ${JSON.stringify(wanted)}` },
    },
    async (trx, shipment) => {
      const changed = options ? { options: options.change(shipment.wishes.options), optionsBy: null } : {}
      const wishes = wishesSchema.parse({ ...shipment.wishes, ...wanted, ...changed })
      await trx("shipment")
        .where({ id: shipment.id })
        .update({ wishes: JSON.stringify(wishes) })
      return []
    },
  )

/** What was asked for, for the order's story. */
const inWords = (wanted: Partial<Wishes>): string =>
  Object.entries(wanted)
    .map(([name, value]) => {
      const shown = Array.isArray(value)
        ? value.join(", ")
        : value && typeof value === "object"
          ? Object.values(value).join(" ")
          : value
      return `${name} ${shown === null || shown === "" ? "-" : shown}`
    })
    .join(", ")

/** The options with one more, without those that a service's tariff says it excludes, and with those that it needs. */
export function withOption(options: readonly OptionCode[], option: OptionCode, terms: Service | null): OptionCode[] {
  const rule = terms?.options.find((one) => one.option === option)
  const excluded = new Set(rule?.excludes ?? [])
  const kept = options.filter((one) => !excluded.has(one))
  return [...new Set([...kept, option, ...(rule?.requires ?? [])])]
}

/** What an option of a service would change, or changes now. */
export interface OptionCost {
  readonly option: OptionCode
  readonly asked: boolean
  /** What the shipment costs more with it than without; null where it can't be had. */
  readonly cost: Money | null
  readonly refusals: readonly Reason[]
}

/** Every option that a service's tariff knows, with what each costs by itself for this shipment. */
export function optionCosts({ ground, pallet }: Rated, shipment: Shipment, { version, terms, collection }: Offer) {
  if (!version || !terms || !collection) return []
  const rated = (options: readonly OptionCode[]) => {
    const { wishes } = shipment
    // without a mass of it, dry ice is asked for by the kilogram
    const dryIceKg = options.includes("dry-ice") ? (wishes.dryIceKg ?? "1") : null
    const goods = rateable(
      ground.warehouse,
      { ...shipment, wishes: { ...wishes, options: [...options], dryIceKg } },
      pallet,
    )
    const request = requestFor(ground, goods, terms, collection.onDate, version.tariff.currency)
    return { request, price: pricedBy(ground, version, terms, request) }
  }
  const { options } = shipment.wishes
  const now = rated(options)
  return terms.options.map(({ option }): OptionCost => {
    const asked = options.includes(option)
    const other = rated(asked ? options.filter((one) => one !== option) : withOption(options, option, terms))
    const [withIt, without] = asked ? [now, other] : [other, now]
    if (!withIt.price) {
      const why = rateShipment(version.tariff, terms, withIt.request)
      return { option, asked, cost: null, refusals: why.ok ? [] : why.reasons }
    }
    if (!without.price) return { option, asked, cost: null, refusals: [] }
    const { contract } = withIt.price
    return {
      option,
      asked,
      cost: { amount: contract.amount.sub(without.price.contract.amount), currency: contract.currency },
      refusals: [],
    }
  })
}
