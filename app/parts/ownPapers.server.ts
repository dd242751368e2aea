import type { Readable } from "node:stream"
import { ownPaperLimits, type PaperOwner } from "core/documents/ownPaper.ts"
import { addOwnPaper, removeOwnPaper } from "server/decisions/ownPapers.ts"
import { wholeBytes } from "server/formats/bytes.ts"
import type { Work } from "server/http/context.ts"
import { say } from "words/index.ts"
import { sayReasons } from "words/reasons.ts"
import { z } from "zod"
import { type Answered, act, field } from "../shell/acts.server.ts"
import { done, refusal } from "../shell/scan.server.ts"

/** What pages with papers of their own ask for besides the file itself. */
export const ownPaperActs = (owner: PaperOwner) => ({
  "drop-paper": act(
    z.object({ id: field.id, paper: field.id }),
    (work, { id, paper }) => removeOwnPaper(work, { owner, id }, paper),
    ({ name }) => say("own-paper.removed", { name }),
  ),
})

/** Takes a PDF that a page's form brings, with the id of what it belongs to before it. */
export const takeOwnPaper =
  (work: Work, owner: PaperOwner) =>
  async (file: Readable, name: string, values: Readonly<Record<string, string>>): Promise<Answered> => {
    const bytes = await wholeBytes(file, ownPaperLimits.bytes)
    const outcome = await addOwnPaper(work, { owner, id: Number(values.id) || 0 }, { name, bytes })
    if (!outcome.ok) return refusal(sayReasons(outcome.reasons))
    return done(say("own-paper.added", { name: outcome.value.name, n: outcome.value.pages }))
  }
