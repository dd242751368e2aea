import { createCookie } from "react-router"

const common = { path: "/", httpOnly: true, sameSite: "lax" } as const
const session = createCookie("varnok_session", common)
const device = createCookie("varnok_device", common)
const bench = createCookie("varnok_bench", common)
const deviceDays = 180

/** A token from a cookie's value, which may be anything. */
const token = (value: unknown): string | null =>
  typeof value === "string" && /^[\w-]{20,100}$/.test(value) ? value : null

/** The session token of a request's cookies, if there is one. */
export const sessionToken = (request: { readonly headers: Headers }): Promise<string | null> =>
  sessionTokenOf(request.headers.get("cookie"))

/** The same of a cookie header that stands alone. */
export const sessionTokenOf = async (cookies: string | null | undefined): Promise<string | null> =>
  token(await session.parse(cookies ?? null))

/** What a browser is known by that somebody has signed in with before. */
export const deviceToken = async (request: { readonly headers: Headers }): Promise<string | null> =>
  token(await device.parse(request.headers.get("cookie")))

/** For as long as the session can last; the server ends it sooner when it is idle. */
export const sessionCookie = (token: string, seconds: number, secure: boolean): Promise<string> =>
  session.serialize(token, { maxAge: seconds, secure })

export const noSessionCookie = (): Promise<string> => session.serialize("", { maxAge: 0 })

export const deviceCookie = (token: string, secure: boolean): Promise<string> =>
  device.serialize(token, { maxAge: deviceDays * 86_400, secure })

/** The bench at which a browser stands, as it was told once; the server asks for its warehouse whenever it matters. */
export async function benchOf(request: { readonly headers: Headers }): Promise<number | null> {
  const value = await bench.parse(request.headers.get("cookie"))
  return typeof value === "number" && Number.isInteger(value) && value > 0 ? value : null
}

export const benchCookie = (id: number, secure: boolean): Promise<string> =>
  bench.serialize(id, { maxAge: deviceDays * 2 * 86_400, secure })
