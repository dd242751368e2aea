import { sendForm, settleForm, tellAgain } from "server/dock/depart.ts"
import { discardForm } from "server/dock/forms.ts"
import { reprint } from "server/documents/index.ts"
import { say } from "words/index.ts"
import { z } from "zod"
import { act, always, field } from "../shell/acts.server.ts"

const formId = field.id

/** What forms ask for that act on a form of a truck; the list of forms has them as well. */
export const formActs = {
  "form-send": act(
    z.object({ formId }),
    (work, fields) => sendForm(work, fields.formId),
    ({ number }) => say("form.is-sent", { form: number }),
  ),
  "form-again": act(
    z.object({ formId }),
    (work, fields) => tellAgain(work, fields.formId),
    ({ number }) => say("form.is-sent", { form: number }),
  ),
  "form-settle": act(
    z.object({ formId, note: z.string().trim().min(3, "form.missing").max(120) }),
    (work, fields) => settleForm(work, fields.formId, fields.note),
    ({ number }) => say("form.is-settled", { form: number }),
  ),
  "form-discard": act(
    z.object({ formId }),
    (work, fields) => discardForm(work, fields.formId),
    ({ number }) => say("form.is-discarded", { form: number }),
  ),
  "form-print": act(
    z.object({ document: field.id, name: field.text(40) }),
    (work, { document }, { key }) => always(reprint(work, document, key)),
    (_, { name }) => say("papers.reprinted", { name }),
  ),
}
