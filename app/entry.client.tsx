import createCache from "@emotion/cache"
import { CacheProvider } from "@emotion/react"
import { StrictMode, startTransition } from "react"
import { hydrateRoot } from "react-dom/client"
import { HydratedRouter } from "react-router/dom"
import { asClock, asLanguage, readersFrom } from "words/language.ts"

// how the page was drawn is how it goes on; whoever signs in or changes their language is sent a new page
const { lang, dataset } = document.documentElement
readersFrom(() => ({ language: asLanguage(lang), clock: asClock(dataset.clock) }))

const nonce = document.querySelector<HTMLScriptElement>("script[nonce]")?.nonce
const cache = createCache({ key: "vk", nonce })

// a page's data that nobody waits for any more are let go; the router's reader then rejects what it never looks at again
window.addEventListener("unhandledrejection", (event) => {
  if (event.reason instanceof DOMException && event.reason.name === "AbortError") event.preventDefault()
})

startTransition(() => {
  hydrateRoot(
    document,
    <StrictMode>
      <CacheProvider value={cache}>
        <HydratedRouter />
      </CacheProvider>
    </StrictMode>,
  )
})
