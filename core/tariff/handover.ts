import { z } from "zod"
import { code, country, figure, postal, time, weekdays, words } from "./atoms.ts"

/** By what a carrier proves that it was handed goods. */
export const closingWays = [
  /** One form whose one barcode stands for all packages. */
  "one-barcode",
  /** A list of the packages. */
  "manifest",
  /** A bill of lading, or a master bill over several. */
  "bill-of-lading",
  /** The list goes as data, and no paper is made. */
  "electronic",
  /** The carrier wants none. */
  "none",
] as const
export type ClosingWay = (typeof closingWays)[number]

const closing = z
  .strictObject({
    way: z.enum(closingWays).default("manifest"),
    /** One form for each account, or for each account and service. */
    by: z.enum(["account", "service"]).default("account"),
    /** The carrier takes the list as data as well. */
    told: z.boolean().default(false),
    /** How many of it are printed. */
    copies: z.number().int().min(1).max(5).default(1),
  })
  .refine((one) => one.way !== "electronic" || one.told, { error: "an electronic closing is told", path: ["told"] })
export type ClosingTerms = z.infer<typeof closing>

/** Collections that are asked for one by one. */
const booked = z
  .strictObject({
    /** Due once for each collection. */
    fee: figure.default("0"),
    /** The latest time at which one can be asked for on its own day; null: only for a later day. */
    until: time.nullable().default(null),
    /** Between these times trucks come. */
    from: time,
    to: time,
    weekdays: weekdays.default([1, 2, 3, 4, 5]),
    /** Minutes between ready and latest at least. */
    window: z.number().int().min(0).max(720).default(60),
  })
  .refine((one) => one.from < one.to, { error: "trucks come from a time to a later one", path: ["to"] })
export type BookedTerms = z.infer<typeof booked>

/** A place of the carrier where packages can be brought. */
const dropPlace = z.strictObject({
  code,
  name: words,
  street: words,
  city: words,
  state: z.string().regex(/^[A-Z0-9]{0,3}$/),
  postalCode: postal,
  country,
  /** Until when it takes packages, on these weekdays. */
  until: time,
  weekdays: weekdays.default([1, 2, 3, 4, 5]),
})
export type DropPlace = z.infer<typeof dropPlace>

/** How goods are handed over to the carrier. */
export const handoverSchema = z.strictObject({
  closing: closing.prefault({}),
  /** Null: none can be booked. */
  booked: booked.nullable().default(null),
  /** Where packages can be brought; none: nowhere. Which services take them so is an option of theirs. */
  dropOff: z.array(dropPlace).max(500).default([]),
})
export type Handover = z.infer<typeof handoverSchema>
