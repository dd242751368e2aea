import { moneyText } from "core/money/index.ts"
import type { JoinOffer } from "server/decisions/join.ts"
import type { JoinOfferShown } from "./JoinOffers.tsx"

/** An offer as it crosses to the browser: money as text. */
export const joinOfferShown = (offer: JoinOffer): JoinOfferShown => ({
  orders: offer.orders,
  place: offer.place,
  apart: offer.apart,
  together: offer.together,
  saving: moneyText(offer.saving),
  from: offer.from && { door: offer.from.door, onDate: offer.from.onDate, cutOff: offer.from.cutOff },
  to: offer.to && { door: offer.to.door, onDate: offer.to.onDate, cutOff: offer.to.cutOff },
  later: offer.later,
})
