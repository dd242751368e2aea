import { Button, NativeSelect } from "@chakra-ui/react"
import { isWorkedHere } from "core/orders/index.ts"
import { say } from "words/index.ts"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { ShipmentPapers } from "./Apart.tsx"
import type { ShipmentView } from "./shipmentView.server.ts"

/** How many of which kind a shipment has: cartons, pallets, or both. */
function piecesInWords({ packages, pieces: n }: ShipmentView): string {
  if (n === 0) return say("ship.no-cartons")
  if (packages.every((one) => one.kind !== "pallet")) return say("ship.cartons", { n })
  const allOnPallets = packages.every((one) => one.kind === "pallet" || one.on !== null)
  return say(allOnPallets ? "ship.pallets" : "ship.packages", { n })
}

/** How many packages there are, a new one, and what is done with all of them. */
export function CartonsHead({
  view,
  editable,
  type: wantedType,
  onType,
}: {
  view: ShipmentView
  editable: boolean
  type: string | undefined
  onType: (code: string) => void
}) {
  return (
    <header>
      <h2>{piecesInWords(view)}</h2>
      {view.state === "open" &&
      (editable || view.packages.length === 0) &&
      view.toPick === 0 &&
      isWorkedHere(view.stage) ? (
        <ActForm intent="add" sends={{ key: view.key }} className="new-carton">
          <label htmlFor="packaging">{say("ship.new")}</label>
          <NativeSelect.Root width="280px">
            <NativeSelect.Field
              id="packaging"
              name="packaging"
              value={wantedType}
              onChange={(event) => onType(event.currentTarget.value)}
            >
              {view.catalogue.map((type) => (
                <option key={type.code} value={type.code}>
                  {type.code} {type.name} {type.size}
                  {type.low === null ? "" : `, ${say("packing.low", { n: type.low })}`}
                </option>
              ))}
            </NativeSelect.Field>
            <NativeSelect.Indicator />
          </NativeSelect.Root>
          <label className="check">
            <input type="checkbox" name="fill" value="yes" /> {say("ship.fill")}
          </label>
          <Button type="submit">{say("ship.add")}</Button>
        </ActForm>
      ) : null}
      {editable && view.packages.some((one) => one.kind !== "pallet" && one.on === null && one.contents.length > 0) ? (
        <Act intent="palletise">
          <Button type="submit">{say("ship.palletise")}</Button>
        </Act>
      ) : null}
      {editable ? null : <ShipmentPapers view={view} />}
      {view.state === "open" && !editable && view.packages.length > 0 ? (
        <Act intent="reopen">
          <Button type="submit">{say("ship.reopen")}</Button>
        </Act>
      ) : null}
      {view.state === "buying" && !view.givingUp ? (
        <Act intent="give-up">
          <Button type="submit">{say("ship.give-up")}</Button>
        </Act>
      ) : null}
    </header>
  )
}
