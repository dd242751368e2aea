const session = "varnok_session"
const device = "varnok_device"
const deviceDays = 180

const tokenIn = (cookies: string | null | undefined, name: string): string | null =>
  new RegExp(`(?:^|;\\s*)${name}=([\\w-]{20,100})(?:;|$)`).exec(cookies ?? "")?.[1] ?? null

/** The session token of a request's cookies, if there is one. */
export const sessionToken = (request: { readonly headers: Headers }): string | null =>
  tokenIn(request.headers.get("cookie"), session)

/** The same of a cookie header that stands alone. */
export const sessionTokenOf = (cookies: string | undefined): string | null => tokenIn(cookies, session)

/** What a browser is known by that somebody has signed in with before. */
export const deviceToken = (request: { readonly headers: Headers }): string | null =>
  tokenIn(request.headers.get("cookie"), device)

const cookie = (name: string, value: string, seconds: number, secure: boolean): string =>
  `${name}=${value}; Path=/; HttpOnly; SameSite=Lax; Max-Age=${seconds}${secure ? "; Secure" : ""}`

/** For as long as the session can last; the server ends it sooner when it is idle. */
export const sessionCookie = (token: string, seconds: number, secure: boolean): string =>
  cookie(session, token, seconds, secure)

export const noSessionCookie = (): string => cookie(session, "", 0, false)

export const deviceCookie = (token: string, secure: boolean): string =>
  cookie(device, token, deviceDays * 86_400, secure)
