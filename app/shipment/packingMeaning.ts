import type { LineId } from "core/ids/index.ts"
import { levelOf, sameCode, sameLot } from "core/picking/index.ts"
import { type Reason, reason } from "core/refusal/index.ts"
import { readings } from "core/scanning/index.ts"
import type { Put } from "server/packing/index.ts"
import { say } from "words/index.ts"
import { sayPieces } from "words/reasons.ts"
import { cheapest, fastest } from "./serviceChoice.ts"
import type { PackageView, ShipmentView } from "./shipmentView.server.ts"

/** What a text means at packing. */
export type Meaning =
  | { kind: "carton"; code: string }
  | { kind: "hand"; number: number }
  /** From now on scans take out of this package, into the one in hand. */
  | { kind: "from"; from: number; carton: number }
  | {
      kind: "put"
      carton: number
      lineId: LineId
      sku: string
      quantity: number
      /** The same in words, as cases where a case's code was scanned. */
      words: string
      scanned: boolean
    }
  | { kind: "move"; from: number; to: number; lineId: LineId; sku: string; quantity: number }
  /** Pieces of lines into cartons, as their plans say, the rest into the one in hand. */
  | { kind: "several"; puts: readonly Put[] }
  | { kind: "count"; carton: number; counted: readonly (readonly [number, number])[] }
  | { kind: "scale"; carton: number }
  | { kind: "weight"; carton: number; figure: string; unit: "lb" | "kg" | "oz" }
  /** Chooses a service. */
  | { kind: "service"; code: string; name: string }
  | { kind: "refused"; why: Reason }

/**
 * What a text means at packing, for the screen before Enter and for the server after it; null: nothing of ours.
 *
 * @param hand number of the package in hand
 * @param from number of the package that scans take out of; null: they put in what is picked
 */
export function meaning(
  view: ShipmentView,
  text: string,
  hand: number | null,
  from: number | null = null,
): Meaning | null {
  const type = view.catalogue.find((one) => sameCode(one.code, text))
  if (type) return { kind: "carton", code: type.code }
  const service = /^cheapest$/i.test(text)
    ? cheapest(view.offers)
    : /^fastest$/i.test(text)
      ? fastest(view.offers)
      : null
  if (service) return { kind: "service", code: service.code, name: service.name }
  // on an order of so many lines the letter is one of them
  const isLine = view.lines.some((one) => one.letter === text.toLowerCase())
  if (/^w(eigh)?$/i.test(text) && !isLine) return hand ? { kind: "scale", carton: hand } : noHand
  const count = /^count((?:\s+[a-z]{1,2}\s+\d{1,6})+)$/i.exec(text)
  if (count) return countedIn(view, hand, count[1] as string)
  const moved = /^([a-z]{1,2})(?:\s+(\d{1,6}))?\s+from\s+(\d{1,3})$/i.exec(text)
  if (moved) return moveFrom(view, hand, moved[1] as string, moved[2], Number(moved[3]))
  const source = /^from\s+(\S+)$/i.exec(text)
  if (source) return takeFrom(view, hand, source[1] as string)
  if (/^all$/i.test(text)) {
    if (!hand) return noHand
    const puts = view.lines.flatMap((line) => spread(view, line, line.picked - line.packed, hand))
    return puts.length > 0 ? { kind: "several", puts } : { kind: "refused", why: reason("pack.all-packed") }
  }
  for (const reading of readings(text)) {
    if (reading.kind === "gtin" || reading.kind === "code") {
      const code = reading.kind === "gtin" ? reading.gtin : reading.code
      const matches = view.lines.filter((line) => sameCode(line.sku, code) || levelOf(line.levels, code))
      if (matches.length === 0) continue
      // a code that carries its lot must be of one that was picked
      const lot = reading.kind === "gtin" ? reading.lot : null
      const right = matches.filter((one) => lot === null || isOf(one, lot))
      const line =
        right.find((one) => (from === null ? one.picked > one.packed : inside(view, from, one.id) > 0)) ?? right[0]
      if (!line) {
        const picked = [...new Set(matches.flatMap((one) => one.lots))].join(", ")
        return {
          kind: "refused",
          why: reason("pack.wrong-lot", { scanned: lot ?? "", sku: matches[0]?.sku ?? "", picked }),
        }
      }
      const quantity = levelOf(line.levels, code)?.count ?? 1
      if (from !== null) return moveOut(view, hand, line, quantity, from)
      const carton = cartonFor(view, line.id, hand)
      if (!carton) return noHand
      const left = line.picked - line.packed
      if (quantity > left)
        return { kind: "refused", why: reason("pack.too-many", { line: line.letter, sku: line.sku, quantity, left }) }
      const words = sayPieces(line.levels, code, quantity)
      return { kind: "put", carton, lineId: line.id, sku: line.sku, quantity, words, scanned: true }
    }
    if (reading.kind === "line") {
      const line = view.lines.find((one) => one.letter === reading.line)
      if (!line) continue
      if (!hand) return noHand
      const left = line.picked - line.packed
      const quantity = reading.quantity ?? left
      if (quantity > left || quantity === 0)
        return { kind: "refused", why: reason("pack.too-many", { line: line.letter, sku: line.sku, quantity, left }) }
      const puts = spread(view, line, quantity, hand)
      const [only] = puts as [Put]
      if (puts.length > 1) return { kind: "several", puts }
      const words = String(quantity)
      return { kind: "put", carton: only.package, lineId: line.id, sku: line.sku, quantity, words, scanned: false }
    }
    if (reading.kind === "package" && reading.orderNumber === view.orderNumber) {
      const open = view.packages.find((one) => one.number === reading.number && one.state === "open")
      if (open) return { kind: "hand", number: open.number }
    }
    if (reading.kind === "sscc") {
      const open = view.packages.find((one) => one.sscc?.replace(/\s/g, "") === reading.sscc && one.state === "open")
      if (open) return { kind: "hand", number: open.number }
    }
    if (reading.kind === "weight")
      return hand ? { kind: "weight", carton: hand, figure: reading.figure, unit: reading.unit } : noHand
    if (reading.kind === "number" && view.packages.some((one) => String(one.number) === reading.figure))
      return { kind: "hand", number: Number(reading.figure) }
  }
  // an item of none of its lines, while something is left to be packed, is the wrong one
  const item = readings(text).find((reading) => reading.kind === "gtin")
  const left = view.lines.some((line) => line.picked > line.packed)
  if (item && left)
    return { kind: "refused", why: reason("pack.wrong-item", { scanned: text, order: view.orderNumber }) }
  return null
}

