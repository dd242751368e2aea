import createCache from "@emotion/cache"
import { CacheProvider } from "@emotion/react"
import { StrictMode, startTransition } from "react"
import { hydrateRoot } from "react-dom/client"
import { HydratedRouter } from "react-router/dom"

const nonce = document.querySelector<HTMLScriptElement>("script[nonce]")?.nonce
const cache = createCache({ key: "vk", nonce })

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
