import type { Suggestion } from "core/packing/index.ts"
import type { Outcome } from "core/refusal/index.ts"
import { describe, expect, it } from "vitest"
import { shipmentPlate, suggestedPlate } from "./shipmentPlate.ts"
import type { ShipmentView } from "./shipmentView.server.ts"

const line = { id: 1, letter: "a", sku: "YST-ALE-500", picked: 4, packed: 4, ordered: 4 }
const carton = (number: number, more: Record<string, unknown> = {}) => ({
  number,
  kind: "carton",
  state: "open",
  flaws: [],
  contents: [{ lineId: 1, line: "a", quantity: 4 }],
  cartons: [],
  planned: {},
  ...more,
})
const view = (more: Record<string, unknown> = {}): ShipmentView =>
  ({
    orderNumber: "48217",
    pieces: 1,
    stopped: [],
    stage: "packing",
    toPick: 0,
    state: "open",
    trouble: null,
    givingUp: false,
    buyingFrom: null,
    bought: null,
    printed: 0,
    collection: { id: 9, door: "4" },
    lines: [line],
    packages: [carton(1)],
    catalogue: [{ code: "K12", name: "Large carton", kind: "carton" }],
    suggestion: { code: "K12", name: "Large carton", kind: "carton" },
    toSuggest: null,
    version: 7,
    ...more,
  }) as unknown as ShipmentView
const offer = (more: Record<string, unknown> = {}) =>
  ({
    code: "LKG",
    name: "Larkspur Ground",
    needs: null,
    down: false,
    contract: { amount: "70.91", currency: "USD" },
    ...more,
  }) as unknown as ShipmentView["offers"][number]
const plate = (
  more: Record<string, unknown> = {},
  hand: number | null = 1,
  left = 0,
  chosen: ReturnType<typeof offer> | null = null,
  next: { orderNumber: string; task: "pick" | "pack" } | null = null,
) => shipmentPlate(view(more), hand, left, chosen, next)
const unpacked = { lines: [{ ...line, packed: 0 }], packages: [], pieces: 0 }

