import { print } from "./print.ts"

/** French, for papers: what stands on no paper is said in English. */
export const fr: Readonly<Record<string, string>> = { ...print }