/** Whether a lot is one of those that were picked for a line; of goods kept without lots any may be. */
const isOf = (line: ShipmentView["lines"][number], lot: string): boolean =>
  line.lots.length === 0 || line.lots.some((one) => sameLot(one, lot))

const inside = (view: ShipmentView, number: number, lineId: LineId): number =>
  view.packages.find((one) => one.number === number)?.contents.find((content) => content.lineId === lineId)?.quantity ??
  0

const noHand: Meaning = { kind: "refused", why: reason("ship.no-carton-in-hand") }

/** `a 2 from 1`: pieces of a line out of a package into the one in hand; all of it where no number is said. */
function moveFrom(
  view: ShipmentView,
  hand: number | null,
  letter: string,
  pieces: string | undefined,
  from: number,
): Meaning {
  const line = view.lines.find((one) => one.letter === letter.toLowerCase())
  const out = view.packages.find((one) => one.number === from && one.state === "open")
  if (!hand) return noHand
  if (!line || !out) return { kind: "refused", why: reason("pack.no-such-package", { number: from }) }
  return moveOut(view, hand, line, pieces === undefined ? inside(view, from, line.id) : Number(pieces), from)
}

/** Pieces of a line out of a package into the one in hand, where they are in it. */
function moveOut(
  view: ShipmentView,
  hand: number | null,
  line: ShipmentView["lines"][number],
  quantity: number,
  from: number,
): Meaning {
  if (!hand) return noHand
  const there = inside(view, from, line.id)
  if (quantity < 1 || quantity > there)
    return { kind: "refused", why: reason("pack.not-inside", { line: line.letter, quantity, inside: there }) }
  if (from === hand) return { kind: "refused", why: reason("pack.same-package", { number: from }) }
  return { kind: "move", from, to: hand, lineId: line.id, sku: line.sku, quantity }
}

/** `from 1`: a package of this shipment, by its number, its name or its SSCC, that scans are to take out of. */
function takeFrom(view: ShipmentView, hand: number | null, text: string): Meaning {
  if (!hand) return noHand
  const named = readings(text)
  const out = view.packages.find(
    (one) =>
      String(one.number) === text ||
      named.some(
        (reading) =>
          (reading.kind === "package" && reading.orderNumber === view.orderNumber && reading.number === one.number) ||
          (reading.kind === "sscc" && one.sscc?.replace(/\s/g, "") === reading.sscc),
      ),
  )
  if (out?.state !== "open") return { kind: "refused", why: reason("pack.no-such-package", { number: text }) }
  if (out.number === hand) return { kind: "refused", why: reason("pack.same-package", { number: hand }) }
  return { kind: "from", from: out.number, carton: hand }
}

/**
 * Which carton a scanned piece goes into: the one in hand where it was taken without a plan, else the first open one
 * whose plan still lacks the line, else the one in hand.
 */
function cartonFor(view: ShipmentView, lineId: LineId, hand: number | null): number | null {
  const open = view.packages.filter((one) => one.state === "open")
  const inHand = open.find((one) => one.number === hand)
  if (inHand && (!isPlanned(inHand) || lacking(inHand, lineId) > 0)) return inHand.number
  return open.find((one) => lacking(one, lineId) > 0)?.number ?? hand
}

