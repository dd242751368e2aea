import { redirect, redirectDocument } from "react-router"
import { signOut } from "server/accounts/sessions.ts"
import { frameContext } from "server/http/context.ts"
import { noSessionCookie, sessionToken } from "server/http/cookies.ts"
import type { Route } from "./+types/sign-out"

export async function action({ request, context }: Route.ActionArgs) {
  const token = await sessionToken(request)
  if (token) await signOut(context.get(frameContext).db, token)
  return redirectDocument("/sign-in", { headers: { "set-cookie": await noSessionCookie() } })
}

export const loader = () => redirect("/")
