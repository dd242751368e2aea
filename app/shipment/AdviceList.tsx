import { Button } from "@chakra-ui/react"
import { showMoney } from "core/money/index.ts"
import { useNavigation } from "react-router"
import type { Advice } from "server/shipping/advice.ts"
import { shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { wordFor } from "words/reasons.ts"
import { Act } from "../parts/ActForm.tsx"
import { boxesInWords } from "./Suggested.tsx"
import type { OfferView, ShipmentView } from "./shipmentView.server.ts"

/** What is sent to take an advice, and to take it back; null where that is done by hand. */
export interface Taking {
  readonly words: string
  readonly take: Record<string, string>
  readonly back: Record<string, string> | null
}

/** How an advice is taken; null where somebody must do it with his hands. */
export function takingOf(one: Advice, view: Pick<ShipmentView, "key" | "shipDate">, service: string): Taking | null {
  const words = adviceInWords(one)
  switch (one.kind) {
    case "repack":
      return {
        words,
        take: { intent: "repack", key: view.key },
        back: { intent: "repack-back", key: `${view.key}-back` },
      }
    case "pallet":
      return { words, take: { intent: "palletise" }, back: { intent: "take-apart" } }
    case "loose":
      return { words, take: { intent: "take-apart" }, back: { intent: "palletise" } }
    case "later":
      return {
        words,
        take: { intent: "ship-date", day: one.day },
        back: { intent: "ship-date", day: view.shipDate.chosen ?? "" },
      }
    case "option": {
      const ask = { intent: "ask-option", service }
      return {
        words,
        take: { ...ask, key: view.key, drop: one.option },
        back: { ...ask, key: `${view.key}-back`, ask: one.option },
      }
    }
    case "step":
      return null
  }
}

function adviceInWords(one: Advice): string {
  switch (one.kind) {
    case "repack":
      return say("cheaper.repack", { boxes: boxesInWords({ boxes: one.boxes }), service: one.service })
    case "pallet":
    case "loose":
      return say(`cheaper.${one.kind}`, { service: one.service })
    case "later":
      return say("cheaper.later", { day: shortDay(one.day), service: one.service, arrives: shortDay(one.arrives) })
    case "option":
      return say("cheaper.option", { option: wordFor("option", one.option) })
    case "step":
      return say(`cheaper.step-${one.by}`, {
        package: one.package,
        figure: one.figure,
        over: one.over,
        unit: one.unit,
      })
  }
}

/** By what the shipment would cost less, the most first; the first that can be taken has a key. */
export function AdviceList({
  view,
  chosen,
  taken,
  onTake,
}: {
  view: ShipmentView
  chosen: OfferView | null
  /** What was taken last, to be taken back. */
  taken: Taking | null
  onTake: (taking: Taking | null) => void
}) {
  if (view.advice.length === 0 && !taken) return null
  const currency = chosen?.contract?.currency ?? "USD"
  const withKey = view.advice.findIndex((one) => takingOf(one, view, chosen?.code ?? "") !== null)
  return (
    <section className="advice-list" aria-label={say("cheaper.title")}>
      {view.advice.map((one, at) => {
        const taking = takingOf(one, view, chosen?.code ?? "")
        return (
          <div key={`${one.kind} ${one.kind === "step" ? one.package : ""}`} className="otherwise">
            <span>
              {adviceInWords(one)} <b>{say("cheaper.saves", { amount: showMoney({ amount: one.saves, currency }) })}</b>
            </span>
            {taking ? (
              <Act sends={taking.take} onSubmit={() => onTake(taking)}>
                <Button type="submit">
                  {at === withKey && !view.toSuggest ? <kbd>*</kbd> : null} {say("cheaper.take")}
                </Button>
              </Act>
            ) : null}
          </div>
        )
      })}
      <Taken taken={taken} onTake={onTake} />
    </section>
  )
}

/** What was done last, and the way back. */
export function Taken({ taken, onTake }: { taken: Taking | null; onTake: (taking: Taking | null) => void }) {
  const idle = useNavigation().state === "idle"
  // not before it is done: what is not there yet can't be taken back
  if (!taken?.back || !idle) return null
  return (
    <div className="otherwise">
      <span>{say("cheaper.taken", { what: taken.words })}</span>
      <Act sends={taken.back} onSubmit={() => onTake(null)}>
        <Button type="submit" variant="ghost">
          {say("cheaper.back")}
        </Button>
      </Act>
    </div>
  )
}
