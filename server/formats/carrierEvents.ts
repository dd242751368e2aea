import { isLocalDate, type LocalDate } from "core/calendar/index.ts"
import { z } from "zod"

const text = (most: number) =>
  z
    .string()
    .transform((raw) =>
      raw
        .replace(/\p{C}+/gu, " ")
        .trim()
        .slice(0, most),
    )
    .optional()
    .transform((shown) => shown ?? "")
const code = z.string().regex(/^[\x21-\x7e]{1,40}$/)

/** Most bytes of a picture, as it was taken at the door. */
const mostPicture = 400 * 1024

/** A PNG or JPEG by its first bytes; anything else is no picture. */
const picture = z
  .string()
  .max(Math.ceil((mostPicture * 4) / 3) + 4)
  .regex(/^[A-Za-z0-9+/]+={0,2}$/)
  .transform((base64, context) => {
    const bytes = Buffer.from(base64, "base64")
    const media = mediaOf(bytes)
    if (media) return { bytes, media }
    context.addIssue({ code: "custom", message: "no picture" })
    return z.NEVER
  })

export function mediaOf(bytes: Buffer): "image/png" | "image/jpeg" | null {
  if (bytes.subarray(0, 8).equals(Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]))) return "image/png"
  if (bytes.subarray(0, 3).equals(Buffer.from([0xff, 0xd8, 0xff]))) return "image/jpeg"
  return null
}

/**
 * An event as carriers tell it. With `trackingNumber` it is of one package, with `masterTrackingNumber` alone of all of a
 * shipment. Times say their offset from UTC (RFC 3339), so that they are shown as the clock on the wall there showed them.
 */
const eventSchema = z
  .object({
    id: code,
    trackingNumber: code.optional(),
    masterTrackingNumber: code.optional(),
    code,
    description: text(200),
    occurredAt: z.iso.datetime({ offset: true }),
    place: z
      .object({
        city: text(40),
        state: text(6),
        postalCode: text(12),
        country: z
          .string()
          .regex(/^[A-Z]{2}$/)
          .optional(),
      })
      .optional(),
    estimatedDelivery: z.string().refine(isLocalDate).optional(),
    receivedBy: text(60),
    picture: picture.optional(),
  })
  .refine((event) => event.trackingNumber || event.masterTrackingNumber, { path: ["trackingNumber"] })

export interface CarrierEvent {
  readonly id: string
  /** Empty: of all packages of its shipment. */
  readonly tracking: string
  readonly master: string
  readonly code: string
  readonly text: string
  readonly at: Date
  /** Minutes that the clock there is ahead of UTC. */
  readonly zoneOffset: number
  readonly place: string
  readonly postalCode: string
  readonly country: string
  readonly estimatedOn: LocalDate | null
  readonly name: string
  readonly picture: { readonly bytes: Buffer; readonly media: "image/png" | "image/jpeg" } | null
}

const offsetOf = (instant: string): number => {
  const [, sign, hours = "0", minutes = "0"] = /([+-])(\d\d):(\d\d)$/.exec(instant) ?? []
  return (sign === "-" ? -1 : 1) * (Number(hours) * 60 + Number(minutes))
}

/** An event that is said to be further ahead than this is of a clock that is wrong. */
const aheadMs = 31 * 24 * 3_600_000

/**
 * Reads events: one that can't be read, or whose clock is wrong, keeps none of the others. How many
 * those were is answered too.
 */
export function readCarrierEvents(
  values: readonly unknown[],
  now: Date,
): { readonly events: CarrierEvent[]; readonly unreadable: number } {
  const events = values
    .flatMap((one) => readCarrierEvent(one) ?? [])
    .filter((one) => one.at.getTime() <= now.getTime() + aheadMs)
  return { events, unreadable: values.length - events.length }
}

function readCarrierEvent(value: unknown): CarrierEvent | null {
  const read = eventSchema.safeParse(value)
  if (!read.success) return null
  const event = read.data
  const { city = "", state = "", postalCode = "", country = "" } = event.place ?? {}
  return {
    id: event.id,
    tracking: event.trackingNumber ?? "",
    master: event.trackingNumber ? "" : (event.masterTrackingNumber ?? ""),
    code: event.code,
    text: event.description,
    at: new Date(event.occurredAt),
    zoneOffset: offsetOf(event.occurredAt),
    place: [city, state, state === "" ? country : ""].filter(Boolean).join(", "),
    postalCode,
    country,
    estimatedOn: event.estimatedDelivery ?? null,
    name: event.receivedBy,
    picture: event.picture ?? null,
  }
}
