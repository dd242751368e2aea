import type { IncomingMessage, ServerResponse } from "node:http"
import { join } from "node:path"
import { setTimeout as pause } from "node:timers/promises"
import { Webhook } from "standardwebhooks"
import { answerJson, argument, bodyOf, FileState, serve } from "../process.ts"
import { addEvents, type EventBook, eventsAfter, type ScanEvent, takeAddress } from "./events.ts"
import { cancelCollection, Declined, type HandoverBook, takeClosing, takeCollection } from "./handover.ts"
import { NotCarried, type QuoteRequest } from "./published.ts"
import { PriceList } from "./tariff.ts"

/**
 * The carriers' booking services, simulated, each below its code, such as `/LARK`: `PUT`, `GET` and `DELETE /v1/bookings/{key}`, `PUT /v1/bookings/{key}/void`,
 * `PUT /v1/bookings/{key}/scan` (which the carrier's own people do, when a package is handed to them),
 * forms of what was handed over (`PUT` and `GET /v1/closings/{key}`), collections (`PUT`, `GET` and `DELETE /v1/collections/{key}`),
 * what becomes of packages (`GET /v1/events?after=CURSOR`; the carrier's own people `POST /v1/events` what they scan, which is
 * also sent, signed as standard webhooks are, to whoever `PUT /v1/subscriber` names), other addresses (`PUT /v1/addresses/{number}/{key}`),
 * its own ledger at `GET /v1/ledger` and its book of what is handed over at `GET /v1/handover`, and faults switched on at `PUT /faults` as `{ "fault": "slow" | "refuse" |
 * "lose-answer" | "down" | "wrong-charge" | "malformed" | "twice" | null, "times": n, "every": n, "answerMs": n }`. A booking that is answered
 * slowly, not at all, malformed or twice is in the ledger anyway.
 *
 * Arguments: --carriers CODE,CODE --tariffs FOLDER --state FOLDER --port N
 */
type Fault = "slow" | "refuse" | "lose-answer" | "down" | "wrong-charge" | "malformed" | "twice"

interface LedgerEntry {
  key: string
  state: "booked" | "cancelled" | "void"
  reference: string
  service: string
  charge: { amount: string; currency: string }
  masterTrackingNumber: string
  packages: { number: number; sscc: string; trackingNumber: string; routingCode: string }[]
  /** Shown at the counter, where the labels are printed by it. */
  counterCode?: string
  papers?: BookingRequest["papers"]
  bookedAt: string
  /** When a package of it was first seen; a label that is paid when scanned costs from then on. */
  scannedAt?: string
  voidedAt?: string
}

type BookingRequest = Omit<QuoteRequest, "packages"> & {
  reference: string
  /** Papers that came as data instead of a print. */
  papers?: readonly { kind: string; number: string; data: unknown }[]
  /** Our number from the range that the carrier gave us. */
  proNumber?: string
  packages: readonly (QuoteRequest["packages"][number] & { number: number; sscc: string })[]
}

interface State extends HandoverBook, EventBook {
  serial: number
  ledger: Record<string, LedgerEntry>
  fault: Fault | null
  faultTimes: number
  /** Only every so many-th time that the fault could strike; 0 and 1: every time. */
  faultEvery?: number
  faultCount?: number
  /** How long a booking takes to be answered. */
  answerMs?: number
}

/** One of the carriers: its price list and its own books. */
class Carrier {
  private readonly prices: PriceList
  private readonly state: FileState<State>

  constructor(
    private readonly code: string,
    tariffs: string,
    folder: string,
  ) {
    this.prices = new PriceList(tariffs, code)
    this.state = new FileState<State>(join(folder, `${code}.json`), {
      serial: 0,
      ledger: {},
      fault: null,
      faultTimes: 0,
    })
  }

  private takeFault(...of: Fault[]): Fault | null {
    const { fault } = this.state.value
    if (!fault || !of.includes(fault)) return null
    const { faultEvery = 0, faultCount = 0 } = this.state.value
    this.state.value.faultCount = faultCount + 1
    if (faultEvery > 1 && (faultCount + 1) % faultEvery !== 0) return null
    if (this.state.value.faultTimes > 0) {
      this.state.value.faultTimes -= 1
      if (this.state.value.faultTimes === 0) this.state.value.fault = null
      this.state.save()
    }
    return fault
  }

