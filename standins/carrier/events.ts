import { deflateSync } from "node:zlib"

/** What became of a package, as the carrier's own people scan it. */
export interface ScanEvent {
  id: string
  trackingNumber?: string
  masterTrackingNumber?: string
  code: string
  description: string
  occurredAt: string
  place?: { city?: string; state?: string; postalCode?: string; country?: string }
  estimatedDelivery?: string
  receivedBy?: string
  picture?: string
}

/** Another address for a package, as the shipper gave it. */
interface Readdressed {
  trackingNumber: string
  key: string
  lines: string[]
}

export interface EventBook {
  events?: ScanEvent[]
  readdressed?: Readdressed[]
  /** Where events are sent to as they happen, and what they are signed with. */
  subscriber?: { url: string; secret: string } | null
}

/** The carrier's own codes: each stands for something that the trade has a word for. */
export const codes = {
  LBL: "Shipment data received",
  PU: "Picked up",
  DEP: "Departed from facility",
  ARR: "Arrived at facility",
  CUS: "Handed to customs",
  CHL: "Held by customs",
  CRL: "Released by customs",
  DLY: "Delayed",
  ADR: "Address incorrect or incomplete",
  OFD: "Out for delivery",
  NHM: "Nobody at the address",
  RDY: "Ready for pickup at the counter",
  DMG: "Damaged in handling",
  REF: "Refused by receiver",
  RTS: "Return to sender started",
  RTN: "Returned to sender",
  LST: "Tracing started, can't be found",
  DEL: "Delivered",
  WXD: "Delayed by weather",
} as const

const most = 500

/** Adds events to the book, each with an id of its own; the same id again is the same event. Answers those that are new. */
export function addEvents(book: EventBook, code: string, given: readonly Partial<ScanEvent>[]): ScanEvent[] {
  book.events ??= []
  const fresh: ScanEvent[] = []
  for (const one of given) {
    const id = one.id ?? `${code}-E${String(book.events.length + 1).padStart(7, "0")}`
    if (book.events.some((known) => known.id === id) && !one.id?.endsWith("again")) continue
    const event: ScanEvent = {
      description: (codes as Record<string, string>)[one.code ?? ""] ?? "",
      occurredAt: new Date().toISOString(),
      ...one,
      id: id.replace(/again$/, ""),
      code: one.code ?? "",
    }
    if (one.picture === "door") event.picture = doorPicture()
    book.events.push(event)
    fresh.push(event)
  }
  return fresh
}

/** Events after a cursor, oldest first, and the cursor after them. */
export function eventsAfter(book: EventBook, cursor: string): { events: ScanEvent[]; next: string } {
  const from = Math.max(0, Number(cursor) || 0)
  const events = (book.events ?? []).slice(from, from + most)
  return { events, next: String(from + events.length) }
}

interface Booked {
  readonly state: string
  readonly packages: readonly { readonly trackingNumber: string }[]
}

/** Another address, once by its key; null where the number is none of the carrier's, a text where he does not do it. */
export function takeAddress(
  book: EventBook,
  ledger: readonly Booked[],
  trackingNumber: string,
  key: string,
  lines: string[],
): Readdressed | string | null {
  book.readdressed ??= []
  const known = book.readdressed.find((one) => one.trackingNumber === trackingNumber && one.key === key)
  if (known) return known
  const booked = ledger.some((entry) => entry.packages.some((one) => one.trackingNumber === trackingNumber))
  if (!booked && !(book.events ?? []).some((one) => one.trackingNumber === trackingNumber)) return null
  if ((book.events ?? []).some((one) => one.trackingNumber === trackingNumber && one.code === "DEL"))
    return "delivered already"
  const taken = { trackingNumber, key, lines }
  book.readdressed.push(taken)
  return taken
}

/** A picture as a driver takes it: a door, a step, and a carton on it. A PNG of 96 × 64 pixels. */
function doorPicture(): string {
  const [width, height] = [96, 64]
  const rows = Buffer.alloc(height * (width * 3 + 1))
  for (let y = 0; y < height; y += 1)
    for (let x = 0; x < width; x += 1) {
      const door = x > 30 && x < 60 && y > 6 && y < 50
      const carton = x > 54 && x < 76 && y > 36 && y < 52
      const color = carton ? [176, 132, 84] : door ? [58, 84, 76] : y > 49 ? [120, 118, 112] : [214, 208, 196]
      rows.set(color, y * (width * 3 + 1) + 1 + x * 3)
    }
  const chunk = (type: string, data: Buffer) => {
    const body = Buffer.concat([Buffer.from(type, "latin1"), data])
    const length = Buffer.alloc(4)
    length.writeUInt32BE(data.length)
    const sum = Buffer.alloc(4)
    sum.writeUInt32BE(crc32(body))
    return Buffer.concat([length, body, sum])
  }
  const header = Buffer.alloc(13)
  header.writeUInt32BE(width, 0)
  header.writeUInt32BE(height, 4)
  header.set([8, 2, 0, 0, 0], 8)
  return Buffer.concat([
    Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]),
    chunk("IHDR", header),
    chunk("IDAT", deflateSync(rows)),
    chunk("IEND", Buffer.alloc(0)),
  ]).toString("base64")
}

/** The sum that PNG asks for of each chunk (ISO 3309). */
function crc32(bytes: Buffer): number {
  let sum = 0xffffffff
  for (const byte of bytes) {
    sum ^= byte
    for (let bit = 0; bit < 8; bit += 1) sum = sum & 1 ? (sum >>> 1) ^ 0xedb88320 : sum >>> 1
  }
  return (sum ^ 0xffffffff) >>> 0
}
