import { Button } from "@chakra-ui/react"
import { showMoney } from "core/money/index.ts"
import { say } from "words/index.ts"
import { sayTrouble } from "words/reasons.ts"
import { Act } from "../parts/ActForm.tsx"
import type { ShipmentView } from "./shipmentView.server.ts"

/** What was bought: service, tracking, labels and papers, and the way back. */
export function Receipt({ view, bought }: { view: ShipmentView; bought: NonNullable<ShipmentView["bought"]> }) {
  return (
    <div className="receipt">
      <h2>{say("rate.bought", { service: bought.service, amount: showMoney(bought.amount) })}</h2>
      <p className="code">{bought.tracking}</p>
      <p>{say("ship.labels-printed", { n: view.pieces, printed: view.printed })}</p>
      {view.printTrouble ? (
        <p className="ember">{say("papers.trouble", { trouble: sayTrouble(view.printTrouble) })}</p>
      ) : null}
      {view.state === "bought" && bought.mayVoid ? (
        <Act intent="void">
          <Button type="submit">{say("ship.void", { amount: showMoney(bought.amount) })}</Button>{" "}
          <small>{say("ship.void-until", { n: bought.voidHours })}</small>
        </Act>
      ) : null}
    </div>
  )
}
