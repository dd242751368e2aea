import { Button } from "@chakra-ui/react"
import { say } from "words/index.ts"
import { Act } from "../parts/ActForm.tsx"
import { Table } from "../parts/Table.tsx"
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
    <Table
      className="ship-table"
      sorts={false}
      rows={view.lines}
      rowKey={(line) => line.id}
      rowClass={(line) => (line.packed >= line.ordered ? "pale" : undefined)}
      columns={[
        {
          name: "line",
          head: <span className="sr-only">{say("pick.line")}</span>,
          heads: true,
          cell: (line) => line.letter,
        },
        {
          name: "item",
          head: <span className="sr-only">{say("pick.item")}</span>,
          cell: (line) => (
            <>
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
            </>
          ),
        },
        { name: "ordered", head: say("ship.ord"), className: "figure big", cell: (line) => line.ordered },
        { name: "picked", head: say("ship.pick"), className: "figure big", cell: (line) => line.picked },
        { name: "packed", head: say("ship.pack"), className: "figure big", cell: (line) => line.packed },
        {
          name: "act",
          head: <span className="sr-only">{say("ship.put-all")}</span>,
          className: "acts",
          cell: (line) => <PutButtons view={view} line={line} hand={editable ? hand : null} />,
        },
      ]}
    />
  )
}

/** Puts what is picked of a line into the package in hand, or into cartons of its own. */
function PutButtons({
  view,
  line,
  hand,
}: {
  view: ShipmentView
  line: ShipmentView["lines"][number]
  hand: number | null
}) {
  return (
    <>
      {hand && line.picked > line.packed ? (
        <Act intent="put" sends={{ package: hand, line: line.id }}>
          {(["one", "all"] as const).map((how) => (
            <Button
              key={how}
              type="submit"
              name="quantity"
              value={how === "one" ? 1 : line.picked - line.packed}
              px="6px"
              aria-label={say(`ship.put-${how}-label`, { line: line.letter, n: hand, kind: kindOf(view, hand) })}
            >
              {say(`ship.put-${how}`)}
            </Button>
          ))}
        </Act>
      ) : null}
      {line.picked > line.packed && line.ownCarton && view.state === "open" ? (
        <Act intent="own-cartons" sends={{ key: view.key, line: line.id }}>
          <Button type="submit" px="6px" aria-label={say("packing.own-cartons-label", { line: line.letter })}>
            {say("packing.own-cartons")}
          </Button>
        </Act>
      ) : null}
    </>
  )
}
