import { Button, Input } from "@chakra-ui/react"
import { say } from "words/index.ts"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { PaperLinks } from "../parts/PaperLinks.tsx"
import type { ShipmentView } from "./shipmentView.server.ts"

/** Another size, packages shipped separately, and what is packed shipped without the rest. */
export function Apart({ view, left }: { view: ShipmentView; left: number }) {
  const chosen = view.packages.filter((one) => one.on === null && one.contents.length + one.cartons.length > 0)
  const unit = view.units
  return (
    <details className="apart">
      <summary>{say("packing.more")}</summary>
      <div className="apart-acts">
        <ActForm intent="one-off" sends={{ key: view.key, unit: unit.length }}>
          <span>{say("packing.one-off", { unit: unit.length })}</span>
          {(["length", "width", "height"] as const).map((edge) => (
            <Input
              key={edge}
              name={edge}
              required
              inputMode="decimal"
              width="56px"
              aria-label={say("packing.one-off-edge", { edge: say(`ship.${edge}`) })}
            />
          ))}
          <Input
            name="tare"
            inputMode="decimal"
            width="64px"
            aria-label={say("packing.tare", { unit: unit.mass })}
            placeholder={say("packing.tare", { unit: unit.mass })}
          />
          <Button type="submit">{say("ship.add")}</Button>
        </ActForm>
        {chosen.length > 1 || left > 0 ? (
          <ActForm intent="split-off">
            {chosen.map((one) => (
              <label key={one.id} className="check">
                <input
                  type="checkbox"
                  name="chosen"
                  value={one.number}
                  aria-label={say("packing.choose", { n: one.number })}
                />{" "}
                {one.number}
              </label>
            ))}
            <Button type="submit">{say("packing.split-off")}</Button>
          </ActForm>
        ) : null}
        {chosen.length > 0 && (left > 0 || view.toPick > 0) ? (
          <Act intent="partial">
            <Button type="submit">{say("packing.partial")}</Button>
          </Act>
        ) : null}
      </div>
    </details>
  )
}

/** Packing slips, and logistic labels once packages have their numbers. */
export function ShipmentPapers({ view }: { view: ShipmentView }) {
  if (view.floorPapers.length === 0) return null
  return <PaperLinks at={`/shipment/${view.orderNumber}`} sendKey={view.key} papers={view.floorPapers} />
}
