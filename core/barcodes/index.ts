import { accepted, type Outcome, reason, refused } from "../refusal/index.ts"

/**
 * The GS1 check digit: from the right, weights 3 and 1 in turn; the digit that fills the sum to the next ten.
 * Source: GS1 General Specifications, check digit calculation.
 *
 * @param digits the number without its check digit
 * @example gs1CheckDigit("37610425002123456") // 9
 */
export function gs1CheckDigit(digits: string): number {
  if (!/^\d+$/.test(digits)) throw new RangeError(`only digits have a check digit, got "${digits}"`)
  let sum = 0
  for (let i = 0; i < digits.length; i += 1) sum += Number(digits[digits.length - 1 - i]) * (i % 2 === 0 ? 3 : 1)
  return (10 - (sum % 10)) % 10
}

export const hasGs1CheckDigit = (digits: string): boolean =>
  /^\d{2,}$/.test(digits) && gs1CheckDigit(digits.slice(0, -1)) === Number(digits.at(-1))

/**
 * The serial shipping container code of a logistic unit: extension digit, GS1 company prefix, serial, check digit;
 * 18 digits in all. Refuses a serial that does not fit beside the prefix (numbers are never reused, so never wrapped).
 */
export function sscc(extension: number, companyPrefix: string, serial: bigint): Outcome<string> {
  const room = 16 - companyPrefix.length
  const text = serial.toString()
  if (serial < 0n || text.length > room) return refused(reason("sscc.used-up", { prefix: companyPrefix, serial: text }))
  const digits = `${extension}${companyPrefix}${text.padStart(room, "0")}`
  return accepted(`${digits}${gs1CheckDigit(digits)}`)
}

/** A GTIN of 8, 12, 13 or 14 digits in its 14-digit form, or null when it is none (length or check digit). */
export function gtin14(text: string): string | null {
  return /^(\d{8}|\d{12,14})$/.test(text) && hasGs1CheckDigit(text) ? text.padStart(14, "0") : null
}

/** An SSCC for reading: `3 9521234 567890128 4` cut after extension digit, prefix, and before the check digit. */
export const showSscc = (code: string, prefixLength = 7): string =>
  `${code[0]} ${code.slice(1, 1 + prefixLength)} ${code.slice(1 + prefixLength, 17)} ${code.slice(17)}`

/**
 * The Code 128 check symbol value: the start symbol's value plus each symbol value times its place, mod 103.
 * Source: ISO/IEC 15417.
 *
 * @param start 103 for code set A, 104 for B, 105 for C
 */
export const code128Check = (start: number, values: readonly number[]): number =>
  values.reduce((sum, value, index) => sum + value * (index + 1), start) % 103

/**
 * The check digit of a postal item number: weights 8 6 4 2 3 5 9 7, eleven less the sum mod 11, where 10 is written 0
 * and 11 is written 5. Source: UPU standard S10.
 *
 * @param serial eight digits
 * @example s10CheckDigit("47312482") // 9
 */
export function s10CheckDigit(serial: string): number {
  if (!/^\d{8}$/.test(serial)) throw new RangeError(`a postal item number has eight digits, got "${serial}"`)
  const weights = [8, 6, 4, 2, 3, 5, 9, 7]
  const sum = weights.reduce((total, weight, index) => total + weight * Number(serial[index]), 0)
  const digit = 11 - (sum % 11)
  return digit === 10 ? 0 : digit === 11 ? 5 : digit
}

/** Whether a text is a postal item number: two letters, nine digits with the check digit last, a country code. */
export function isPostalItemNumber(text: string): boolean {
  const parts = /^[A-Z]{2}(\d{8})(\d)[A-Z]{2}$/.exec(text)
  return parts !== null && s10CheckDigit(parts[1] as string) === Number(parts[2])
}
