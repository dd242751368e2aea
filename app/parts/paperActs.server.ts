import { customsPartySchema, customsRoles, isIncoterm, purposes } from "core/customs/index.ts"
import { collectedSchema } from "core/documents/index.ts"
import type { OrderId } from "core/ids/index.ts"
import { ladingForm, lineCustomsForm, saveCustoms, saveLading, saveLineCustoms } from "server/decisions/customs.ts"
import type { Work } from "server/http/context.ts"
import { saveCollected } from "server/shipping/collected.ts"
import { say } from "words/index.ts"
import { z } from "zod"
import { act, field, onlyChanged } from "../shell/acts.server.ts"

const amount = z
  .string()
  .trim()
  .default("")
  .transform((text) => text.replace(",", "."))
  .refine((text) => /^(\d{1,9}(\.\d{1,2})?)?$/.test(text), { error: "customs.amount" })
  .transform((text) => text || null)

/** What the forms of a shipment's papers ask for: what is said for customs, of the order, a party, a line; the lading. */
export const paperActs = (work: Work, orderId: OrderId) => ({
  customs: act(
    z.object({
      incoterm: z
        .string()
        .trim()
        .toUpperCase()
        .default("")
        .refine((text) => text === "" || isIncoterm(text), { error: "customs.incoterm" }),
      incoterm_place: field.text(60),
      phone: field.text(24),
      purpose: z.enum(purposes, { error: "customs.purpose" }),
      proForma: field.tick,
      ownInvoice: field.tick,
      certificateOfOrigin: field.tick,
      transit: field.tick,
      declaresKind: field.tick,
      receiverTax: field.text(30),
      receiverEori: field.text(17).transform((text) => text.toUpperCase()),
      receiverLicence: field.text(40),
      freight: amount,
      insurance: amount,
      packing: amount,
      discount: amount,
      licence: field.text(30),
      itn: z
        .string()
        .trim()
        .toUpperCase()
        .default("")
        .refine((text) => /^(X\d{14})?$/.test(text), { error: "customs.itn" }),
      remarks: field.text(240),
    }),
    (_, { incoterm, incoterm_place, phone, ...details }, { changed }) =>
      saveCustoms(work, orderId, {
        details: onlyChanged(details, changed),
        address: onlyChanged({ incoterm, incoterm_place, phone }, changed),
      }),
    () => say("papers.saved"),
  ),
  "customs-party": act(
    customsPartySchema.extend({
      role: z.enum(customsRoles),
      country: z
        .string()
        .trim()
        .toUpperCase()
        .default("")
        .refine((text) => /^([A-Z]{2})?$/.test(text), { error: "book.country" }),
    }),
    (_, { role, ...party }) => {
      const { country: __, ...said } = party
      const away = Object.values(said).every((text) => text === "")
      return saveCustoms(work, orderId, { details: {}, party: { role, party: away ? null : party } })
    },
    () => say("papers.saved"),
  ),
  "line-customs": act(
    lineCustomsForm.extend({ keep: field.tick }),
    (_, fields) => saveLineCustoms(work, orderId, fields),
    () => say("papers.saved"),
    { at: { "customs.vague-description": "description" } },
  ),
  lading: act(
    ladingForm.extend({ stackable: field.tick }),
    (_, fields, { changed }) => saveLading(work, orderId, onlyChanged(fields, changed)),
    () => say("papers.saved"),
  ),
  "lading-collected": act(
    // the driver signs at the dock
    collectedSchema.omit({ strokes: true }),
    (_, fields, { changed }) => saveCollected(work, orderId, onlyChanged(fields, changed)),
    () => say("papers.saved"),
  ),
})
