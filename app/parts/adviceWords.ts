import { type Advice, askOf } from "core/advice/index.ts"
import { shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { wordFor } from "words/reasons.ts"

/** By what something would cost less, in words that end before how much. */
export function adviceInWords(one: Advice): string {
  const { service } = one
  switch (one.kind) {
    case "repack":
      return say("cheaper.repack", { boxes: boxCounts(one.boxes), service })
    case "pallet":
    case "loose":
      return say(`cheaper.${one.kind}`, { service })
    case "later":
      return say("cheaper.later", { day: shortDay(one.day), service, arrives: shortDay(one.arrives) })
    case "option":
      return say("cheaper.option", { option: wordFor("option", one.option) })
    case "join":
      return say("cheaper.join", { orders: one.orders.map((order) => order.orderNumber).join(", "), service })
    case "payer":
      return say(`cheaper.payer-${one.terms}`, { account: one.account || "–" })
    case "warehouse":
      return say("cheaper.warehouse", { name: one.name, service })
    case "step":
      return say(`cheaper.step-${one.by}`, {
        package: one.package,
        figure: one.figure,
        over: one.over,
        unit: one.unit,
        class: one.freightClass,
      })
  }
}

/** Boxes by their codes in words: `2 × K12, K05`. */
export function boxCounts(boxes: readonly { readonly code: string | null }[]): string {
  const counts = new Map<string, number>()
  for (const one of boxes) {
    const name = one.code ?? say("suggest.own")
    counts.set(name, (counts.get(name) ?? 0) + 1)
  }
  return [...counts].map(([code, n]) => (n === 1 ? code : say("suggest.count", { n, code }))).join(", ")
}

/** What is sent to take an advice; null where somebody must do it with his hands. */
export function takingOf(one: Advice, key: string): Record<string, string> | null {
  const ask = askOf(one)
  return ask && { intent: "advice", ask: JSON.stringify(ask), words: adviceInWords(one), key }
}
