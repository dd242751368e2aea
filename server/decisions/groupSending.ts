import { isLocalDate, type LocalDate } from "core/calendar/index.ts"
import type { Wishes } from "core/rating/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import { payerTerms, type Settings } from "core/rules/index.ts"
import { type OptionCode, optionCodes } from "core/tariff/index.ts"
import { mass, massIn, showMass } from "core/units/index.ts"
import { type FieldChange, record } from "../audit/index.ts"
import type { SalesOrderRow } from "../db/tables.ts"
import { lockShipmentOf, touchShipment } from "../orders/joined.ts"
import { labelsAskedFor } from "../orders/labels.ts"
import { putWords } from "../orders/words.ts"
import { handled, shipmentOf } from "../packages/shipment.ts"
import { packagingTypes } from "../packaging/catalog.ts"
import { chooseService } from "../plan/sentWith.ts"
import { putShipDate } from "../plan/shipDate.ts"
import { type ByHand, type ByHandBefore, optionsOf, putByHand, takeByHandBack } from "./byHand.ts"
import { groupKind, type OneOrder } from "./groupKinds.ts"

/** Sends by a service that a person chose. */
export const service = groupKind<{ what: "service"; service: number }, { readonly service: number | null }>({
  right: "orders.work",
  apply: async ({ trx, context, order, ground }, { service: wanted }) => {
    const found = await putService({ trx, context, order, ground }, wanted || null)
    return found.ok ? accepted(found.value ? { service: order.chosen_service_id } : null) : found
  },
  takeBack: (one, { service: wanted }, before) =>
    one.order.chosen_service_id === (wanted || null)
      ? putService(one, before.service)
      : Promise.resolve(refused(reason("order.changed-meanwhile"))),
})

async function putService(
  { trx, context, order, ground }: OneOrder,
  serviceId: number | null,
): Promise<Outcome<boolean>> {
  if (order.chosen_service_id === serviceId) return accepted(false)
  if (order.cancelled_at) return refused(reason("order.is-cancelled"))
  if (await labelsAskedFor(trx, order.id)) return refused(reason("order.labels-asked-for"))
  const on = await ground()
  const rated = on.services.find((one) => one.id === serviceId)
  if (serviceId !== null && !rated) return refused(reason("buy.service-cannot"))
  await chooseService(trx, on, order.id, serviceId)
  const { actor, now } = context
  if (rated)
    await record(trx, actor, now, {
      action: "order.service-chosen",
      orderId: order.id,
      detail: { service: `${rated.carrier}, ${rated.name}` },
    })
  else await record(trx, actor, now, { action: "order.service-open", orderId: order.id })
  return accepted(true)
}

export const shipDate = groupKind<{ what: "ship-date"; day: string }, { readonly day: LocalDate | null }>({
  right: "orders.work",
  tidy: (change) =>
    change.day === "" || isLocalDate(change.day)
      ? accepted(change)
      : refused(reason("ship-date.no-truck", { day: change.day })),
  apply: async ({ trx, context, order, ground }, { day }) => {
    const wanted = isLocalDate(day) ? day : null
    if (order.chosen_ship_on === wanted) return accepted(null)
    const outcome = await putShipDate(trx, context, order, wanted, await ground())
    return outcome.ok ? accepted({ day: order.chosen_ship_on }) : outcome
  },
  takeBack: async ({ trx, context, order, ground }, { day }, before) => {
    if (order.chosen_ship_on !== (day || null)) return refused(reason("order.changed-meanwhile"))
    const outcome = await putShipDate(trx, context, order, before.day, await ground())
    return outcome.ok ? accepted(true) : outcome
  },
})

/** What is set by hand of what an order is sent with. */
const settingByHand = <Change>(
  make: (
    change: Change,
    now: ByHand,
    options: readonly OptionCode[],
  ) => {
    readonly settings?: Partial<{ [Name in keyof Settings]: Settings[Name] | undefined }>
    readonly wishes?: Partial<Wishes>
    readonly told: FieldChange
  },
  tidy?: (change: Change) => Outcome<Change>,
  cannot: (one: OneOrder, change: Change) => Promise<Reason | null> = async () => null,
) =>
  groupKind<Change, ByHandBefore>({
    right: "orders.work",
    tidy,
    apply: async (one, change) => {
      const why = await cannot(one, change)
      if (why) return refused(why)
      return putByHand(one.trx, one.context, one.order, (now, settled) => {
        const { settings = {}, wishes = {}, told } = make(change, now, optionsOf(now, settled))
        const merged = Object.entries({ ...now.settings, ...settings }).filter(([, value]) => value !== undefined)
        return {
          next: { settings: Object.fromEntries(merged), wishes: now.wishes && { ...now.wishes, ...wishes } },
          told: [told],
        }
      })
    },
    takeBack: ({ trx, context, order }, _, before) => takeByHandBack(trx, context, order, before),
  })

