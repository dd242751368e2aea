import "@fontsource-variable/atkinson-hyperlegible-mono/wght.css"
import "@fontsource-variable/atkinson-hyperlegible-next/wght.css"
import "@fontsource-variable/sofia-sans-extra-condensed/wght.css"
import mono from "@fontsource-variable/atkinson-hyperlegible-mono/files/atkinson-hyperlegible-mono-latin-wght-normal.woff2?url"
import next from "@fontsource-variable/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-wght-normal.woff2?url"
import sign from "@fontsource-variable/sofia-sans-extra-condensed/files/sofia-sans-extra-condensed-latin-wght-normal.woff2?url"
import "./theme/app.css"
import "./theme/packing.css"
import "./theme/papers.css"
import "./theme/rates.css"
import "./theme/floor.css"
import "./theme/returns.css"
import { ChakraProvider } from "@chakra-ui/react"
import {
  data,
  isRouteErrorResponse,
  Links,
  Meta,
  Outlet,
  Scripts,
  ScrollRestoration,
  useRouteError,
  useRouteLoaderData,
} from "react-router"
import { sayBodyRefusal } from "server/bodies/limitBody.ts"
import { frameContext } from "server/http/context.ts"
import { say, sayCode } from "words/index.ts"
import { reader } from "words/language.ts"
import type { Route } from "./+types/root"
import { system } from "./theme/system.ts"

/**
 * Around every route: a body that was over a limit stops here; what a page shows is kept by no cache; a database that is
 * away, or a value that it could not use, is no fault of the program and answers with a status of its own.
 */
export const middleware: Route.MiddlewareFunction[] = [
  async ({ context }, next) => {
    const { bodyRefusal, fault } = context.get(frameContext)
    if (bodyRefusal)
      throw data(sayBodyRefusal(bodyRefusal), {
        status: bodyRefusal.status,
      })
    const response = await next()
    if (fault() === "away") throw data(say("trouble.503.text"), { status: 503 })
    if (fault() === "bad") throw data(say("trouble.400.text"), { status: 400 })
    if (!response.headers.has("cache-control")) response.headers.set("cache-control", "no-store")
    return response
  },
]

export const loader = ({ context }: Route.LoaderArgs) => {
  const { nonce, requestId } = context.get(frameContext)
  return { nonce, requestId }
}

/** The nonce is that of the page's first load; later navigations bring none that the browser would take. */
export const shouldRevalidate = () => false

/** The faces of the first paint come with the page, so that nothing moves when they arrive. */
export const links: Route.LinksFunction = () =>
  [sign, next, mono].map((href) => ({
    rel: "preload",
    as: "font",
    type: "font/woff2",
    href,
    crossOrigin: "anonymous",
  }))

export const meta: Route.MetaFunction = () => [{ title: "Varnok" }]

export function Layout({ children }: { children: React.ReactNode }) {
  const data = useRouteLoaderData<typeof loader>("root")
  const nonce = typeof document === "undefined" ? data?.nonce : undefined
  return (
    <html lang={reader().language} data-clock={reader().clock} suppressHydrationWarning>
      <head>
        <meta charSet="utf-8" />
        <meta name="viewport" content="width=device-width, initial-scale=1" />
        <link rel="icon" href="/icon.svg" type="image/svg+xml" />
        <Meta />
        <Links nonce={nonce} />
      </head>
      <body>
        <ChakraProvider value={system}>{children}</ChakraProvider>
        <ScrollRestoration nonce={nonce} />
        <Scripts nonce={nonce} />
      </body>
    </html>
  )
}

export default function Root() {
  return <Outlet />
}

/** Says what happened, what was kept, and what to do; with the request's id for whoever reads the log. */
export function ErrorBoundary() {
  const error = useRouteError()
  const status = isRouteErrorResponse(error) ? error.status : 500
  const known = ([400, 403, 404, 408, 413, 415, 503] as const).find((one) => one === status) ?? 500
  const data = useRouteLoaderData<typeof loader>("root")
  return (
    <main className="trouble">
      <h1>{say(`trouble.${known}.title`)}</h1>
      <p>
        {/* of an address that is not there the router says so in its own words */}
        {isRouteErrorResponse(error) && known !== 404 && typeof error.data === "string" && error.data
          ? error.data
          : (sayCode(`trouble.${known}.text`) ?? "")}
      </p>
      <p>
        <a href="/">{say("trouble.back")}</a>
      </p>
      {data?.requestId ? <p className="code">{say("trouble.request", { id: data.requestId })}</p> : null}
    </main>
  )
}
