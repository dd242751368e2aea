import { useState } from "react"
import { useNavigate } from "react-router"
import type { DayData } from "./day.tsx"

/**
 * Keys of the day that act at once on an empty scan line: arrows choose an order (left and right between the doors, the
 * stopped orders first of all), + opens it, − stops it, * takes the advice, / goes to the stopped orders and back.
 */
export function useDayKeys(day: DayData, coming: DayData["collections"]) {
  const navigate = useNavigate()
  const [chosen, setChosen] = useState<number | null>(null)
  const columns = [
    { key: "stopped", orders: day.stopped.map((order) => ({ ...order, to: `/orders/${order.orderNumber}` })) },
    ...coming.map((one) => ({ key: String(one.id), orders: one.orders })),
  ]
  const column = Math.max(
    0,
    columns.findIndex((one) => one.orders.some((order) => order.id === chosen)),
  )
  const order = columns[column]?.orders.find((one) => one.id === chosen) ?? null
  const row = order ? (columns[column]?.orders.findIndex((one) => one.id === chosen) ?? 0) : -1
  const choose = (id: number | undefined) => {
    if (id === undefined) return
    setChosen(id)
    document.querySelector(`[data-order="${id}"]`)?.scrollIntoView({ block: "nearest", inline: "nearest" })
  }
  const aside = (step: 1 | -1) => () => {
    const from = order ? column : step > 0 ? 0 : columns.length
    for (let at = from + step; at >= 0 && at < columns.length; at += step) {
      const there = columns[at]?.orders ?? []
      if (there.length > 0) return choose(there[Math.min(Math.max(row, 0), there.length - 1)]?.id)
    }
  }
  const along = (step: 1 | -1) => () => {
    const start = order ? columns[column] : (columns.slice(1).find((one) => one.orders.length > 0) ?? columns[0])
    choose(start?.orders[Math.min(start.orders.length - 1, Math.max(0, row + step))]?.id)
  }
  const open = () => {
    if (order) void navigate(order.to)
  }
  const toStopped = () => choose(order && column === 0 ? day.next?.id : columns[0]?.orders[0]?.id)
  const stop = () => {
    if (order && column > 0) document.querySelector<HTMLFormElement>("#hold-form")?.requestSubmit()
  }
  const takeAdvice = () => document.querySelector<HTMLFormElement>("#advice-form")?.requestSubmit()
  const looking = keyed([
    ["ArrowLeft", aside(-1)],
    ["ArrowRight", aside(1)],
    ["ArrowUp", along(-1)],
    ["ArrowDown", along(1)],
    ["NumpadAdd", open],
    ["NumpadDivide", toStopped],
  ])
  const keys = {
    ...looking,
    ...keyed([
      ["NumpadSubtract", stop],
      ["NumpadMultiply", takeAdvice],
    ]),
  }
  return { chosen: order?.id ?? null, orderNumber: order?.orderNumber ?? "", keys, looking }
}

const keyed = (pairs: readonly (readonly [code: string, does: () => void])[]): Readonly<Record<string, () => void>> =>
  Object.fromEntries(pairs)