export const packaging = settingByHand<{ what: "packaging"; packaging: string }>(
  (change, now) => ({
    settings: { packaging: change.packaging || undefined },
    told: { field: "packaging", from: now.settings.packaging ?? "", to: change.packaging },
  }),
  undefined,
  async ({ trx }, { packaging: code }) => {
    const known = code === "" || (await packagingTypes(trx)).some((type) => type.code === code && type.active)
    return known ? null : reason("pack.no-such-packaging", { code })
  },
)

export const payer = settingByHand<{ what: "payer"; terms: string; account: string }>(
  ({ terms, account }, now) => {
    const known = payerTerms.find((one) => one === terms)
    const shown = (one: { readonly terms: string; readonly account: string } | null | undefined) =>
      one ? [one.terms, one.account].filter(Boolean).join(" ") : ""
    const next = known ? { terms: known, account } : undefined
    return {
      settings: { payer: next },
      wishes: { payer: next ?? null },
      told: { field: "payer", from: shown(now.settings.payer ?? now.wishes?.payer), to: shown(next) },
    }
  },
  (change) => {
    const ours = change.terms === "prepaid" || change.terms === "prepaid-added"
    if (change.terms === "third-party" && change.account === "") return refused(reason("wish.account-needed"))
    return accepted(ours ? { ...change, account: "" } : change)
  },
)

export const returnLabel = settingByHand<{ what: "return-label"; label: "" | "print" | "mail" }>(({ label }, now) => ({
  settings: { returnLabel: label || undefined },
  told: { field: "return-label", from: now.settings.returnLabel ?? "", to: label },
}))

const withOptions = (options: readonly OptionCode[], before: readonly OptionCode[]) => ({
  settings: { options: [...options] },
  wishes: { options: [...options], optionsBy: null },
  told: { field: "options", from: before.join(", "), to: options.join(", ") },
})

const knownOption = <Change extends { readonly option: string }>(change: Change): Outcome<Change> =>
  optionCodes.some((one) => one === change.option) ? accepted(change) : refused(reason("wish.unknown"))

export const option = settingByHand<{ what: "option"; option: string }>((change, _, options) => {
  const more = change.option as OptionCode
  return withOptions(options.includes(more) ? options : [...options, more], options)
}, knownOption)

export const noOption = settingByHand<{ what: "no-option"; option: string }>(
  (change, _, options) =>
    withOptions(
      options.filter((one) => one !== change.option),
      options,
    ),
  knownOption,
)

export const signatures = ["none", "any", "adult"] as const
export const signature = settingByHand<{ what: "signature"; signature: (typeof signatures)[number] }>(
  (change, _, options) => {
    const rest = options.filter((one) => one !== "signature" && one !== "signature-adult")
    return withOptions(
      change.signature === "none" ? rest : [...rest, change.signature === "any" ? "signature" : "signature-adult"],
      options,
    )
  },
)

export const declared = settingByHand<{ what: "declared"; amount: string }>(
  ({ amount }, now, options) => {
    const rest = options.filter((one) => one !== "declared-value")
    const { settings, wishes } = withOptions(amount === "" ? rest : [...rest, "declared-value"], options)
    return {
      settings: { ...settings, declared: amount || undefined },
      wishes: { ...wishes, declared: amount || null },
      told: { field: "declared", from: now.wishes?.declared ?? now.settings.declared ?? "", to: amount },
    }
  },
  (change) => {
    const amount = change.amount.replace(",", ".")
    if (amount !== "" && !/^\d{1,7}(\.\d{1,2})?$/.test(amount)) return refused(reason("wish.amount"))
    // nothing is covered for a value of nothing
    return accepted({ ...change, amount: Number(amount) === 0 ? "" : amount })
  },
)

/** What the scale says of the one package of an order. */
export const weight = groupKind<{ what: "weight"; weight: string }, { readonly kg: string | null }>({
  right: "orders.work",
  tidy: (change) => {
    const typed = change.weight.replace(",", ".")
    return typed === "" || (/^\d{1,4}(\.\d{1,4})?$/.test(typed) && Number(typed) > 0)
      ? accepted({ ...change, weight: typed })
      : refused(reason("pack.number-wanted"))
  },
  apply: (one, change) => putWeight(one, change.weight === "" ? null : mass(change.weight, "lb").toFixed(12)),
  takeBack: async (one, change, before) => {
    const shipment = await shipmentOf(one.trx, one.order.id)
    const [only] = handled(shipment?.packages ?? [])
    const now = only?.measured ? massIn(only.measured, "lb").toDecimalPlaces(4).toString() : ""
    if (Number(now) !== Number(change.weight)) return refused(reason("order.changed-meanwhile"))
    const outcome = await putWeight(one, before.kg)
    return outcome.ok ? accepted(outcome.value !== null) : outcome
  },
})

