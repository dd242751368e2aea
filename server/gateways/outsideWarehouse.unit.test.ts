import { createServer, type Server } from "node:http"
import type { AddressInfo } from "node:net"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { httpOutside, type OutsideRequest, OutsideUnreachable } from "./outsideWarehouse.ts"

/** What the warehouse answers next, and what it was asked. */
let answer: { status: number; body: string } | "silence" | "hang up" = "silence"
const asked: { method: string; path: string; body: string }[] = []
let server: Server
let base: string
beforeAll(async () => {
  server = createServer((request, response) => {
    let body = ""
    request.on("data", (part) => {
      body += part
    })
    request.on("end", () => {
      asked.push({ method: request.method ?? "", path: request.url ?? "", body })
      if (answer === "hang up") request.socket.destroy()
      else if (answer !== "silence")
        response.writeHead(answer.status, { "content-type": "application/json" }).end(answer.body)
    })
  })
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve))
  base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`
})
afterAll(() => {
  server.closeAllConnections()
  server.close()
})

const key = "0b7c1f52-8a5e-4f0e-9a57-3f6f5f0a4c11"
const taken = {
  key,
  state: "taken",
  reference: "HR-1001",
  carrier: "Hollow Road Haulage",
  service: "Standard",
  packages: [],
}
const request: OutsideRequest = {
  number: "48231",
  purchaseOrder: "PO 7",
  promisedOn: "2026-12-02",
  receiver: { lines: ["Elk Run Taproom", "14 Growler Row", "Denver CO 80205"], country: "US", postalCode: "80205" },
  instructions: "",
  lines: [{ sku: "HYD-TRI", description: "Hydrometer", quantity: 2 }],
}
const says = (status: number, body: unknown) => {
  answer = { status, body: typeof body === "string" ? body : JSON.stringify(body) }
  return httpOutside(base, 400)
}

describe("an outside warehouse", () => {
  it("is sent the order under its key", async () => {
    expect(await says(201, taken).send(key, request)).toEqual({ kind: "known", ...taken })
    const last = asked.at(-1)
    expect([last?.method, last?.path]).toEqual(["PUT", `/v1/orders/${key}`])
    expect(JSON.parse(last?.body ?? "")).toEqual(request)
  })

  it("tells how it stands, with the tracking once it has shipped", async () => {
    const shipped = { ...taken, state: "shipped", packages: [{ trackingNumber: "HR700000001", weightLb: "12.40" }] }
    expect(await says(200, shipped).look(key)).toEqual({ kind: "known", ...shipped })
    expect(await says(404, { reason: "no such order" }).look(key)).toEqual({ kind: "unknown" })
  })

  it.each([
    [422, { reason: "YST-ALE-500 is not kept here" }, "YST-ALE-500 is not kept here"],
    [410, { reason: "it was given back" }, "it was given back"],
    [409, {}, "no reason given"],
    [422, { reason: 7 }, "no reason given"],
  ])("refuses with its reason, or without one: %i %o", async (status, body, reason) => {
    expect(await says(status, body).send(key, request)).toEqual({ kind: "refused", reason })
  })

  it("gives an order back, or says that it is shipped", async () => {
    expect(await says(200, { key, state: "recalled" }).recall(key)).toEqual({ kind: "unknown" })
    expect(await says(409, { reason: "it is shipped" }).recall(key)).toEqual({
      kind: "refused",
      reason: "it is shipped",
    })
    // it never had it: there is nothing to give back
    expect(await says(404, {}).recall(key)).toEqual({ kind: "unknown" })
  })

  it.each([
    [500, { error: "down for a moment" }],
    [200, "{"],
    [200, { ...taken, state: "lost" }],
    [200, { ...taken, packages: [{ trackingNumber: "", weightLb: "1" }] }],
    [200, { ...taken, packages: Array.from({ length: 201 }, () => ({ trackingNumber: "A", weightLb: "1" })) }],
    [201, []],
  ])("that says nothing that can be trusted is to be asked again: %i %o", async (status, body) => {
    await expect(says(status, body).send(key, request)).rejects.toThrow(OutsideUnreachable)
  })

  it("that is silent or hangs up is to be asked again", async () => {
    for (const nothing of ["silence", "hang up"] as const) {
      answer = nothing
      await expect(httpOutside(base, 200).look(key)).rejects.toThrow(OutsideUnreachable)
    }
  })
})
