import { showMoney } from "core/money/index.ts"
import { hasLeft } from "core/orders/index.ts"
import type { Suggestion } from "core/packing/index.ts"
import type { Outcome } from "core/refusal/index.ts"
import { say } from "words/index.ts"
import { sayReason, sayReasons, wordFor } from "words/reasons.ts"
import type { Plate } from "../shell/Sill.tsx"
import { toCount } from "./packingMeaning.ts"
import { boxesInWords, suggestedFields } from "./Suggested.tsx"
import type { ShipmentView } from "./shipmentView.server.ts"

/** What Enter does at a shipment: pick, take a carton, close, buy, go on; or what it waits for. */
export function shipmentPlate(
  view: ShipmentView,
  hand: number | null,
  left: number,
  chosen: ShipmentView["offers"][number] | null,
  next: { orderNumber: string; task: "pick" | "pack" } | null,
  suggested: Plate | null = null,
): Plate {
  const count = view.pieces
  if (view.stopped.length > 0)
    return {
      verb: say("ship.plate.stopped"),
      detail: sayReasons(view.stopped),
      ready: true,
      to: `/orders/${view.orderNumber}`,
    }
  if (hasLeft(view.stage))
    return { verb: say("ship.plate.gone"), detail: say("ship.plate.gone-detail"), ready: true, to: "/" }
  if (view.stage === "outside" || view.stage === "cancelled")
    return {
      verb: say("ship.plate.order", { orderNumber: view.orderNumber }),
      detail: say(`stage.${view.stage}`),
      ready: true,
      to: `/orders/${view.orderNumber}`,
    }
  if (view.toPick > 0)
    return {
      verb: say("ship.plate.pick", { orderNumber: view.orderNumber }),
      detail: say("ship.plate.pick-detail", { n: view.toPick }),
      ready: true,
      to: `/pick/${view.orderNumber}`,
    }
  if (view.state === "buying")
    return {
      verb: say("ship.plate.buying", { carrier: view.buyingFrom ?? "" }),
      detail: view.givingUp
        ? say("ship.plate.giving-up")
        : view.trouble
          ? sayReason(view.trouble)
          : say("ship.plate.buying-detail"),
      ready: false,
    }
  if (view.state === "voiding")
    return {
      verb: say("ship.plate.voiding", { carrier: view.buyingFrom ?? "" }),
      detail: say("ship.plate.voiding-detail"),
      ready: false,
    }
  if (view.state === "bought") {
    const detail = say("ship.plate.dock-detail", {
      tracking: view.bought?.tracking ?? "",
      n: count,
      printed: view.printed,
    })
    if (next && next.orderNumber !== view.orderNumber)
      return {
        verb: say("ship.plate.next", { orderNumber: next.orderNumber }),
        detail,
        ready: true,
        to: next.task === "pick" ? `/pick/${next.orderNumber}` : `/shipment/${next.orderNumber}`,
      }
    return {
      verb: say("ship.plate.dock", { door: view.collection?.door ?? "" }),
      detail,
      ready: true,
      to: `/dock/${view.collection?.id ?? ""}`,
    }
  }
  if (left > 0 || count === 0) {
    if (!hand || (count === 0 && view.suggestion)) {
      if (suggested) return suggested
      if (!view.suggestion) return { verb: say("plate.nothing"), detail: say("ship.not-picked"), ready: false }
      return {
        verb: say(view.suggestion.kind === "pallet" ? "ship.plate.pallet" : "ship.plate.carton", {
          code: view.suggestion.code,
        }),
        detail: say("ship.plate.carton-detail", { name: view.suggestion.name, n: left }),
        ready: true,
        send: { intent: "add", key: view.key, packaging: view.suggestion.code },
      }
    }
    const inHand = view.packages.find((one) => one.number === hand)
    const waiting = view.lines.filter((one) => one.picked > one.packed)
    // what the plan of the one in hand lacks, before what is for others
    const line =
      waiting.find(
        (one) =>
          (inHand?.planned[one.id] ?? 0) >
          (inHand?.contents.find((content) => content.lineId === one.id)?.quantity ?? 0),
      ) ?? waiting[0]
    return {
      verb: say("ship.plate.scan", { n: hand, kind: inHand?.kind ?? "carton" }),
      detail: say("ship.plate.scan-detail", { left, what: line ? `${line.letter}, ${line.sku}` : "" }),
      ready: false,
    }
  }
  const empty = view.packages.find(
    (one) => one.state === "open" && one.contents.length === 0 && one.cartons.length === 0,
  )
  if (empty)
    return {
      verb: say(empty.kind === "pallet" ? "ship.plate.drop-pallet" : "ship.plate.drop", { n: empty.number }),
      detail: say("ship.plate.drop-detail"),
      ready: true,
      send: { intent: "remove", package: String(empty.number) },
    }
  const off = toCount(view, hand)
  if (off) {
    // which pieces would explain it stands on the carton; here there is room for one line
    const flaw = off.flaws.find((one) => one.code.startsWith("flaw.weight"))
    return {
      verb: say("ship.plate.count", { n: off.number, kind: off.kind }),
      detail: say("ship.plate.count-detail", {
        measured: flaw?.values.measured ?? "",
        calculated: flaw?.values.calculated ?? "",
      }),
      ready: false,
    }
  }
  const flawed = view.packages.find((one) => one.flaws.some((flaw) => flaw.code.startsWith("flaw.")))
  if (flawed)
    return {
      verb: say("ship.plate.flaw", { n: flawed.number, kind: flawed.kind }),
      detail: sayReasons(flawed.flaws.filter((flaw) => flaw.code.startsWith("flaw."))),
      ready: false,
    }
  if (chosen?.needs === "pallet")
    return {
      verb: say("ship.plate.palletise", { n: count }),
      detail: say("ship.plate.palletise-detail", { service: chosen.name }),
      ready: true,
      send: { intent: "palletise" },
    }
  if (chosen?.needs === "loose")
    return {
      verb: say("ship.plate.take-apart"),
      detail: say("ship.plate.take-apart-detail", { service: chosen.name }),
      ready: true,
      send: { intent: "take-apart" },
    }
  if (view.packages.some((one) => one.state === "open")) {
    return {
      verb: closing(view),
      detail: say("ship.plate.close-detail"),
      ready: true,
      send: { intent: "close" },
    }
  }
  if (!chosen?.contract)
    return { verb: say("ship.plate.no-service"), detail: say("ship.plate.no-service-detail"), ready: false }
  const lacking = view.toMake?.gaps ?? []
  if (lacking.length > 0)
    return {
      verb: say("ship.plate.papers", { n: lacking.length }),
      detail: sayReasons(lacking.slice(0, 2)),
      ready: true,
      to: `/shipment/${view.orderNumber}?papers&service=${chosen.code}`,
    }
  if (chosen.short) return { verb: chosen.name, detail: say("buy.balance-short", chosen.short), ready: false }
  if (chosen.down) return { verb: chosen.name, detail: say("rate.down"), ready: false }
  return {
    verb: chosen.payer
      ? say("ship.plate.buy-theirs", { payer: wordFor("payer", chosen.payer) })
      : say("ship.plate.buy", { amount: showMoney(chosen.contract) }),
    // two lines hold one of the two
    detail: `${say("ship.plate.buy-what", { service: chosen.name, n: count })} ${
      view.otherwise && Number(view.otherwise.cost.amount) < Number(chosen.contract.amount)
        ? say("otherwise.plate", { cost: showMoney(view.otherwise.cost) })
        : say("ship.plate.buy-final")
    }`,
    ready: true,
    send: {
      intent: "buy",
      version: String(view.version),
      service: chosen.code,
      amount: chosen.contract.amount,
      currency: chosen.contract.currency,
      leaves: chosen.leaves ?? "",
    },
  }
}

