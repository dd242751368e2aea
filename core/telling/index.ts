import { addDays, instantAt, type LocalDate, type LocalTime, localDate, localTime } from "../calendar/index.ts"
import type { TrackingState } from "../tracking/index.ts"

/** What customers are told of. */
export const topics = [
  // the order was taken in
  "received",
  // its labels are made
  "shipped",
  // it has left with the truck
  "left",
  "out-for-delivery",
  "delivered",
  // the carrier says a later day than was promised
  "delayed",
  // it waits at a counter: the carrier's, or ours
  "ready",
  // goods that came back are here
  "return-arrived",
  // and were looked through
  "return-inspected",
  // a label for the way back goes along
  "return-label",
  // a quote goes along
  "quote",
] as const
export type Topic = (typeof topics)[number]

/** Topics that a person asks for each time; the others happen. */
export const askedTopics: readonly Topic[] = ["return-label", "quote"]

/** Topics that a customer is told of unless the house says otherwise (common practice). */
export const usualTopics: readonly Topic[] = [
  "left",
  "delayed",
  "ready",
  "delivered",
  "return-arrived",
  "return-inspected",
]

export const ways = ["mail", "text"] as const
/** How somebody is told: by e-mail, or by a short message to a telephone. */
export type Way = (typeof ways)[number]

export const contactRoles = ["receiving", "purchasing", "billing", "sales"] as const
export type ContactRole = (typeof contactRoles)[number]

/** What a message may say: all that its template can name. Nothing of cost, of stock, or of other orders. */
export interface MessageFacts {
  /** Who is shown as sender: the house, or the customer for whom it ships blind. */
  readonly sender: string
  /** Whom it is written to, where a name is known. */
  readonly name: string
  readonly order: string
  readonly purchase_order: string
  readonly customer: string
  readonly receiver: string
  readonly place: string
  readonly carrier: string
  readonly service: string
  /** Days as the language writes them; empty: not known. */
  readonly shipped_on: string
  readonly arrives_on: string
  readonly promised_on: string
  readonly expected_on: string
  readonly delivered_on: string
  readonly received_by: string
  /** Where it can be fetched. */
  readonly counter: string
  readonly packages: readonly { readonly name: string; readonly tracking: string; readonly state: string }[]
  readonly lines: readonly { readonly quantity: number; readonly description: string }[]
  /** The receiver's own page. */
  readonly link: string
  /** What somebody here wrote to go along. */
  readonly note: string
  readonly thanks: boolean
  readonly quote: string
  readonly valid_until: string
  /** Our number of goods that came back, and what was found of each. */
  readonly return_name: string
  readonly returned: readonly {
    readonly description: string
    readonly sound: number
    readonly damaged: number
    readonly missing: number
  }[]
}

/** With nothing known. */
export const noFacts: MessageFacts = {
  sender: "",
  name: "",
  order: "",
  purchase_order: "",
  customer: "",
  receiver: "",
  place: "",
  carrier: "",
  service: "",
  shipped_on: "",
  arrives_on: "",
  promised_on: "",
  expected_on: "",
  delivered_on: "",
  received_by: "",
  counter: "",
  packages: [],
  lines: [],
  link: "",
  note: "",
  thanks: false,
  quote: "",
  valid_until: "",
  return_name: "",
  returned: [],
}

/**
 * The end of the quiet hours that a moment lies in, by the wall there; the moment itself outside of them. Hours may go
 * over midnight; from and to alike means none.
 */
export function afterQuiet(now: Date, zone: string, from: LocalTime, to: LocalTime): Date {
  if (from === to) return now
  const time = localTime(now, zone)
  const overnight = from > to
  const inside = overnight ? time >= from || time < to : time >= from && time < to
  if (!inside) return now
  const today: LocalDate = localDate(now, zone)
  return instantAt(overnight && time >= from ? addDays(today, 1) : today, to, zone)
}

/** Most signs of a short message: four parts of 153 in the GSM 7-bit alphabet (3GPP TS 23.038; from memory). */
export const mostText = 612

/** What a receiver is told of where his packages are, without words of the carriers. */
export const simpleState = (
  state: TrackingState,
  left: boolean,
): "preparing" | "on-the-way" | "with-driver" | "ready" | "problem" | "returning" | "delivered" => {
  if (state === "delivered") return "delivered"
  if (state === "out-for-delivery") return "with-driver"
  if (state === "ready") return "ready"
  if (state === "returning" || state === "returned") return "returning"
  if (state === "attempted" || state === "held" || state === "lost") return "problem"
  return state === "announced" && !left ? "preparing" : "on-the-way"
}

/** A telephone number as text services take it (ITU-T E.164); null where it is none. */
export function phoneNumber(text: string, country: string): string | null {
  const digits = text.replace(/[\s().-]/g, "")
  if (/^\+[1-9]\d{6,14}$/.test(digits)) return digits
  if (/^00[1-9]\d{6,13}$/.test(digits)) return `+${digits.slice(2)}`
  // the numbering plan of North America
  if ((country === "US" || country === "CA") && /^1?[2-9]\d{9}$/.test(digits)) return `+1${digits.slice(-10)}`
  return null
}
