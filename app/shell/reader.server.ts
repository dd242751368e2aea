import { AsyncLocalStorage } from "node:async_hooks"
import { type Reader, readersFrom, usualReader } from "words/language.ts"

const store = new AsyncLocalStorage<Reader>()
readersFrom(() => store.getStore() ?? usualReader)

/** Does what a request asks, its loaders, actions and drawing, in the language and by the clock of whoever asked. */
export const readAs = <T>(reader: Reader, body: () => T): T => store.run(reader, body)
