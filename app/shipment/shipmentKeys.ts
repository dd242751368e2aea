import { say } from "words/index.ts"
import { cheapest, fastest } from "./serviceChoice.ts"
import type { ShipmentView } from "./shipmentView.server.ts"

interface KeyActs {
  readonly weigh: (packageNumber: number) => void
  /** Takes the suggestion; null while there is none. */
  readonly take: (() => void) | null
  readonly look: (packageNumber: number) => void
  readonly choose: (service: string) => void
}

/**
 * Single keys of the numeric pad: `.` weighs what is in hand, `*` takes the suggestion, `+` looks into the carton, `-`
 * chooses the cheapest service and `/` the fastest.
 */
export function shipmentKeys(
  view: ShipmentView,
  hand: number | null,
  { weigh, take, look, choose }: KeyActs,
): Record<string, () => void> {
  const keys: Record<string, () => void> = {}
  const editable = view.state === "open" && view.packages.every((one) => one.state === "open")
  if (editable && hand && view.scales.length > 0) keys.NumpadDecimal = () => weigh(hand)
  if (take) keys.NumpadMultiply = take
  if (hand) keys.NumpadAdd = () => look(hand)
  if (view.offers.length > 0) {
    const chosen = (offer: { readonly code: string } | null) => offer && choose(offer.code)
    keys.NumpadSubtract = () => chosen(cheapest(view.offers))
    keys.NumpadDivide = () => chosen(fastest(view.offers))
  }
  return keys
}

/** What can be scanned and typed at a shipment. */
export const packingWords = () =>
  [
    [say("words.item"), say("words.item.does.pack")],
    [say("words.line"), say("words.line.does")],
    [say("words.carton"), say("words.carton.does")],
    [say("words.weight"), say("words.weight.does")],
    [say("words.fill"), say("words.fill.does")],
    [say("words.hand"), say("words.hand.does")],
    [say("words.from"), say("words.from.does")],
    [say("words.out"), say("words.out.does")],
    [say("words.scale"), say("words.scale.does")],
    [say("words.count"), say("words.count.does")],
    [say("words.cheapest"), say("words.cheapest.does")],
    [say("words.field"), say("words.field.does")],
    [say("words.fastest"), say("words.fastest.does")],
    [say("words.order"), say("words.order.does")],
  ] as const
