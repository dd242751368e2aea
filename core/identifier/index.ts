/**
 * How a number or code of somebody is written down, whoever sends it: the one normalisation before identifiers are
 * compared, byte by byte. Letters are composed (Unicode NFC, UAX #15), signs that nobody sees are dropped (format and
 * control characters, unpaired surrogates), white space within becomes one space, and none is left at the ends. Capital
 * and small letters, and letters with and without accents, stay different: `aB3xQ1` and `Ab3Xq1` are two orders.
 *
 * @example identifier(" PO\u00a0 4711\u200b ") // "PO 4711"
 */
export function identifier(text: string): string {
  if (plain.test(text)) return text
  return text
    .replace(/\s+/gu, " ")
    .replace(/[\p{Cf}\p{Cc}\p{Cs}]/gu, "")
    .normalize("NFC")
    .replace(/ {2,}/g, " ")
    .trim()
}

/** Nothing to do, which is nearly always so. */
const plain = /^(?!.* {2})(?:[\x21-\x7e](?:[\x20-\x7e]*[\x21-\x7e])?)?$/

/**
 * A code of our own (item, bin, cart, tote, packaging, carrier, service): an identifier in capitals, since these are made
 * without small letters, and people type them as they like.
 *
 * @example ownCode(" yst-ale-500") // "YST-ALE-500"
 */
export const ownCode = (text: string): string => identifier(text).toUpperCase()
