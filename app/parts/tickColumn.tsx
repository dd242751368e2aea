import { say } from "words/index.ts"
import type { Chosen } from "./GroupBar.tsx"
import type { TableColumn } from "./Table.tsx"

/** The boxes by which the orders of a list are chosen for a change of many; `shown`: how many there are. */
export const tickColumn = <Row extends object>(
  chosen: Chosen,
  shown: number,
  of: (row: Row) => { readonly id: number; readonly orderNumber: string },
): TableColumn<Row> => ({
  name: "tick",
  className: "tick",
  head: (
    <input
      type="checkbox"
      aria-label={say("group.select-shown")}
      checked={chosen.ids.size === shown && shown > 0}
      onChange={chosen.toggleAll}
    />
  ),
  cell: (row) => {
    const { id, orderNumber } = of(row)
    return (
      <input
        type="checkbox"
        name="order"
        form="group-form"
        value={id}
        aria-label={say("group.select", { orderNumber })}
        checked={chosen.ids.has(id)}
        onChange={() => undefined}
        onClick={(event) => chosen.toggle(id, event.shiftKey)}
      />
    )
  },
})
