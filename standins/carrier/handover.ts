/**
 * What a carrier's service for handing over keeps: forms that it was told (`closings`), and collections that were booked
 * (`collections`), both by the shipper's key, so that a key counts once. Its rules are those of its published tariff.
 */
export interface Closing {
  key: string
  number: string
  form: string
  trackingNumbers: string[]
}

export interface BookedCollection {
  key: string
  state: "booked" | "cancelled"
  number: string
  revision: number
  day: string
  ready: string
  latest: string
  pieces: number
  weightLb: string
  place: string
  fee: { amount: string; currency: string }
}

/** What the tariff says of handing over, as far as the carrier's desk goes by it. */
export interface HandoverRules {
  closing?: { told?: boolean }
  /** What is left out is as the published schema has it. */
  booked?: null | {
    fee?: string
    until?: string | null
    from: string
    to: string
    weekdays?: number[]
    window?: number
  }
}

export interface HandoverBook {
  closings?: Record<string, Closing>
  collections?: Record<string, BookedCollection>
}

/** Why the carrier does not do what it was asked for. */
export class Declined extends Error {}

interface ClosingRequest {
  account: string
  number: string
  pieces: number
  packages: { trackingNumber: string }[]
}

interface CollectionRequest {
  account: string
  /** Day and time at the shipper's place when it was asked. */
  askedOn: string
  askedAt: string
  revision: number
  day: string
  ready: string
  latest: string
  pieces: number
  weightLb: string
  place: string
}

const minutes = (time: string) => Number(time.slice(0, 2)) * 60 + Number(time.slice(3, 5))
const weekday = (day: string) => new Date(`${day}T12:00:00Z`).getUTCDay() || 7

/**
 * Takes a form. Throws Declined where a package is none of its own, was made void, or is on another form.
 *
 * @param stateOf what became of a tracking number: booked, void, or nothing where the carrier never gave it
 */
export function takeClosing(
  book: HandoverBook,
  code: string,
  rules: HandoverRules,
  key: string,
  request: ClosingRequest,
  stateOf: (trackingNumber: string) => string | undefined,
): Closing {
  book.closings ??= {}
  const known = book.closings[key]
  if (known) return known
  if (!rules.closing?.told) throw new Declined("forms are not taken as data")
  const numbers = request.packages.map((one) => one.trackingNumber)
  if (numbers.length === 0 || numbers.length !== request.pieces) throw new Declined("the number of pieces is wrong")
  const strange = numbers.find((number) => stateOf(number) !== "booked")
  if (strange !== undefined)
    throw new Declined(`${strange} is ${stateOf(strange) === undefined ? "not ours" : "no longer valid"}`)
  const taken = new Set(Object.values(book.closings).flatMap((one) => one.trackingNumbers))
  const twice = numbers.find((number) => taken.has(number)) ?? numbers.find((one, at) => numbers.indexOf(one) !== at)
  if (twice !== undefined) throw new Declined(`${twice} is on a form already`)
  const closing = {
    key,
    number: `${code}-F${String(Object.keys(book.closings).length + 1).padStart(6, "0")}`,
    form: request.number,
    trackingNumbers: numbers,
  }
  book.closings[key] = closing
  return closing
}

/** Books a collection, or changes one that is booked; the same revision again is the same. Throws Declined. */
export function takeCollection(
  book: HandoverBook,
  code: string,
  rules: HandoverRules,
  currency: string,
  key: string,
  request: CollectionRequest,
): BookedCollection {
  book.collections ??= {}
  const known = book.collections[key]
  if (known?.state === "cancelled") throw new Declined("it was canceled")
  if (known && known.revision >= request.revision) return known
  const terms = rules.booked
  if (!terms) throw new Declined("no collections are booked: a truck comes regularly")
  const { fee = "0", until = null, weekdays = [1, 2, 3, 4, 5], window = 60 } = terms
  if (!weekdays.includes(weekday(request.day))) throw new Declined("nothing is collected on that day")
  if (request.day < request.askedOn) throw new Declined("that day is over")
  if (request.day === request.askedOn && (until === null || minutes(request.askedAt) > minutes(until)))
    throw new Declined("too late for today")
  if (minutes(request.ready) < minutes(terms.from) || minutes(request.latest) > minutes(terms.to))
    throw new Declined(`trucks come between ${terms.from} and ${terms.to}`)
  if (minutes(request.latest) - minutes(request.ready) < window)
    throw new Declined(`at least ${window} minutes are needed between ready and latest`)
  const collection: BookedCollection = {
    key,
    state: "booked",
    number: known?.number ?? `${code}C${String(Object.keys(book.collections).length + 1).padStart(5, "0")}`,
    revision: request.revision,
    day: request.day,
    ready: request.ready,
    latest: request.latest,
    pieces: request.pieces,
    weightLb: request.weightLb,
    place: request.place,
    fee: { amount: Number(fee).toFixed(2), currency },
  }
  book.collections[key] = collection
  return collection
}

/** Cancels a collection; one that was never booked is cancelled as well, so that a late booking by its key is none. */
export function cancelCollection(book: HandoverBook, key: string): void {
  book.collections ??= {}
  const known = book.collections[key]
  if (known) known.state = "cancelled"
  else
    book.collections[key] = {
      key,
      state: "cancelled",
      number: "-",
      revision: 0,
      day: "",
      ready: "",
      latest: "",
      pieces: 0,
      weightLb: "0",
      place: "",
      fee: { amount: "0.00", currency: "USD" },
    }
}
