import { follow } from "./follow.ts"
import { print } from "./print.ts"

/** French, for papers and messages to customers: what neither has is said in English. */
export const fr: Readonly<Record<string, string>> = { ...print, ...follow }