async function putWeight(
  { trx, context, order }: OneOrder,
  kg: string | null,
): Promise<Outcome<{ readonly kg: string | null } | null>> {
  if (order.cancelled_at) return refused(reason("order.is-cancelled"))
  if (await labelsAskedFor(trx, order.id)) return refused(reason("order.labels-asked-for"))
  await lockShipmentOf(trx, order.id, order.warehouse_id)
  const shipment = await shipmentOf(trx, order.id)
  const [only, ...others] = handled(shipment?.packages ?? [])
  if (!shipment || !only || others.length > 0) return refused(reason("group.one-package"))
  const before = only.measured?.toFixed(12) ?? null
  if (before === kg) return accepted(null)
  await trx("package").where({ id: only.id }).update({ measured_kg: kg })
  await touchShipment(trx, order.id)
  const { number } = only
  const { actor, now } = context
  if (kg === null)
    await record(trx, actor, now, { action: "pack.weight-calculated", orderId: order.id, detail: { number } })
  else
    await record(trx, actor, now, {
      action: "pack.weighed",
      orderId: order.id,
      detail: { number, weight: showMass(mass(kg, "kg"), "lb") },
    })
  return accepted({ kg: before })
}

/** A reference that is printed on the label; an empty value takes it off. */
export const reference = groupKind<
  { what: "reference"; name: string; value: string },
  { readonly value: string | null }
>({
  right: "orders.work",
  tidy: (change) => accepted({ ...change, name: change.name || "Reference" }),
  apply: (one, { name, value }) => putReference(one, name, value || null),
  takeBack: async (one, { name, value }, before) => {
    if ((await referenceOf(one, name)) !== (value || null)) return refused(reason("order.changed-meanwhile"))
    const outcome = await putReference(one, name, before.value)
    return outcome.ok ? accepted(outcome.value !== null) : outcome
  },
})

const referenceOf = async ({ trx, order }: OneOrder, name: string): Promise<string | null> =>
  (await trx("order_reference").where({ order_id: order.id, name }).first("value"))?.value ?? null

async function putReference(
  one: OneOrder,
  name: string,
  value: string | null,
): Promise<Outcome<{ readonly value: string | null } | null>> {
  const { trx, context, order } = one
  if (await labelsAskedFor(trx, order.id)) return refused(reason("order.labels-asked-for"))
  const before = await referenceOf(one, name)
  if (before === value) return accepted(null)
  if (value === null) await trx("order_reference").where({ order_id: order.id, name }).delete()
  else
    await trx("order_reference")
      .insert({ order_id: order.id, name, value, printed: true })
      .onConflict(["order_id", "name"])
      .merge(["value", "printed"])
  await touchShipment(trx, order.id)
  await putWords(trx, order.id)
  await record(trx, context.actor, context.now, {
    action: "order.set-by-hand",
    orderId: order.id,
    detail: { changes: [{ field: "reference", from: before ?? "", to: value ?? "" }] },
  })
  return accepted({ value: before })
}

/** A text of the order itself. `printed`: it stands on the label, which is old with it. */
const textOf = <What extends string>(column: "message" | "instructions", printed: boolean) =>
  groupKind<{ what: What; text: string }, { readonly text: string }>({
    right: "orders.work",
    apply: (one, { text }) => putText(one, column, text, printed),
    takeBack: async (one, { text }, before) => {
      if (one.order[column] !== text) return refused(reason("order.changed-meanwhile"))
      const outcome = await putText(one, column, before.text, printed)
      return outcome.ok ? accepted(outcome.value !== null) : outcome
    },
  })
/** A message to the receiver, on the packing slip. */
export const message = textOf<"message">("message", false)
export const instructions = textOf<"instructions">("instructions", true)

async function putText(
  { trx, context, order }: OneOrder,
  column: "message" | "instructions",
  text: string,
  printed: boolean,
): Promise<Outcome<{ readonly text: string } | null>> {
  const before: SalesOrderRow["message"] = order[column]
  if (before === text) return accepted(null)
  if (order.cancelled_at) return refused(reason("order.is-cancelled"))
  if (printed && (await labelsAskedFor(trx, order.id))) return refused(reason("order.labels-asked-for"))
  await trx("sales_order")
    .where({ id: order.id })
    .update({ [column]: text, version: order.version + 1 })
  if (printed) await touchShipment(trx, order.id)
  await putWords(trx, order.id)
  await record(trx, context.actor, context.now, {
    action: "order.set-by-hand",
    orderId: order.id,
    detail: { changes: [{ field: column, from: before, to: text }] },
  })
  return accepted({ text: before })
}
