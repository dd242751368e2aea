import type { ClosingTerms, ClosingWay } from "../tariff/index.ts"
import { type Mass, sumMass } from "../units/index.ts"

/** A package on a truck, as a form lists it. */
export interface Handed {
  readonly id: number
  /** Of the account that pays its freight. */
  readonly account: string
  readonly service: string
  readonly weight: Mass
}

/** What one form stands for. */
export interface Form<P extends Handed> {
  readonly way: ClosingWay
  readonly account: string
  /** Null: the services of the account together. */
  readonly service: string | null
  readonly packages: readonly P[]
  readonly weight: Mass
}

/**
 * The forms that packages are handed over with, by the carrier's own way: one for each account, or for each account and
 * service; a bill over the truck is one whoever pays. Every package is on exactly one of them. In the order of accounts
 * and services.
 */
export function formsFor<P extends Handed>(terms: ClosingTerms, packages: readonly P[]): Form<P>[] {
  const groups = new Map<string, P[]>()
  for (const one of packages) {
    const account = terms.way === "bill-of-lading" ? "" : one.account
    const key = JSON.stringify([account, terms.by === "service" ? one.service : null])
    const own = groups.get(key)
    if (own) own.push(one)
    else groups.set(key, [one])
  }
  return [...groups]
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([key, own]) => {
      const [account, service] = JSON.parse(key) as [string, string | null]
      return {
        way: terms.way,
        account: account || (own[0]?.account ?? ""),
        service,
        packages: own,
        weight: sumMass(own.map((one) => one.weight)),
      }
    })
}

/** Signs that a consignment number may have: GS1 character set 82. Source: GS1 General Specifications, section 7.11. */
const set82 = /^[!"%&'()*+,\-./0-9:;<=>?A-Z_a-z]{1,30}$/

/**
 * A Global Identification Number for Consignment, AI (401): the company prefix of who consigns and a reference of his own,
 * at most 30 signs. Source: GS1 General Specifications, AI 401. Throws a RangeError where it can't be one.
 *
 * @example ginc("9521234", "DLH-261124-4-1415") // "9521234DLH-261124-4-1415"
 */
export function ginc(companyPrefix: string, reference: string): string {
  const number = `${companyPrefix}${reference}`
  if (!/^\d{4,12}$/.test(companyPrefix) || reference === "" || !set82.test(number))
    throw new RangeError(`no consignment number: "${companyPrefix}" "${reference}"`)
  return number
}
