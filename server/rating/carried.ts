import { type Tariff, tariffSchema } from "core/tariff/index.ts"

/** A tariff on its way to a thread: its text, and a name that it is known by there from then on. */
export interface CarriedTariff {
  readonly name: string
  readonly text: string
}

const carried = new WeakMap<Tariff, CarriedTariff>()
let count = 0

/** A tariff as it goes to a thread of this process; made into text once. */
export function carriedTariff(tariff: Tariff): CarriedTariff {
  const known = carried.get(tariff)
  if (known) return known
  count += 1
  const made = { name: `tariff ${count}`, text: JSON.stringify(tariff) }
  carried.set(tariff, made)
  return made
}

/** Tariffs that this thread has read, and with them what is compiled of them. */
const arrived = new Map<string, Tariff>()
const mostArrived = 200

/** A tariff that was carried here: read and compiled once in a thread. */
export function arrivedTariff({ name, text }: CarriedTariff): Tariff {
  const known = arrived.get(name)
  if (known) return known
  if (arrived.size >= mostArrived) arrived.clear()
  const tariff = tariffSchema.parse(JSON.parse(text))
  arrived.set(name, tariff)
  return tariff
}