/** While what papers say is filled in: Enter saves it. */
export const papersPlate = ({ toMake }: ShipmentView): Plate => ({
  verb: say(toMake?.abroad ? "papers.save-customs" : "papers.save-lading"),
  detail: (toMake?.gaps.length ?? 0) > 0 ? sayReasons(toMake?.gaps.slice(0, 2) ?? []) : say("papers.complete"),
  ready: true,
  form: toMake?.abroad ? "customs-form" : "lading-form",
})

/** While scans move pieces from one package into another: Enter ends it. */
export const movingPlate = (into: number, from: number): Plate => ({
  verb: say("packing.from-plate", { from, to: into }),
  detail: say("packing.from-detail"),
  ready: true,
  send: { intent: "put-again", package: String(into) },
})

/**
 * The plate for taking cartons: those of the suggestion, or what it waits for while that is worked out; null where there
 * is none to wait for.
 */
export function suggestedPlate(
  view: ShipmentView,
  suggestion: Outcome<Suggestion> | null,
  working: boolean,
): Plate | null {
  const pieces = view.toSuggest?.loads.reduce((sum, one) => sum + one.quantity, 0) ?? 0
  if (working)
    return { verb: say("suggest.plate-wait"), detail: say("suggest.plate-wait-detail", { n: pieces }), ready: false }
  if (!suggestion?.ok || suggestion.value.boxes.length === 0) return null
  const { boxes } = suggestion.value
  const [only] = boxes
  if (boxes.length === 1 && only?.code) {
    const type = view.catalogue.find((one) => one.code === only.code)
    return {
      verb: say("ship.plate.carton", { code: only.code }),
      detail: say("ship.plate.carton-detail", { name: type?.name ?? "", n: pieces }),
      ready: true,
      send: suggestedFields(view, suggestion.value, false),
    }
  }
  return {
    verb: say("suggest.plate-take", { n: boxes.length }),
    detail: say("suggest.plate-detail", { boxes: boxesInWords(suggestion.value) }),
    ready: true,
    send: suggestedFields(view, suggestion.value, false),
  }
}

/** What is closed, in words: cartons, pallets, or both as packages. */
function closing(view: ShipmentView): string {
  const pallets = view.packages.filter((one) => one.kind === "pallet").length
  const what = pallets === 0 ? "" : pallets === view.pieces ? "-pallets" : "-packages"
  return say(`ship.plate.close${what}`, { n: view.pieces })
}

/** Nothing is bought at rates that are being made again. */
export const freshPlate = (plate: Plate, stale: boolean): Plate =>
  stale && plate.send?.intent === "buy" ? { verb: plate.verb, detail: say("rate.stale"), ready: false } : plate
