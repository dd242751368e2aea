import type { Address } from "./index.ts"

/** Boxes at the post, as they are written in the languages of the countries that are shipped to. */
const boxes: readonly RegExp[] = [
  // English: P.O. Box, POB, Box 9, Private Bag, Locked Bag, general delivery
  /\bP\.?\s*O\.?\s*B(OX|\.)?\s*#?\s*\d+/i,
  /\bpost\s*(office)?\s*box\b/i,
  /^\s*(GPO\s+)?box\s*(no\.?\s*)?#?\s*\d+/i,
  /\b(private|locked|mail)\s+bag\b/i,
  /\bgeneral\s+delivery\b|\bposte\s+restante\b|\bpostlagernd\b/i,
  // German, Dutch, the Nordic languages
  /\bpostfach\b|\bpostbus\b|\bpostboks\b|\bpostbox\b|\bpostilokero\b|\bp[óo]sth[óo]lf\b/i,
  // French, Italian, Spanish, Portuguese
  /\bbo[iî]te\s+postale\b|\bcase\s+postale\b|\bcasella\s+postale\b|\bcaixa\s+postal\b|\bapartado\b|\bapdo\.?\s*\d/i,
  /^\s*[CB]\.?\s?P\.?\s*\d+/i,
  // Polish, Czech, Hungarian, Turkish
  /\bskrytka\s+pocztowa\b|\bskr\.?\s*poczt\b|\bpo[šs]tovn[íi]\s+p[řr]ihr[áa]dka\b|\bpostafi[óo]k\b|\bposta\s+kutusu\b/i,
]

/** Shorthands that mean a box in one country only, and a street elsewhere. */
const shorthands: Readonly<Record<string, RegExp>> = {
  FI: /^\s*PL\.?\s*\d+/i,
  FR: /\bCS\s?\d{5}\b/,
  HU: /^\s*Pf\.?\s*\d+/i,
  NO: /^\s*Pb\.?\s*\d+/i,
}

/** A machine with lockers: its kind and number, and nothing else in the line. */
const machine =
  /^\s*(?:[\p{L}-]+\s+)?[\p{L}-]*(station|locker|automat|terminal|punkt|point|box)\s*(no\.?|nr\.?|#)?\s*\d{1,5}\s*$/iu
/** The number of a customer of such a machine: digits alone. */
const customerNumber = /^\s*#?\s*\d{5,10}\s*$/

type Lines = Pick<Address, "street" | "street2"> & Partial<Pick<Address, "company" | "attention" | "country">>

/**
 * Whether goods go to a box at the post, which only post and post-delivered services reach (common practice): a post
 * office box in the languages of the countries that are shipped to, or a parcel locker, where its number and its
 * customer's stand in place of a street.
 */
export function isPostBox({ street, street2, company = "", attention = "", country = "" }: Lines): boolean {
  const lines = [street, street2]
  if (lines.some((line) => boxes.some((shape) => shape.test(line)))) return true
  if (lines.some((line) => shorthands[country]?.test(line))) return true
  return (
    lines.some((line) => machine.test(line)) && [...lines, company, attention].some((one) => customerNumber.test(one))
  )
}

/**
 * The provinces and territories of Canada that a postal code may lie in, by its first letter; none for a letter that has
 * none. Source: the addressing guidelines of Canada's postal operator, from memory.
 */
export const provincesOfPostalCode = (postalCode: string): readonly string[] =>
  byLetter[postalCode.trim().slice(0, 1).toUpperCase()] ?? []
const byLetter: Readonly<Record<string, readonly string[]>> = {
  A: ["NL"],
  B: ["NS"],
  C: ["PE"],
  E: ["NB"],
  G: ["QC"],
  H: ["QC"],
  J: ["QC"],
  K: ["ON"],
  L: ["ON"],
  M: ["ON"],
  N: ["ON"],
  P: ["ON"],
  R: ["MB"],
  S: ["SK"],
  T: ["AB"],
  V: ["BC"],
  X: ["NT", "NU"],
  Y: ["YT"],
}

/**
 * Whether an address is one of the armed forces overseas, by its state (AA, AE, AP: Publication 28 of the United States
 * Postal Service, from memory). The post alone goes there, and customs papers are needed.
 */
export const isMilitary = (address: Pick<Address, "country" | "state">): boolean =>
  address.country === "US" && ["AA", "AE", "AP"].includes(address.state)

/** A range of postal codes that carriers reach late or at an extra charge; data of the warehouse. */
export interface RemoteArea {
  readonly name: string
  readonly country: string
  /** First and last code, compared by as many signs as they have. */
  readonly from: string
  readonly to: string
}

/** The remote area that an address lies in, or null. */
export function remoteArea<T extends RemoteArea>(
  areas: readonly T[],
  { country, postalCode }: Pick<Address, "country" | "postalCode">,
): T | null {
  const code = postalCode.replace(/[\s-]/g, "").toUpperCase()
  const within = (area: RemoteArea) =>
    code.slice(0, area.from.length) >= area.from && code.slice(0, area.to.length) <= area.to
  return areas.find((area) => area.country === country && code !== "" && within(area)) ?? null
}
