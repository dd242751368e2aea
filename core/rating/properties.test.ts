import { Decimal } from "decimal.js"
import fc from "fast-check"
import { describe, expect, it } from "vitest"
import { anyOption, anyPackages, anyService, ofPackages } from "../../tests/tariffFuzz.ts"
import { denver, freightService, hamburg, parcelService, requestOf, tariffOf } from "../../tests/tariffSamples.ts"
import { moneyText } from "../money/index.ts"
import { tariffSchema } from "../tariff/index.ts"
import { mass, size } from "../units/index.ts"
import { rateShipment } from "./index.ts"
import type { RatedPackage } from "./request.ts"

describe("whatever the tariff and the shipment", () => {
  it("an answer is a rate whose charges add up to the cent, or a refusal with reasons; nothing throws", () => {
    let priced = 0
    fc.assert(
      fc.property(
        anyService,
        anyPackages,
        fc.constantFrom(denver, hamburg, { ...denver, postalCode: "" }, { ...denver, kind: "unknown" as const }),
        fc.oneof({ weight: 3, arbitrary: fc.constant([]) }, fc.array(anyOption, { maxLength: 2 })),
        (document, given, shipTo, options) => {
          const { tariff, service } = tariffOf(document)
          expect(tariffSchema.parse(tariff)).toEqual(tariff)
          const answer = rateShipment(
            tariff,
            service,
            requestOf(ofPackages(given), { shipTo, options: new Set(options) }),
          )
          if (!answer.ok) {
            expect(answer.reasons.length).toBeGreaterThan(0)
            return
          }
          priced += 1
          for (const side of ["list", "contract"] as const) {
            const sum = answer.rate.charges.reduce(
              (total, one) => total.add(moneyText(one[side]).amount),
              new Decimal(0),
            )
            expect(moneyText(answer.rate[side]).amount).toBe(sum.toFixed(2))
            expect(answer.rate[side].amount.isFinite()).toBe(true)
          }
          for (const charge of answer.rate.charges) expect(charge.why.length).toBeGreaterThan(0)
          expect(answer.rate.arrival.date >= "2026-11-24").toBe(true)
        },
      ),
      { numRuns: 1500 },
    )
    expect(priced).toBeGreaterThan(30)
  })

  it("the order of the packages changes nothing", () => {
    fc.assert(
      fc.property(fc.constantFrom(parcelService, freightService), anyPackages, fc.nat(4), (document, given, turn) => {
        const of = tariffOf({ ...document, limits: {}, goods: { handling: "any", dangerous: "all" } })
        const total = (all: readonly RatedPackage[]) => {
          const answer = rateShipment(of.tariff, of.service, requestOf(all))
          return answer.ok ? moneyText(answer.rate.contract).amount : answer.reasons.map((one) => one.code).sort()
        }
        const all = ofPackages(given)
        const turned = all.map((_, index) => all[(index + turn) % all.length] as RatedPackage)
        expect(total(turned)).toEqual(total(all))
      }),
      { numRuns: 300 },
    )
  })

  it("the unit that weights and edges were given in changes nothing", () => {
    // 1 lb = 0.45359237 kg and 1 in = 2.54 cm exactly: NIST Handbook 44, Appendix C
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 14_900 }),
        fc.tuple(...[0, 1, 2].map(() => fc.integer({ min: 4, max: 160 }))),
        (pounds, edges) => {
          const { tariff, service } = tariffOf(parcelService)
          const price = (one: Pick<RatedPackage, "weight" | "size">) => {
            const answer = rateShipment(tariff, service, requestOf([{ number: 1, ...one }]))
            return answer.ok ? moneyText(answer.rate.contract).amount : answer.reasons.map((reason) => reason.code)
          }
          const [l, w, h] = edges.map((edge) => new Decimal(edge).div(4)) as [Decimal, Decimal, Decimal]
          const weight = new Decimal(pounds).div(100)
          const imperial = { weight: mass(weight, "lb"), size: size(l, w, h, "in") }
          const metric = {
            weight: mass(weight.mul("0.45359237"), "kg"),
            size: size(l.mul("2.54"), w.mul("2.54"), h.mul("2.54"), "cm"),
          }
          expect(price(metric)).toEqual(price(imperial))
        },
      ),
      { numRuns: 500 },
    )
  })
})
