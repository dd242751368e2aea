import { Button } from "@chakra-ui/react"
import { data } from "react-router"
import { frameContext } from "server/http/context.ts"
import { messageOf } from "server/telling/blocks.ts"
import { languageOf } from "server/telling/facts.ts"
import { unsubscribed } from "server/telling/links.ts"
import { say, sayIn } from "words/index.ts"
import type { Route } from "./+types/unsubscribe"

/** Ends messages to an address: asked for once more, since links in mail are followed by programs too. */
export async function loader({ params, request, context }: Route.LoaderArgs) {
  const { db } = context.get(frameContext)
  const id = unsubscribed(params.token)
  const message = id === null ? null : await messageOf(db, id)
  if (!message) throw data(null, { status: 404 })
  return {
    language: languageOf(message.language),
    address: message.address,
    done: new URL(request.url).searchParams.has("done"),
  }
}

export const meta: Route.MetaFunction = () => [{ title: say("follow.unsubscribe-title") }]

export function ErrorBoundary() {
  return (
    <main className="receiver">
      <p>{say("follow.gone")}</p>
    </main>
  )
}

export default function Unsubscribe({ loaderData: { language, address, done } }: Route.ComponentProps) {
  const words = sayIn(language)
  return (
    <main className="receiver" lang={language}>
      <h1>{words("follow.unsubscribe-title")}</h1>
      {done ? (
        <p>{words("follow.unsubscribed")}</p>
      ) : (
        // a plain form: mail programs press the same button by themselves
        <form method="post">
          <p>{words("follow.unsubscribe-ask", { address })}</p>
          <Button type="submit">{words("follow.unsubscribe-do")}</Button>
        </form>
      )}
    </main>
  )
}
