import { createServer, type Server } from "node:http"
import { afterAll, beforeAll, expect, it } from "vitest"
import { type BookingRequest, CarrierUnreachable, httpCarrier } from "./carrier.ts"

/** A server that answers what the test tells it to, the wrong things above all. */
type Answer = { status: number; body: string; delay?: number } | "hang up"
let answer: Answer = { status: 200, body: "{}" }
let server: Server
let address = ""
let asked = ""

beforeAll(async () => {
  server = createServer((request, response) => {
    asked = `${request.method} ${request.url}`
    request.resume()
    if (answer === "hang up") return void request.socket.destroy()
    const { status, body, delay } = answer
    setTimeout(() => response.writeHead(status, { "content-type": "application/json" }).end(body), delay ?? 0)
  })
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve))
  address = `http://127.0.0.1:${(server.address() as { port: number }).port}`
})
afterAll(() => {
  server.closeAllConnections()
  server.close()
})

const key = "0b9c7a52-5a0e-4a64-9a55-1f4a9f7f3d10"
const booked = {
  key,
  state: "booked",
  charge: { amount: "12.30", currency: "USD" },
  masterTrackingNumber: "LA1",
  packages: [{ number: 1, trackingNumber: "LA1", routingCode: "L5" }],
}
const carrier = () => httpCarrier(address, 300)
const book = () => carrier().book(key, {} as BookingRequest)

it("reads a booking, by PUT to its key", async () => {
  answer = { status: 201, body: JSON.stringify(booked) }
  expect(await book()).toEqual({ kind: "booked", booking: booked })
  expect(asked).toBe(`PUT /v1/bookings/${key}`)
})

it("takes 422 for a refusal with its reason, 410 for a cancelled key, 404 for an unknown one", async () => {
  answer = { status: 422, body: '{"reason":"account on hold"}' }
  expect(await book()).toEqual({ kind: "refused", reason: "account on hold" })
  answer = { status: 410, body: "{}" }
  expect(await book()).toEqual({ kind: "refused", reason: "cancelled" })
  answer = { status: 404, body: "{}" }
  expect(await carrier().find(key)).toEqual({ kind: "unknown" })
})

it.each<[string, Answer]>([
  ["an error", { status: 500, body: "{}" }],
  ["no JSON", { status: 200, body: "<html>" }],
  [
    "a charge that is no amount",
    { status: 200, body: JSON.stringify({ ...booked, charge: { amount: "12,3", currency: "USD" } }) },
  ],
  ["a booking without packages", { status: 200, body: JSON.stringify({ ...booked, packages: undefined }) }],
  ["nothing in time", { status: 200, body: JSON.stringify(booked), delay: 900 }],
  ["a closed line", "hang up"],
])("takes %s for no answer, to be asked again by the same key", async (_, given) => {
  answer = given
  await expect(book()).rejects.toThrow(CarrierUnreachable)
})

it("is not done with cancelling until the carrier says so", async () => {
  answer = { status: 503, body: "{}" }
  await expect(carrier().cancel(key)).rejects.toThrow(CarrierUnreachable)
  answer = { status: 200, body: "{}" }
  await expect(carrier().cancel(key)).resolves.toBeUndefined()
  expect(asked).toBe(`DELETE /v1/bookings/${key}`)
})
