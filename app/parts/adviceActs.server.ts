import { adviceAsk } from "core/advice/index.ts"
import type { OrderId } from "core/ids/index.ts"
import { reason, refused } from "core/refusal/index.ts"
import { forgetCheaper } from "server/advice/cheaper.ts"
import { takeAdvice, takeBack } from "server/advice/take.ts"
import type { Work } from "server/http/context.ts"
import { say } from "words/index.ts"
import { z } from "zod"
import { act, field } from "../shell/acts.server.ts"

/** Taking an advice, and taking it back, of an order that is named in the form, or of the page's own. */
export const adviceActs = (work: Work, own: OrderId | null) => ({
  advice: act(
    z.object({ order: field.id.optional(), ask: z.string().max(400), words: field.text(300) }),
    async (_, { order, ask, words }, { key }) => {
      const read = adviceAsk.safeParse(json(ask))
      if (!read.success) return refused(reason("cheaper.unknown"))
      const outcome = await takeAdvice(work, (own ?? order ?? 0) as OrderId, read.data, words, key)
      forgetCheaper(work)
      return outcome
    },
    (_, { words }) => say("cheaper.taken", { what: words.replace(/:$/, "") }),
  ),
  "advice-back": act(
    z.object({ order: field.id.optional() }),
    async (_, { order }, { key }) => {
      const outcome = await takeBack(work, (own ?? order ?? 0) as OrderId, key)
      forgetCheaper(work)
      return outcome
    },
    () => say("cheaper.taken-back"),
  ),
})

function json(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    // what can't be read is refused as nothing that is known
    return null
  }
}
