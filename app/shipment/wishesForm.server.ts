import { localDate } from "core/calendar/index.ts"
import type { OrderId } from "core/ids/index.ts"
import type { Wishes } from "core/rating/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { payerTerms } from "core/rules/index.ts"
import { optionCodes } from "core/tariff/index.ts"
import type { Work } from "server/http/context.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import { inForce, servicesOn } from "server/rating/tariffs.ts"
import { type OptionsChange, withOption } from "server/shipping/wishes.ts"

/** What a form asks for; options as a change of those that are asked for by then. */
export type Wanted = Partial<Wishes> & { readonly change?: OptionsChange }

export type WishIntent = `ask-${"option" | "declared" | "dry-ice" | "hold" | "stackable" | "payer" | "duties"}`

/** What a form of the shipment's wishes asks for, read and checked. */
export async function wantedOf(
  work: Work,
  orderId: OrderId,
  intent: WishIntent,
  form: FormData,
): Promise<Outcome<Wanted>> {
  const text = (name: string) =>
    String(form.get(name) ?? "")
      .trim()
      .slice(0, 60)
  switch (intent) {
    case "ask-option":
      return wantedOptions(work, orderId, text("ask"), text("drop"), text("service"))
    case "ask-declared": {
      const declared = text("declared").replace(",", ".")
      if (declared !== "" && !/^\d{1,7}(\.\d{1,2})?$/.test(declared)) return refused(reason("wish.amount"))
      return accepted({ declared: declared || null })
    }
    case "ask-dry-ice": {
      const kilograms = text("kg").replace(",", ".")
      if (!/^\d{1,3}(\.\d{1,2})?$/.test(kilograms) || Number(kilograms) === 0) return refused(reason("wish.kilograms"))
      return accepted({ dryIceKg: kilograms })
    }
    case "ask-hold":
      return accepted({
        holdAt: String(form.get("hold") ?? "")
          .trim()
          .slice(0, 120),
      })
    case "ask-stackable":
      return accepted({ stackable: text("stackable") === "yes" })
    case "ask-duties": {
      const payer = (["shipper", "receiver", "third-party"] as const).find((one) => one === text("payer"))
      return accepted({ dutiesPayer: payer ?? null })
    }
    default: {
      const terms = payerTerms.find((one) => one === text("terms")) ?? "prepaid"
      const account = terms === "prepaid" || terms === "prepaid-added" ? "" : text("account")
      if (terms === "third-party" && account === "") return refused(reason("wish.account-needed"))
      return accepted({ payer: { terms, account } })
    }
  }
}

async function wantedOptions(
  { db, now, warehouse }: Work,
  orderId: OrderId,
  ask: string,
  drop: string,
  service: string,
): Promise<Outcome<Wanted>> {
  const known = (text: string) => optionCodes.find((one) => one === text)
  const shipment = await shipmentOf(db, orderId)
  const less = known(drop)
  if (less)
    return accepted({
      change: { words: `without ${less}`, change: (options) => options.filter((one) => one !== less) },
    })
  const more = known(ask)
  if (!more) return refused(reason("wish.unknown"))
  const day = localDate(now, warehouse.zone)
  const rated = (await servicesOn(db, day)).find((one) => one.code === service)
  const terms = rated ? (inForce(rated, day)?.terms ?? null) : null
  return accepted({
    change: { words: more, change: (options) => withOption(options, more, terms) },
    ...(more === "dry-ice" && !shipment?.wishes.dryIceKg ? { dryIceKg: "1" } : {}),
  })
}
