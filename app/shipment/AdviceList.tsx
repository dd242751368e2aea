import { Button } from "@chakra-ui/react"
import { showMoney } from "core/money/index.ts"
import { say } from "words/index.ts"
import { Act } from "../parts/ActForm.tsx"
import { adviceInWords, takingOf } from "../parts/adviceWords.ts"
import type { OfferView, ShipmentView } from "./shipmentView.server.ts"

/** By what the shipment would cost less, the most first; the first that can be taken has a key. */
export function AdviceList({ view, chosen }: { view: ShipmentView; chosen: OfferView | null }) {
  if (view.advice.length === 0 && !view.taken) return null
  const currency = chosen?.contract?.currency ?? "USD"
  const withKey = view.advice.findIndex((one) => takingOf(one, view.key) !== null)
  return (
    <section className="advice-list" aria-label={say("cheaper.title")}>
      {view.advice.map((one, at) => {
        const taking = takingOf(one, view.key)
        return (
          <div key={`${one.kind} ${at}`} className="otherwise">
            <span>
              {adviceInWords(one)} <b>{say("cheaper.saves", { amount: showMoney({ amount: one.saves, currency }) })}</b>
            </span>
            {taking ? (
              <Act sends={taking}>
                <Button type="submit">
                  {at === withKey && !view.toSuggest ? <kbd>*</kbd> : null} {say("cheaper.take")}
                </Button>
              </Act>
            ) : null}
          </div>
        )
      })}
      <Taken view={view} />
    </section>
  )
}

/** What was taken last, and the way back. */
export function Taken({ view }: { view: Pick<ShipmentView, "taken" | "key"> }) {
  if (!view.taken) return null
  return (
    <div className="otherwise">
      <span>{say("cheaper.taken", { what: view.taken.replace(/:$/, "") })}</span>
      <Act intent="advice-back" sends={{ key: `${view.key}-back` }}>
        <Button type="submit" variant="ghost">
          {say("cheaper.back")}
        </Button>
      </Act>
    </div>
  )
}