/** Pieces of a line that a package's plan still lacks. */
const lacking = (one: ShipmentView["packages"][number], lineId: LineId): number =>
  Math.max(0, (one.planned[lineId] ?? 0) - (one.contents.find((content) => content.lineId === lineId)?.quantity ?? 0))

const isPlanned = (one: ShipmentView["packages"][number]): boolean => Object.keys(one.planned).length > 0

/**
 * Where pieces of a line go: into the one in hand where that was taken without a plan; else as the plans of the open
 * packages lack them, beginning with the one in hand, and what no plan wants into the one in hand.
 */
function spread(view: ShipmentView, line: ShipmentView["lines"][number], quantity: number, hand: number): Put[] {
  if (quantity <= 0) return []
  const open = view.packages.filter((one) => one.state === "open")
  const inHand = open.find((one) => one.number === hand)
  if (!inHand || !isPlanned(inHand)) return [{ package: hand, lineId: line.id, quantity }]
  const wanted = new Map<number, number>()
  let left = quantity
  for (const one of [inHand, ...open.filter((each) => each.number !== hand)]) {
    const pieces = Math.min(left, lacking(one, line.id))
    if (pieces > 0) wanted.set(one.number, pieces)
    left -= pieces
  }
  if (left > 0) wanted.set(hand, (wanted.get(hand) ?? 0) + left)
  return [...wanted].map(([number, pieces]) => ({ package: number, lineId: line.id, quantity: pieces }))
}

/**
 * The package in hand: the one that was asked for as long as something of its plan lacks, or it has none; else the first
 * whose plan lacks something; else the last that is open. Everything that puts in, weighs or names one goes by it.
 */
export function inHandOf(
  view: Pick<ShipmentView, "packages" | "lines">,
  asked: number | null | undefined,
): number | null {
  const open = view.packages.filter((one) => one.state === "open")
  const left = view.lines.filter((line) => line.picked > line.packed)
  const lacks = (one: (typeof open)[number]) => left.some((line) => lacking(one, line.id) > 0)
  const named = open.find((one) => one.number === asked)
  if (named && (!isPlanned(named) || lacks(named) || !open.some(lacks))) return named.number
  return (open.find(lacks) ?? named ?? open.at(-1))?.number ?? null
}

/** The package that is to be counted again: the one in hand where it weighs other than its contents, else the first. */
export function toCount(view: Pick<ShipmentView, "packages">, hand: number | null): PackageView | null {
  const off = view.packages.filter((one) => one.flaws.some((flaw) => flaw.code.startsWith("flaw.weight")))
  return off.find((one) => one.number === hand) ?? off[0] ?? null
}

/** `count a 4 b 2`: what was counted in the package whose weight is wrong, or in the one in hand. */
function countedIn(view: ShipmentView, hand: number | null, text: string): Meaning {
  const carton = toCount(view, hand)?.number ?? hand
  if (!carton) return noHand
  const counted: [number, number][] = []
  for (const [, letter, pieces] of text.matchAll(/([a-z]{1,2})\s+(\d{1,6})/gi)) {
    const line = view.lines.find((one) => one.letter === letter?.toLowerCase())
    if (!line) return { kind: "refused", why: reason("pack.no-such-letter", { letter: letter ?? "" }) }
    counted.push([line.id, Number(pieces)])
  }
  return { kind: "count", carton, counted }
}

/** What a package is, by its number. */
export const kindOf = (view: Pick<ShipmentView, "packages">, number: number): string =>
  view.packages.find((one) => one.number === number)?.kind ?? "carton"

/** A meaning in words, shown before Enter. */
export function inWords(view: ShipmentView, meant: Exclude<Meaning, { kind: "refused" }>): string {
  const put = (n: string | number, sku: string, number: number) =>
    say("ship.put", { n, sku, carton: number, kind: kindOf(view, number) })
  switch (meant.kind) {
    case "carton":
      return say("ship.plate.carton", { code: meant.code })
    case "hand":
      return `${say("ship.take-in-hand")}: ${meant.number}`
    case "from":
      return say("packing.from", { from: meant.from, to: meant.carton })
    case "put":
      return put(meant.words, meant.sku, meant.carton)
    case "move":
      return say("packing.moves", { n: meant.quantity, sku: meant.sku, from: meant.from, to: meant.to })
    case "several":
      return meant.puts
        .map((one) => put(one.quantity, view.lines.find((line) => line.id === one.lineId)?.sku ?? "", one.package))
        .join("; ")
    case "count": {
      const what = meant.counted.map(([id, n]) => `${n} ${view.lines.find((one) => one.id === id)?.letter ?? ""}`)
      return say("pack.counts", { n: meant.carton, what: what.join(", ") })
    }
    case "scale":
      return say("scale.weigh-label", { n: meant.carton })
    case "service":
      return meant.name
    case "weight":
      return `${meant.figure} ${meant.unit}, ${view.orderNumber}-${meant.carton}`
  }
}