  /**
   * A tracking number: two letters of the carrier and twelve digits, the last one a check digit (mod 10, weights 3, 1);
   * of the post a postal item number as UPU S10 has it.
   */
  private trackingNumber(): string {
    this.state.value.serial += 1
    if (this.prices.numbers === "s10") {
      const item = String(10_000_000 + this.state.value.serial)
      const weighted = [8, 6, 4, 2, 3, 5, 9, 7].reduce((sum, weight, index) => sum + weight * Number(item[index]), 0)
      const digit = 11 - (weighted % 11)
      return `CV${item}${digit === 10 ? 0 : digit === 11 ? 5 : digit}US`
    }
    const digits = String(this.state.value.serial).padStart(11, "0")
    const sum = [...digits]
      .reverse()
      .reduce((total, digit, index) => total + Number(digit) * (index % 2 === 0 ? 3 : 1), 0)
    return `${this.code.slice(0, 2)}${digits}${(10 - (sum % 10)) % 10}`
  }

  private book(key: string, request: BookingRequest): LedgerEntry {
    const quoted = this.prices.quote(request)
    const amount = this.takeFault("wrong-charge") ? (Number(quoted.amount) + 1).toFixed(2) : quoted.amount
    const packages = request.packages.map((one) => ({
      number: one.number,
      sscc: one.sscc,
      trackingNumber: this.trackingNumber(),
      routingCode: `${this.code.slice(0, 1)}${quoted.zone}-${request.receiver.postalCode.replace(/[^A-Z0-9]/gi, "").slice(0, 6)}`,
    }))
    const entry: LedgerEntry = {
      key,
      state: "booked",
      reference: request.reference,
      service: request.service,
      charge: { amount, currency: quoted.currency },
      masterTrackingNumber: request.proNumber || (packages[0]?.trackingNumber ?? this.trackingNumber()),
      packages,
      // what came as data is kept, and can be asked for
      ...(request.papers?.length ? { papers: request.papers } : {}),
      ...(request.options?.includes("counter-code")
        ? { counterCode: `${this.code}-${String(this.state.value.serial).padStart(8, "0")}` }
        : {}),
      bookedAt: new Date().toISOString(),
    }
    this.state.value.ledger[key] = entry
    this.state.save()
    return entry
  }

  /** Forms of what was handed over, and collections. What is answered too late, or not at all, is in the book anyway. */
  private async handOver(request: IncomingMessage, response: ServerResponse, what: string, key: string): Promise<void> {
    if (this.takeFault("down")) return void request.socket.destroy()
    const book = this.state.value
    const known = () => (what === "closings" ? book.closings?.[key] : book.collections?.[key])
    if (request.method === "GET")
      return known() ? answerJson(response, 200, known()) : answerJson(response, 404, { reason: "nothing by that key" })
    if (request.method === "DELETE" && what === "collections") {
      cancelCollection(book, key)
      this.state.save()
      if (this.takeFault("lose-answer")) return void request.socket.destroy()
      return answerJson(response, 200, known())
    }
    if (request.method !== "PUT") return answerJson(response, 405, { reason: "PUT or GET" })
    const body = JSON.parse((await bodyOf(request)).toString())
    if (this.takeFault("refuse")) return answerJson(response, 422, { reason: "account on hold" })
    try {
      const { handover, currency } = this.prices
      if (what === "closings") takeClosing(book, this.code, handover, key, body, this.states())
      else takeCollection(book, this.code, handover, currency, key, body)
    } catch (error) {
      if (error instanceof Declined) return answerJson(response, 422, { reason: error.message })
      throw error
    }
    this.state.save()
    if (this.takeFault("slow")) await pause(8_000)
    if (this.takeFault("lose-answer")) return void request.socket.destroy()
    if (this.takeFault("malformed"))
      return void response.writeHead(201, { "content-type": "application/json" }).end('{"key": "')
    return answerJson(response, 201, known())
  }

