import { accepted } from "core/refusal/index.ts"
import { readings } from "core/scanning/index.ts"
import { closeAll, closeCollection, mostAtOnce } from "server/dock/close.ts"
import { sendNow } from "server/dock/depart.ts"
import { driverForm, saveDriver } from "server/dock/driver.ts"
import { choosePlace } from "server/dock/dropOff.ts"
import { makeFormsOf } from "server/dock/forms.ts"
import { leaveBehind, load, takeOff } from "server/dock/load.ts"
import { endSupplement, openForSupplement, reopen } from "server/dock/reopen.ts"
import { planClosed } from "server/dock/round.ts"
import type { Work } from "server/http/context.ts"
import { byCode } from "server/papers/byCode.ts"
import { isTestNumber } from "server/papers/label.ts"
import { say } from "words/index.ts"
import { sayReasons } from "words/reasons.ts"
import { z } from "zod"
import { masterBillPaper, printed } from "../parts/printed.server.ts"
import { act, always, field, onlyChanged } from "../shell/acts.server.ts"
import { done, followScan, refusal } from "../shell/scan.server.ts"
import { formActs } from "./formActs.server.ts"

const collection = field.id

const stay = (stays: boolean) =>
  act(z.object({ collection, package: field.many(field.id) }), (work, fields) =>
    always(leaveBehind(work, fields.collection, fields.package, stays)),
  )

export const dockActs = {
  ...formActs,
  close: act(
    z.object({ collection, expected: field.count, early: field.tick, missing: field.count, door: field.text(4) }),
    // only what was said beside its own button counts
    async (work, { collection, expected, early, missing }) => {
      const closed = await closeCollection(work, collection, expected, early ? missing : 0)
      if (closed.ok) await planClosed(work, collection)
      return closed
    },
    ({ numbers }, { door }) => say("dock.closed-now", { door, manifest: numbers.join(", ") }),
  ),
  "close-all": act(
    z.object({ collection: field.many(field.id, mostAtOnce), expected: field.many(field.count, mostAtOnce) }),
    async (work, fields) => {
      const doors = fields.collection.map((collectionId, at) => ({
        collectionId,
        expected: fields.expected[at] ?? Number.NaN,
      }))
      const done = await closeAll(work, doors)
      for (const one of doors) await planClosed(work, one.collectionId)
      return accepted(done)
    },
    ({ closed, refused }) => {
      const words = [
        ...(closed.length > 0 ? [say("dock.closed-all", { n: closed.length, doors: closed.join(", ") })] : []),
        ...refused.map(({ door, why }) => say("dock.not-closed", { door, why: sayReasons(why) })),
      ].join(" ")
      return refused.length > 0 ? refusal(words) : done(words)
    },
  ),
  reopen: act(
    z.object({ collection }),
    (work, fields) => reopen(work, fields.collection),
    ({ door }) => say("dock.is-reopened", { door }),
  ),
  "send-now": act(
    z.object({ collection }),
    (work, fields) => sendNow(work, fields.collection),
    ({ door }) => say("dock.is-sent", { door }),
  ),
  supplement: act(
    z.object({ collection }),
    (work, fields) => openForSupplement(work, fields.collection),
    ({ door }) => say("dock.is-supplement", { door }),
  ),
  "supplement-end": act(
    z.object({ collection }),
    (work, fields) => endSupplement(work, fields.collection),
    ({ door }) => say("dock.plate.closed", { door }),
  ),
  "make-form": act(
    z.object({ collection, package: field.many(field.id) }),
    (work, fields) => makeFormsOf(work, fields.collection, fields.package),
    ({ numbers }) => say("form.is-made", { n: numbers.length, forms: numbers.join(", ") }),
  ),
  driver: act(
    driverForm.omit({ onPaper: true }).extend({ collection, onPaper: field.tick }),
    (work, { collection, ...said }, { changed }) => saveDriver(work, collection, onlyChanged(said, changed)),
    ({ door }) => say("driver.saved", { door }),
  ),
  "master-bill": act(
    z.object({ collection }),
    (work, { collection }, { key }) => printed(work, masterBillPaper(work, collection), key),
    (name) => say("packing.printed", { name }),
  ),
  "drop-place": act(
    z.object({ collection, place: field.text(40) }),
    (work, fields) => choosePlace(work, fields.collection, fields.place),
    ({ name }) => say("drop.is-chosen", { name }),
  ),
  stay: stay(true),
  come: stay(false),
  "by-hand": act(
    z.object({ collection, name: field.text(20) }),
    (work, { collection, name }, { form }) => {
      const [orderNumber = "", number = ""] = name.split("-")
      const scanId = String(form.get("scanId") ?? "") || crypto.randomUUID()
      return load(work, collection, { orderNumber, number: Number(number) }, scanId)
    },
    ({ name }) => say("dock.loaded", { name }),
  ),
  "take-off": act(z.object({ collection, package: field.id }), (work, fields) =>
    takeOff(work, fields.collection, fields.package),
  ),
}

/** A package that is scanned goes on the truck at the open door; anything else leads where it belongs. */
export async function dockScan(work: Work, text: string, form: FormData) {
  if (isTestNumber(text)) return refusal(say("dock.test-label"))
  const collection = Number(form.get("collection")) || 0
  const code = await packageCode(work, text)
  if (!code || !collection) return followScan(work, text)
  const outcome = await load(
    work,
    collection,
    code.kind === "sscc" ? { sscc: code.sscc } : { orderNumber: code.orderNumber, number: code.number },
    String(form.get("scanId") ?? "") || crypto.randomUUID(),
  )
  if (!outcome.ok) return refusal(sayReasons(outcome.reasons))
  return done(say(outcome.value.again ? "dock.loaded-again" : "dock.loaded", { name: outcome.value.name }))
}

/** The package that a text names: by its SSCC, its name, or its tracking number. */
async function packageCode(work: Work, text: string) {
  const read = readings(text).find((reading) => reading.kind === "sscc" || reading.kind === "package")
  if (read) return read
  const found = await byCode(work.db, work.warehouse.id, text)
  return found?.kind === "package" ? found : null
}
