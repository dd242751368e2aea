import { lookup as systemLookup } from "node:dns"
import { BlockList, isIP, type LookupFunction } from "node:net"
import { coded, reason } from "core/refusal/index.ts"
import ipaddr from "ipaddr.js"
import { Agent, fetch } from "undici"

/** An address that is not reached: not http(s), or within our own walls and not on the list of what may be. */
export class NotReachable extends Error {}

/**
 * Addresses that are nobody's on the internet: private, of this machine, of its own network, and others that are kept for
 * special purposes (IANA special-purpose address registries, RFC 6890; values from memory). Who sets up a source must not
 * make the server ask its own neighbors.
 */
const within = new BlockList()
for (const [network, prefix] of [
  ["0.0.0.0", 8],
  ["10.0.0.0", 8],
  ["100.64.0.0", 10],
  ["127.0.0.0", 8],
  ["169.254.0.0", 16],
  ["172.16.0.0", 12],
  ["192.0.0.0", 24],
  ["192.168.0.0", 16],
  ["198.18.0.0", 15],
  ["224.0.0.0", 4],
  ["240.0.0.0", 4],
] as const)
  within.addSubnet(network, prefix, "ipv4")
for (const [network, prefix] of [
  ["::", 128],
  ["::1", 128],
  ["64:ff9b::", 96],
  ["fc00::", 7],
  ["fe80::", 10],
  ["fec0::", 10],
  ["ff00::", 8],
] as const)
  within.addSubnet(network, prefix, "ipv6")

/** What may be reached within: an address or a network (`10.1.0.0/16`), of one port (`127.0.0.1:4810`) or of all. */
interface Allowed {
  readonly list: BlockList
  readonly port: number | null
}

let known: { readonly text: string; readonly entries: readonly Allowed[] } | undefined

/** The setting VARNOK_REACHABLE, entries with commas between. Throws for one that can't be read. */
function allowed(): readonly Allowed[] {
  const text = process.env.VARNOK_REACHABLE ?? ""
  if (known?.text === text) return known.entries
  const entries = text
    .split(",")
    .map((one) => one.trim())
    .filter(Boolean)
    .map((one): Allowed => {
      const [, bracketed, plain, prefix, port] =
        /^(?:\[([0-9a-f:.]+)\]|([0-9a-f.]+|[0-9a-f:]+?))(?:\/(\d+))?(?::(\d+))?$/i.exec(one) ?? [one]
      const address = bracketed ?? plain ?? ""
      const version = isIP(address)
      if (version === 0) throw new Error(`VARNOK_REACHABLE: “${one}” is no address or network`)
      const family = version === 6 ? "ipv6" : "ipv4"
      const list = new BlockList()
      if (prefix) list.addSubnet(address, Number(prefix), family)
      else list.addAddress(address, family)
      return { list, port: port ? Number(port) : null }
    })
  known = { text, entries }
  return entries
}

/** Whether a resolved address may be reached at a port. An IPv4 address written as IPv6 counts as what it is. */
export function mayReach(address: string, port: number): boolean {
  if (isIP(address) === 0) return false
  const at = ipaddr.process(address)
  const [plain, family] = [at.toString(), at.kind()]
  if (!within.check(plain, family)) return true
  return allowed().some((one) => (one.port === null || one.port === port) && one.list.check(plain, family))
}

/** Looks a name up and lets through only addresses that may be reached, at the moment of connecting. */
const guarded =
  (port: number): LookupFunction =>
  (name, options, done) =>
    systemLookup(name, { ...options, all: true }, (error, found) => {
      if (error) return done(error, "", 0)
      const good = found.filter((one) => mayReach(one.address, port))
      const first = good[0]
      if (!first) return done(new NotReachable(coded(reason("reach.own-network"))), "", 0)
      if ((options as { all?: boolean }).all)
        return (done as unknown as (error: null, all: typeof good) => void)(null, good)
      done(null, first.address, first.family)
    })