  /** What becomes of packages, and other addresses for them. */
  private async follow(request: IncomingMessage, response: ServerResponse, path: string): Promise<void> {
    const book = this.state.value
    if (this.takeFault("down")) return void request.socket.destroy()
    if (path === "/v1/events" && request.method === "POST") {
      const given = [JSON.parse((await bodyOf(request)).toString())].flat() as Partial<ScanEvent>[]
      const fresh = addEvents(book, this.code, given)
      this.state.save()
      answerJson(response, 201, fresh)
      return this.push(fresh)
    }
    if (path === "/v1/events") {
      const { searchParams } = new URL(request.url ?? "", "http://carrier")
      return answerJson(response, 200, eventsAfter(book, searchParams.get("after") ?? ""))
    }
    if (path === "/v1/subscriber" && request.method === "PUT") {
      book.subscriber = JSON.parse((await bodyOf(request)).toString()) as EventBook["subscriber"]
      this.state.save()
      return answerJson(response, 200, { url: book.subscriber?.url ?? null })
    }
    const [, number, key] = /^\/v1\/addresses\/([^/]+)\/([\w-]{3,80})$/.exec(path) ?? []
    if (!number || !key || request.method !== "PUT") return answerJson(response, 404, { reason: "no such address" })
    const { lines = [] } = JSON.parse((await bodyOf(request)).toString()) as { lines?: string[] }
    if (this.takeFault("refuse")) return answerJson(response, 422, { reason: "outside of our area" })
    const taken = takeAddress(book, Object.values(book.ledger), decodeURIComponent(number), key, lines)
    this.state.save()
    if (this.takeFault("lose-answer")) return void request.socket.destroy()
    if (taken === null) return answerJson(response, 404, { reason: "no such package" })
    if (typeof taken === "string") return answerJson(response, 422, { reason: taken })
    return answerJson(response, 201, taken)
  }

  /** Sends events to whoever asked for them, signed; what is not taken is not sent again, and can be asked for. */
  private async push(events: readonly ScanEvent[]): Promise<void> {
    const { subscriber } = this.state.value
    if (!subscriber || events.length === 0) return
    const body = JSON.stringify({ type: "tracking.events", events })
    const id = `msg_${events[0]?.id}`
    const at = new Date()
    await fetch(subscriber.url, {
      method: "POST",
      headers: {
        "content-type": "application/json",
        "webhook-id": id,
        "webhook-timestamp": String(Math.floor(at.getTime() / 1000)),
        "webhook-signature": new Webhook(subscriber.secret).sign(id, at, body),
      },
      body,
    }).catch(() => undefined)
  }

  /** What became of each tracking number that was ever given. */
  private states(): (trackingNumber: string) => string | undefined {
    const states = new Map(
      Object.values(this.state.value.ledger).flatMap((entry) =>
        entry.packages.map((one) => [one.trackingNumber, entry.state] as const),
      ),
    )
    return (trackingNumber) => states.get(trackingNumber)
  }

