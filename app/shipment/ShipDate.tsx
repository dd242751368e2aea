import { Button, NativeSelect } from "@chakra-ui/react"
import type { LocalDate } from "core/calendar/index.ts"
import { isWorkedHere } from "core/orders/index.ts"
import { shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { ActForm } from "../parts/ActForm.tsx"
import type { ShipmentView } from "./shipmentView.server.ts"

/** The day on which a shipment leaves, to be changed as long as no label is asked for. */
export function ShipDate({ view, onDate }: { view: ShipmentView; onDate: LocalDate | null }) {
  const { chosen, asked, truck, days } = view.shipDate
  if (view.state !== "open" || !isWorkedHere(view.stage))
    return onDate && view.stage !== "cancelled" ? (
      <p className="ship-date">{say("ship-date.day", { day: shortDay(onDate) })}</p>
    ) : null
  const otherwise = truck
    ? say("ship-date.truck", { day: shortDay(truck) })
    : asked
      ? say("ship-date.asked", { day: shortDay(asked) })
      : say("ship-date.next")
  // a day that is gone leaves with the next truck
  const value = chosen && days.includes(chosen) ? chosen : ""
  return (
    <ActForm intent="ship-date" className="ship-date">
      <label htmlFor="ship-date">{say("ship-date.label")}</label>
      <NativeSelect.Root width="190px" key={`${value} ${otherwise}`}>
        <NativeSelect.Field id="ship-date" name="day" defaultValue={value}>
          <option value="">{otherwise}</option>
          {days.map((day) => (
            <option key={day} value={day}>
              {shortDay(day)}
            </option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
      <Button type="submit">{say("ship-date.set")}</Button>
    </ActForm>
  )
}
