import type { LocalDate } from "../calendar/index.ts"

/** A collection that goods can leave with. */
export interface Departure {
  readonly id: number
  readonly onDate: LocalDate
  readonly cutOff: Date
}

/** As soon as the goods are here, or as late as their promise allows. */
export type LeavePolicy = "soonest" | "latest"

export interface Leaving<T extends Departure> {
  /** The collection to leave with. */
  readonly planned: T | null
  /**
   * The collection that the goods must make: the latest from which they arrive by the promise. Null where nothing is
   * promised, where no collection is early enough, and where the last one known still is: then there is time.
   */
  readonly must: T | null
}

/**
 * Which of a service's collections an order leaves with, and which it must make at the latest.
 *
 * As soon as can be: the last collection of the first day on which the service leaves, since what is in time for the
 * last one of a day leaves no later. As late as can be: the one that it must make. With nothing promised both are the
 * soonest.
 *
 * @param departures collections of the service that are still to come, by cut-off
 * @param arrives the day of arrival of goods that leave on a day; never earlier for a later day
 */
export function leaveWith<T extends Departure>(
  departures: readonly T[],
  arrives: (shipDate: LocalDate) => LocalDate,
  promised: LocalDate | null,
  policy: LeavePolicy,
): Leaving<T> {
  const firstDay = departures[0]?.onDate
  const soonest = departures.findLast((one) => one.onDate === firstDay) ?? null
  const inTime = promised === null ? [] : departures.filter((one) => arrives(one.onDate) <= promised)
  const latest = inTime.at(-1) ?? null
  const must = latest === departures.at(-1) ? null : latest
  return { planned: policy === "latest" && latest ? latest : soonest, must }
}
