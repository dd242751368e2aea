import { hash, verify } from "@node-rs/argon2"
import { dictionary } from "@zxcvbn-ts/language-common"
import { type Reason, reason } from "core/refusal/index.ts"

/**
 * Passwords by NIST SP 800-63B-4, section 3.1.1 (from memory): at least 15 characters where the password is all that is
 * asked for, at least 64 allowed, every character allowed and none demanded, compared with a list of common ones, and
 * with what belongs to the account. The list is the package's, of passwords seen in breaches.
 */
export const passwordLength = { least: 15, most: 200 } as const

let common: ReadonlySet<string> | undefined

/** One way to write a password: what different keyboards make of the same letters is the same (NFKC). */
const written = (password: string): string => password.normalize("NFKC")

/**
 * Why a password is not taken, or null.
 *
 * @param own words of the account, such as the user name
 * @example weakness("correct horse battery staple", ["nils"]) // null
 */
export function weakness(password: string, own: readonly string[]): Reason | null {
  const text = written(password)
  const length = [...text].length
  if (length < passwordLength.least) return reason("user.password-short", { least: passwordLength.least })
  if (length > passwordLength.most) return reason("user.password-long", { most: passwordLength.most })
  common ??= new Set(dictionary["passwords-common"])
  const plain = text.toLowerCase()
  const bare = plain.replace(/[^\p{L}]+/gu, "")
  if (common.has(plain) || common.has(repeated(plain)) || common.has(repeated(bare)) || [...repeated(plain)].length < 4)
    return reason("user.password-common")
  const rest = [...own, "varnok"]
    .filter((word) => word.length >= 3)
    .reduce((left, word) => left.replaceAll(word.toLowerCase(), ""), plain)
  if ([...rest].length < passwordLength.least / 2) return reason("user.password-own")
  return null
}

/** The shortest text that a text is a repetition of: "abcabc" is "abc" twice, and "abcdab" is "abcd" begun again. */
function repeated(text: string): string {
  for (let length = 1; length <= (2 * text.length) / 3; length += 1) {
    const part = text.slice(0, length)
    if (part.repeat(Math.ceil(text.length / length)).startsWith(text)) return part
  }
  return text
}

export const hashPassword = (password: string): Promise<string> => hash(written(password))

export const passwordFits = (kept: string, password: string): Promise<boolean> => verify(kept, written(password))