describe("what Enter does at a shipment", () => {
  it.each<[string, ReturnType<typeof plate>, string, Record<string, unknown>]>([
    [
      "a stopped order is looked at",
      plate({ stopped: [{ code: "stop.by-hand", values: {} }] }),
      "See why it is stopped",
      { to: "/orders/48217" },
    ],
    ["what is not picked is picked", plate({ toPick: 3 }), "Pick 48217", { to: "/pick/48217" }],
    ["a carton is taken", plate(unpacked, null, 4), "Add carton K12", { send: { intent: "add", packaging: "K12" } }],
    [
      "a pallet is taken",
      plate({ ...unpacked, suggestion: { code: "P10", name: "Pallet", kind: "pallet" } }, null, 4),
      "Add pallet P10",
      { send: { intent: "add", packaging: "P10" } },
    ],
    [
      "items are scanned in",
      plate({ lines: [{ ...line, packed: 1 }] }, 1, 3),
      "Scan items into carton 1",
      { ready: false },
    ],
    [
      "a flaw is waited for",
      plate({
        packages: [carton(1, { flaws: [{ code: "flaw.overloaded", values: { load: "80 lb", limit: "75 lb" } }] })],
      }),
      "Carton 1 can't be closed",
      { ready: false },
    ],
    [
      "a weight that its contents do not explain is counted again",
      plate({ packages: [carton(1, { flaws: [{ code: "flaw.weight", values: {} }] })] }),
      "Count carton 1 again",
      { ready: false },
    ],
    [
      "one that was weighed after it was closed is counted before it is bought",
      plate(
        { packages: [carton(1, { state: "closed", flaws: [{ code: "flaw.weight", values: {} }] })] },
        null,
        0,
        offer(),
      ),
      "Count carton 1 again",
      { ready: false },
    ],
    [
      "the carton in hand is named, not an empty one beside it",
      plate({ lines: [{ ...line, packed: 1 }], packages: [carton(1), carton(2, { contents: [] })] }, 1, 3),
      "Scan items into carton 1",
      { ready: false },
    ],
    [
      "an empty carton is dropped once all is packed",
      plate({
        packages: [carton(1), carton(2, { contents: [], flaws: [{ code: "flaw.empty", values: {} }] })],
        pieces: 2,
      }),
      "Remove empty carton 2",
      { send: { intent: "remove", package: "2" } },
    ],
    [
      "a doubt does not wait",
      plate({ packages: [carton(1, { flaws: [{ code: "doubt.volume", values: {} }] })] }),
      "Close the carton",
      { send: { intent: "close" } },
    ],
    [
      "cartons are closed",
      plate({ packages: [carton(1), carton(2)], pieces: 2 }),
      "Close 2 cartons",
      { send: { intent: "close" } },
    ],
    [
      "cartons go on a pallet for freight",
      plate({}, 1, 0, offer({ needs: "pallet" })),
      "Put the carton on a pallet",
      { send: { intent: "palletise" } },
    ],
    [
      "a pallet is taken apart for a parcel",
      plate({}, 1, 0, offer({ needs: "loose" })),
      "Break down the pallet",
      { send: { intent: "take-apart" } },
    ],
    [
      "labels are bought for a sum",
      plate({ packages: [carton(1, { state: "closed" })] }, null, 0, offer()),
      "Buy and print: $70.91",
      { send: { intent: "buy", version: "7", service: "LKG", amount: "70.91", currency: "USD" } },
    ],
    [
      "a carrier that is down is waited for",
      plate({ packages: [carton(1, { state: "closed" })] }, null, 0, offer({ down: true })),
      "Larkspur Ground",
      { ready: false },
    ],
    [
      "a booking under way is waited for",
      plate({ state: "buying", buyingFrom: "Larkspur Parcel" }),
      "Asking Larkspur Parcel",
      { ready: false },
    ],
    [
      "the next order is gone to",
      plate({ state: "bought", bought: { tracking: "LA1" } }, null, 0, null, { orderNumber: "48218", task: "pick" }),
      "Next: 48218",
      { to: "/pick/48218" },
    ],
    [
      "the dock is gone to when none is next",
      plate({ state: "bought", bought: { tracking: "LA1" } }),
      "To door 4",
      { to: "/dock/9" },
    ],
    ["what is gone leads back to the day", plate({ stage: "gone" }), "Back to the day", { to: "/" }],
  ])("%s", (_, found, verb, more) => expect({ ...found, detail: "" }).toMatchObject({ verb, ...more }))
})

describe("the suggestion on the plate", () => {
  const place = { key: "1", x: 0, y: 0, z: 0, length: 1, width: 1, height: 1 }
  const suggestion = (...codes: (string | null)[]): Outcome<Suggestion> => ({
    ok: true,
    value: { boxes: codes.map((code) => ({ code, placed: [place] })), left: [], cost: null },
  })
  const toSuggest = view({ toSuggest: { loads: [{ quantity: 4 }], boxes: [] } })
  it("waits while it is worked out", () =>
    expect(suggestedPlate(toSuggest, null, true)).toMatchObject({ verb: "Working out cartons", ready: false }))
  it("takes one carton by its name, several by their number", () => {
    expect(suggestedPlate(toSuggest, suggestion("K12"), false)).toMatchObject({
      verb: "Add carton K12",
      send: { intent: "suggested", fill: "no" },
    })
    const several = suggestedPlate(toSuggest, suggestion("K12", "K12", "K05", null), false)
    expect(several).toMatchObject({ verb: "Add 4 cartons", ready: true })
    expect(several?.detail).toContain("2 × K12, K05, own carton")
    expect(JSON.parse(several?.send?.boxes ?? "")).toHaveLength(4)
  })
  it("is none where nothing fits, or it was refused: then the plate goes on without", () => {
    expect(suggestedPlate(toSuggest, suggestion(), false)).toBeNull()
    expect(suggestedPlate(toSuggest, { ok: false, reasons: [] }, false)).toBeNull()
    expect(shipmentPlate(view(unpacked), null, 4, null, null, null).verb).toBe("Add carton K12")
  })
})
