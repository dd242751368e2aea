import { coded, reason } from "core/refusal/index.ts"
import { z } from "zod"
import { reach } from "./reach.ts"

const place = z.object({
  street: z.string().max(120),
  city: z.string().max(80),
  state: z.string().max(10),
  postalCode: z.string().max(20),
  country: z.string().regex(/^[A-Z]{2}$/),
})
export type ServicePlace = z.infer<typeof place>

const checked = z.object({
  status: z.enum(["confirmed", "corrected", "unknown"]),
  address: place.nullable(),
  kind: z.enum(["business", "residential", "unknown"]),
})
export type CheckedAddress = z.infer<typeof checked>

const suggested = z.object({
  addresses: z.array(place.extend({ kind: z.enum(["business", "residential", "unknown"]) })).max(20),
})
export type Suggestion = z.infer<typeof suggested>["addresses"][number]

/** What an address service that does not answer, or not in its shape, throws. */
export class AddressServiceDown extends Error {}

async function ask(
  url: URL,
  options: Omit<Parameters<typeof reach>[1], "timeLimitMs">,
  timeLimitMs: number,
): Promise<unknown> {
  try {
    const response = await reach(url, { ...options, timeLimitMs, most: 256 * 1024 })
    if (response.status >= 300) throw new Error(coded(reason("reach.status", { status: response.status })))
    return response.json()
  } catch (error) {
    throw new AddressServiceDown((error as Error).message)
  }
}

function shaped<T>(schema: z.ZodType<T>, value: unknown): T {
  const read = schema.safeParse(value)
  if (!read.success) throw new AddressServiceDown(coded(reason("reach.other-answer")))
  return read.data
}

/** Asks the service whether it knows an address, and how it is written. Throws AddressServiceDown. */
export async function checkAddress(base: string, address: ServicePlace, timeLimitMs = 2_500): Promise<CheckedAddress> {
  const options = {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify(address),
  }
  return shaped(checked, await ask(new URL("/check", base), options, timeLimitMs))
}

/** Addresses that begin as is typed. Throws AddressServiceDown; short of time, since somebody is typing. */
export async function suggestAddresses(
  base: string,
  typed: string,
  country: string,
  timeLimitMs = 800,
): Promise<Suggestion[]> {
  const url = new URL("/suggest", base)
  url.searchParams.set("q", typed)
  if (country) url.searchParams.set("country", country)
  return shaped(suggested, await ask(url, {}, timeLimitMs)).addresses
}