  /** Answers a request below the carrier's own address. */
  async handle(request: IncomingMessage, response: ServerResponse, path: string): Promise<void> {
    if (path === "/faults" && request.method === "PUT") {
      const body = JSON.parse((await bodyOf(request)).toString()) as {
        fault: Fault | null
        times?: number
        every?: number
        answerMs?: number
      }
      this.state.value.answerMs = body.answerMs ?? 0
      this.state.value.fault = body.fault
      this.state.value.faultTimes = body.times ?? 0
      this.state.value.faultEvery = body.every ?? 0
      this.state.value.faultCount = 0
      this.state.save()
      return answerJson(response, 200, body)
    }
    if (path === "/v1/papers")
      return answerJson(
        response,
        200,
        Object.values(this.state.value.ledger).flatMap((entry) =>
          (entry.papers ?? []).map((paper) => ({ reference: entry.reference, state: entry.state, ...paper })),
        ),
      )
    const [, what, own] = /^\/v1\/(closings|collections)\/([\w-]{8,64})$/.exec(path) ?? []
    if (what && own) return this.handOver(request, response, what, own)
    if (path === "/v1/handover")
      return answerJson(response, 200, {
        closings: Object.values(this.state.value.closings ?? {}),
        collections: Object.values(this.state.value.collections ?? {}),
      })
    if (path.startsWith("/v1/events") || path.startsWith("/v1/addresses/") || path === "/v1/subscriber")
      return this.follow(request, response, path)
    if (path === "/v1/ledger") return answerJson(response, 200, Object.values(this.state.value.ledger))
    const [, key, makeVoid, scan] = /^\/v1\/bookings\/([\w-]{8,64})(?:(\/void)|(\/scan))?$/.exec(path) ?? []
    if (!key) return answerJson(response, 404, { reason: "no such address" })
    if (this.takeFault("down")) return void request.socket.destroy()
    const known = this.state.value.ledger[key]
    if (scan && request.method === "PUT") {
      if (known?.state !== "booked") return answerJson(response, 404, { reason: "no such booking" })
      known.scannedAt ??= new Date().toISOString()
      this.state.save()
      return answerJson(response, 200, known)
    }
    if (makeVoid && request.method === "PUT") {
      if (!known || known.state === "cancelled") return answerJson(response, 404, { reason: "no such booking" })
      if (known.scannedAt) return answerJson(response, 422, { reason: "a package of it was scanned" })
      if (known.state !== "void") {
        if (
          !this.prices.dueWhenScanned(known.service) &&
          Date.now() - Date.parse(known.bookedAt) > this.prices.voidMinutes * 60_000
        )
          return answerJson(response, 422, { reason: "the time in which it can be made void is over" })
        known.state = "void"
        known.voidedAt = new Date().toISOString()
        this.state.save()
      }
      if (this.takeFault("lose-answer")) return void request.socket.destroy()
      return answerJson(response, 200, known)
    }
    if (request.method === "GET")
      return known ? answerJson(response, 200, known) : answerJson(response, 404, { reason: "no such booking" })
    if (request.method === "DELETE") {
      if (known) known.state = "cancelled"
      else
        this.state.value.ledger[key] = {
          key,
          state: "cancelled",
          reference: "",
          service: "",
          charge: { amount: "0.00", currency: "USD" },
          masterTrackingNumber: "-",
          packages: [],
          bookedAt: new Date().toISOString(),
        }
      this.state.save()
      return answerJson(response, 200, { key, state: "cancelled" })
    }
    if (request.method !== "PUT") return answerJson(response, 405, { reason: "PUT, GET or DELETE" })
    if (known) return answerJson(response, known.state === "cancelled" ? 410 : 200, known)
    const body = JSON.parse((await bodyOf(request)).toString())
    if (this.state.value.answerMs) await pause(this.state.value.answerMs)
    if (this.takeFault("refuse")) return answerJson(response, 422, { reason: "account on hold" })
    try {
      const entry = this.state.value.ledger[key] ?? this.book(key, body)
      if (this.takeFault("slow")) await pause(8_000)
      if (this.takeFault("lose-answer")) return void request.socket.destroy()
      if (this.takeFault("malformed"))
        return void response.writeHead(201, { "content-type": "application/json" }).end('{"key": "')
      if (this.takeFault("twice"))
        return answerJson(response, 201, { ...entry, packages: [...entry.packages, ...entry.packages] })
      return answerJson(response, 201, entry)
    } catch (error) {
      if (error instanceof NotCarried) return answerJson(response, 422, { reason: error.message })
      throw error
    }
  }
}

const carriers = new Map(
  argument("carriers")
    .split(",")
    .map((code) => [code, new Carrier(code, argument("tariffs"), argument("state"))]),
)

serve(Number(argument("port", "0")), async (request, response) => {
  const { pathname } = new URL(request.url ?? "/", "http://carriers")
  const [, code, path] = /^\/([A-Z]{4})(\/.*)$/.exec(pathname) ?? []
  const carrier = carriers.get(code ?? "")
  if (!carrier) return answerJson(response, 404, { reason: "no such carrier" })
  return carrier.handle(request, response, path as string)
})
