import type { Money } from "core/money/index.ts"
import {
  exchangedRate,
  type Priced,
  type Rate,
  type RateRequest,
  rateShipment,
  type TariffExchange,
} from "core/rating/index.ts"
import type { Reason } from "core/refusal/index.ts"
import type { Service } from "core/tariff/index.ts"
import type { Collection } from "../setup/collections.ts"
import type { RatedService, TariffVersion } from "./tariffs.ts"

/** What is known of a service for a shipment before anybody asks why. */
export interface Answer {
  readonly service: RatedService
  readonly collection: Collection | null
  /** The version of the carrier's tariff that it was priced by, and what it says of the service. */
  readonly version: TariffVersion | null
  readonly terms: Service | null
  /** What it costs and when it arrives; null where it can't take the shipment. */
  readonly price: Priced | null
  /** The carrier does not answer at present; rates stand, booking waits. */
  readonly down: boolean
  /** The carrier's account is prepaid and holds less than the charge: so much is left. */
  readonly short: Money | null
  /** How the goods must stand for this service, when they do not stand so yet. */
  readonly needs: "pallet" | "loose" | null
  /** What the tariff is asked; null where it can't be asked at all, for the reasons that are named. */
  readonly request: RateRequest | null
  /** By which its tariff was told in the warehouse's currency; null where it is in that. */
  readonly exchange: TariffExchange | null
  readonly cannot: readonly Reason[]
}

/**
 * A service's answer for a shipment, beside those of the others. The charges with their reasons, and the reasons of a
 * refusal, are worked out when they are asked for: most answers are only compared.
 */
export class Offer implements Answer {
  /** Nothing else is as cheap and as early. */
  readonly unbeaten: boolean
  readonly late: boolean
  readonly #answer: Answer
  #explained: {
    readonly rate: Rate | null
    readonly native: Rate | null
    readonly refusals: readonly Reason[]
  } | null = null

  constructor(answer: Answer, unbeaten: boolean, late: boolean) {
    this.#answer = answer
    this.unbeaten = unbeaten
    this.late = late
  }

  get service(): RatedService {
    return this.#answer.service
  }
  get collection(): Collection | null {
    return this.#answer.collection
  }
  get version(): TariffVersion | null {
    return this.#answer.version
  }
  get terms(): Service | null {
    return this.#answer.terms
  }
  get price(): Priced | null {
    return this.#answer.price
  }
  get down(): boolean {
    return this.#answer.down
  }
  get short(): Money | null {
    return this.#answer.short
  }
  get needs(): "pallet" | "loose" | null {
    return this.#answer.needs
  }
  get request(): RateRequest | null {
    return this.#answer.request
  }
  get exchange(): TariffExchange | null {
    return this.#answer.exchange
  }
  get cannot(): readonly Reason[] {
    return this.#answer.cannot
  }

  /** Charge by charge with the reason for each; null where the service can't take the shipment. */
  get rate(): Rate | null {
    return this.price ? this.#explain().rate : null
  }

  /** The same in the tariff's own currency, which the carrier bills in. */
  get native(): Rate | null {
    return this.price ? this.#explain().native : null
  }

  /** Why it can't; none where it can. */
  get refusals(): readonly Reason[] {
    return this.price ? [] : this.#explain().refusals
  }

  #explain() {
    const { version, terms, request, cannot, exchange } = this
    if (this.#explained) return this.#explained
    const answer = version && terms && request ? rateShipment(version.tariff, terms, request) : null
    this.#explained = answer?.ok
      ? { rate: exchange ? exchangedRate(answer.rate, exchange) : answer.rate, native: answer.rate, refusals: [] }
      : { rate: null, native: null, refusals: answer ? answer.reasons : cannot }
    return this.#explained
  }
}
