import { createCipheriv, createDecipheriv, createHmac, hkdfSync, randomBytes, timingSafeEqual } from "node:crypto"

/** No key was given to the server, or one that is none: nothing can be kept secret, and nothing secret can be read. */
export class NoKey extends Error {}

let known: { readonly text: string; readonly key: Buffer } | undefined

/** The key of the setting VARNOK_KEY: 32 bytes in base64. Throws NoKey. */
function masterKey(): Buffer {
  const text = process.env.VARNOK_KEY ?? ""
  if (known?.text === text) return known.key
  const key = Buffer.from(text, "base64")
  if (key.length !== 32) throw new NoKey("VARNOK_KEY must be 32 bytes in base64")
  known = { text, key }
  return key
}

/** Whether secrets can be kept. */
export function canKeepSecrets(): boolean {
  try {
    return masterKey().length === 32
  } catch (error) {
    if (error instanceof NoKey) return false
    throw error
  }
}

/** A key of its own for each purpose, so that one says nothing of another (RFC 5869). */
const keyFor = (purpose: string): Buffer => Buffer.from(hkdfSync("sha256", masterKey(), "varnok", purpose, 32))

/** Encrypts a secret as it is kept: nonce, tag, text (AES-256-GCM). The purpose is checked when it is read. */
export function seal(purpose: string, secret: string): Buffer {
  const nonce = randomBytes(12)
  const cipher = createCipheriv("aes-256-gcm", keyFor(purpose), nonce)
  const body = Buffer.concat([cipher.update(secret, "utf8"), cipher.final()])
  return Buffer.concat([nonce, cipher.getAuthTag(), body])
}

/** Reads a secret. Throws where it was sealed with another key or for another purpose. */
export function unseal(purpose: string, sealed: Buffer): string {
  const decipher = createDecipheriv("aes-256-gcm", keyFor(purpose), sealed.subarray(0, 12))
  decipher.setAuthTag(sealed.subarray(12, 28))
  return Buffer.concat([decipher.update(sealed.subarray(28)), decipher.final()]).toString("utf8")
}

/** Whether a text is the token that was made of something; compared in the same time whatever differs. */
export function isTokenFor(purpose: string, of: string, token: string): boolean {
  const [own, other] = [Buffer.from(tokenFor(purpose, of)), Buffer.from(token)]
  return own.length === other.length && timingSafeEqual(own, other)
}

/** An unguessable text that only whoever has the key can make again, of 128 bits. */
export const tokenFor = (purpose: string, of: string): string =>
  createHmac("sha256", keyFor(purpose)).update(of).digest().subarray(0, 16).toString("base64url")