const agents = new Map<number, Agent>()
function agentFor(port: number): Agent {
  const there = agents.get(port)
  if (there) return there
  const agent = new Agent({ connect: { lookup: guarded(port) }, maxHeaderSize: 16_384 })
  agents.set(port, agent)
  return agent
}

/** What went wrong with a connection, as a clerk is told it, by Node's codes. */
const troubles = {
  ECONNREFUSED: "reach.refused",
  ECONNRESET: "reach.broken",
  EPIPE: "reach.broken",
  UND_ERR_SOCKET: "reach.broken",
  ENOTFOUND: "reach.no-address",
  EAI_AGAIN: "reach.no-lookup",
  EHOSTUNREACH: "reach.no-way",
  ENETUNREACH: "reach.no-way",
  ETIMEDOUT: "reach.late",
  ESOCKET: "reach.none",
  TimeoutError: "reach.late",
  UND_ERR_CONNECT_TIMEOUT: "reach.late",
  UND_ERR_HEADERS_TIMEOUT: "reach.late",
} as const

/** A fault of a connection as a coded reason; of any other error its own message. */
export function connectionTrouble(error: unknown): string {
  for (
    let at = error as { code?: string; name?: string; cause?: unknown } | undefined;
    at;
    at = at.cause as typeof at
  ) {
    const known = troubles[at.code as keyof typeof troubles] ?? troubles[at.name as keyof typeof troubles]
    if (known) return coded(reason(known))
  }
  const { message = "" } = (error ?? {}) as { message?: string }
  return message === "fetch failed" || message === "" ? coded(reason("reach.none")) : message
}

export interface Reached {
  readonly status: number
  readonly bytes: Buffer
  /** The body as JSON. Throws, without a word of what came, when it is none. */
  readonly json: () => unknown
}

/**
 * Asks an address of others over HTTP: no redirect is followed, only http and https are spoken, what lies within our own
 * network is asked only where the setting VARNOK_REACHABLE names it, and no more than `most` bytes of an answer are
 * taken. Throws NotReachable, or whatever the connection does; messages never hold what was answered.
 */
export async function reach(
  url: string | URL,
  {
    timeLimitMs,
    most = 4 * 1024 * 1024,
    ...options
  }: {
    readonly method?: string
    readonly headers?: Readonly<Record<string, string>>
    readonly body?: string | Uint8Array
    readonly timeLimitMs: number
    readonly most?: number
  },
): Promise<Reached> {
  const at = new URL(url)
  if (at.protocol !== "http:" && at.protocol !== "https:") throw new NotReachable(coded(reason("reach.not-http")))
  if (at.username || at.password) throw new NotReachable(coded(reason("reach.password")))
  const port = Number(at.port || (at.protocol === "https:" ? 443 : 80))
  const literal = at.hostname.replace(/^\[|\]$/g, "")
  if (isIP(literal) !== 0 && !mayReach(literal, port)) throw new NotReachable(coded(reason("reach.own-network")))
  const response = await fetch(at, {
    ...options,
    redirect: "manual",
    dispatcher: agentFor(port),
    signal: AbortSignal.timeout(timeLimitMs),
  }).catch((error: unknown) => {
    const { cause } = error as { cause?: unknown }
    throw cause instanceof NotReachable ? cause : new Error(connectionTrouble(error), { cause: error })
  })
  if (response.status >= 300 && response.status < 400) {
    await response.body?.cancel()
    throw new NotReachable(coded(reason("reach.redirect", { status: response.status })))
  }
  const parts: Uint8Array[] = []
  let length = 0
  try {
    for await (const part of response.body ?? []) {
      length += part.length
      if (length > most) throw new Error(coded(reason("reach.too-much", { most })))
      parts.push(part)
    }
  } catch (error) {
    throw new Error(connectionTrouble(error), { cause: error })
  }
  const bytes = Buffer.concat(parts)
  return {
    status: response.status,
    bytes,
    json: () => {
      try {
        return JSON.parse(bytes.toString("utf8")) as unknown
      } catch {
        throw new Error(coded(reason("reach.not-json")))
      }
    },
  }
}
