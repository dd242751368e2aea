const name = "varnok_session"

/** The session token of a request's cookie, if it has one. */
export function sessionToken(request: Request): string | null {
  const cookie = request.headers.get("cookie") ?? ""
  return new RegExp(`(?:^|;\\s*)${name}=([\\w-]{20,100})`).exec(cookie)?.[1] ?? null
}

export const sessionCookie = (token: string, secure: boolean): string =>
  `${name}=${token}; Path=/; HttpOnly; SameSite=Lax; Max-Age=86400${secure ? "; Secure" : ""}`

export const noSessionCookie = (): string => `${name}=; Path=/; HttpOnly; SameSite=Lax; Max-Age=0`
