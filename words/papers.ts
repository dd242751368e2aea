import { type Say, sayIn } from "./index.ts"
import type { Language } from "./language.ts"

/** Papers are in English until customers have a language of their own. */
export const paperLanguage: Language = "en"

/** Words of papers, in the language that papers are in. */
export const onPaper: Say = sayIn(paperLanguage)
