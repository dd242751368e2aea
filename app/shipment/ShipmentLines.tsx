import { Button } from "@chakra-ui/react"
import { say } from "words/index.ts"
import { Act } from "../parts/ActForm.tsx"
import { LineGrip } from "./DragGoods.tsx"
import { kindOf } from "./packingMeaning.ts"
import type { ShipmentView } from "./shipmentView.server.ts"

/** The lines of a shipment: ordered, picked, packed, and what can be put into the package in hand. */
export function ShipmentLines({
  view,
  hand,
  editable,
}: {
  view: ShipmentView
  hand: number | null
  editable: boolean
}) {
  return (
    <table className="ship-table">
      <thead>
        <tr>
          <th scope="col">
            <span className="sr-only">{say("pick.line")}</span>
          </th>
          <th scope="col">
            <span className="sr-only">{say("pick.item")}</span>
          </th>
          {(["ord", "pick", "pack"] as const).map((name) => (
            <th key={name} scope="col" className="figure">
              {say(`ship.${name}`)}
            </th>
          ))}
          <th scope="col">
            <span className="sr-only">{say("ship.put-all")}</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {view.lines.map((line) => (
          <tr key={line.id} className={line.packed >= line.ordered ? "pale" : undefined}>
            <th scope="row">{line.letter}</th>
            <td>
              {editable && line.picked > line.packed ? (
                <LineGrip line={line.id} letter={line.letter} quantity={line.picked - line.packed}>
                  {line.description}
                </LineGrip>
              ) : (
                line.description
              )}
              <br />
              <span className="code">
                {line.order ? `${line.order} ` : ""}
                {line.bins.join(" ")} {line.lots.length > 0 ? say("pick.lot", { lot: line.lots.join(" ") }) : line.sku}
              </span>
            </td>
            <td className="figure big">{line.ordered}</td>
            <td className="figure big">{line.picked}</td>
            <td className="figure big">{line.packed}</td>
            <td className="acts">
              {editable && hand && line.picked > line.packed ? (
                <Act intent="put" sends={{ package: hand, line: line.id }}>
                  <Button
                    type="submit"
                    name="quantity"
                    value="1"
                    px="6px"
                    aria-label={say("ship.put-one-label", {
                      line: line.letter,
                      n: hand,
                      kind: kindOf(view, hand),
                    })}
                  >
                    {say("ship.put-one")}
                  </Button>
                  <Button
                    type="submit"
                    name="quantity"
                    value={line.picked - line.packed}
                    px="6px"
                    aria-label={say("ship.put-all-label", {
                      line: line.letter,
                      n: hand,
                      kind: kindOf(view, hand),
                    })}
                  >
                    {say("ship.put-all")}
                  </Button>
                </Act>
              ) : null}
              {line.picked > line.packed && line.ownCarton && view.state === "open" ? (
                <Act intent="own-cartons" sends={{ key: view.key, line: line.id }}>
                  <Button type="submit" px="6px" aria-label={say("packing.own-cartons-label", { line: line.letter })}>
                    {say("packing.own-cartons")}
                  </Button>
                </Act>
              ) : null}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}
