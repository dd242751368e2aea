import { Button, Input, NativeSelect } from "@chakra-ui/react"
import { customsUnits } from "core/customs/index.ts"
import {
  innerUnits,
  isLithium,
  type LithiumEntry,
  type LithiumFacts,
  lithiumEntry,
  packingGroups,
} from "core/dangerous/index.ts"
import { goodsKinds } from "core/packing/index.ts"
import { freightClasses } from "core/rating/index.ts"
import { goodsCategories } from "core/tariff/index.ts"
import { useState } from "react"
import { Form, useNavigation, useSearchParams } from "react-router"
import { may } from "server/actors/index.ts"
import { completeItem } from "server/decisions/items.ts"
import { type OwnPaper, ownPapersOf } from "server/documents/ownPapers.ts"
import { findItems, type ItemRow, itemForm, mostItems } from "server/goods/index.ts"
import { packingForm, savePacking } from "server/goods/packing.ts"
import { workContext } from "server/http/context.ts"
import { say } from "words/index.ts"
import { wordFor } from "words/reasons.ts"
import { ActForm } from "../parts/ActForm.tsx"
import { Check, Choice, TextField } from "../parts/Fields.tsx"
import { OwnPapers } from "../parts/OwnPapers.tsx"
import { ownPaperActs, takeOwnPaper } from "../parts/ownPapers.server.ts"
import { Table } from "../parts/Table.tsx"
import { act, answerTo } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { useKept } from "../shell/useKept.ts"
import type { Route } from "./+types/items"
import { SetUpHead } from "./SetUp.tsx"
import { setUpRights } from "./setUpRights.server.ts"

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  const find = (new URL(request.url).searchParams.get("find") ?? "").slice(0, 100)
  const items = await findItems(work, find)
  return {
    find,
    items,
    papers: await ownPapersOf(
      work.db,
      "item",
      items.map((one) => one.id),
    ),
    whole: items.length < mostItems,
    mayComplete: may(work.actor, "goods.complete"),
    rights: setUpRights(work.actor),
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  const acts = {
    ...ownPaperActs("item"),
    packing: act(packingForm, savePacking, () => say("items.saved")),
    complete: act(itemForm, completeItem, ({ freed }) =>
      say(freed === 0 ? "items.saved" : "items.freed", { n: freed }),
    ),
  }
  return answerTo(request, work, acts, { upload: takeOwnPaper(work, "item") })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("setup.items")} · ${say("app.name")}` }]

export default function Items({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { items, whole, find, mayComplete, rights } = loaderData
  const [search] = useSearchParams()
  const [chosen, setChosen] = useState<string | null>(null)
  const open = items.find((item) => item.sku === (chosen ?? search.get("find"))) ?? items[0] ?? null
  return (
    <Screen
      ribbon={{}}
      name="items"
      sill={{
        plate:
          open && mayComplete
            ? {
                verb: say("items.plate", { sku: open.sku }),
                detail: say("items.plate-detail"),
                ready: true,
                form: "item-form",
              }
            : { verb: say("plate.nothing"), detail: say("items.none"), ready: false },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <SetUpHead name="setup.items" rights={rights}>
        <Form method="get" className="find" role="search">
          <label htmlFor="find">{say("items.find-label")}</label>
          <Input id="find" name="find" defaultValue={find} key={find} maxLength={100} />
          <Button type="submit">{say("orders.find")}</Button>
        </Form>
      </SetUpHead>
      {items.length === 0 ? (
        <p className="nothing">{say("items.none")}</p>
      ) : (
        <div className="two wide-left">
          <section className="scrolls">
            <Table
              caption={say("setup.items")}
              rows={items}
              rowKey={(item) => item.id}
              sorts={whole}
              rowClass={(item) => (item === open ? "next" : undefined)}
              columns={[
                {
                  name: "sku",
                  head: say("items.head.sku"),
                  className: "code",
                  heads: true,
                  cell: (item) => (
                    <button type="button" className="as-link" onClick={() => setChosen(item.sku)}>
                      {item.sku}
                    </button>
                  ),
                },
                { name: "description", head: say("items.head.description"), cell: (item) => item.description },
                {
                  name: "pounds",
                  head: say("items.head.pounds"),
                  className: "figure",
                  cell: (item) => item.pounds || "–",
                },
                {
                  name: "class",
                  head: say("items.head.class"),
                  cell: (item) => item.freightClass || say("items.by-density"),
                },
                { name: "hs", head: say("items.head.hs"), className: "code", cell: (item) => item.hsCode || "–" },
                { name: "origin", head: say("items.head.origin"), cell: (item) => item.origin || "–" },
                { name: "free", head: say("items.head.free"), className: "figure", cell: (item) => item.free },
                {
                  name: "gaps",
                  head: say("items.head.gaps"),
                  className: "ember",
                  cell: (item) => item.gaps.map((gap) => wordFor("items.gap", gap)).join(", "),
                },
              ]}
            />
          </section>
          {open ? (
            <Edit
              item={open}
              papers={loaderData.papers.filter((one) => one.ownerId === open.id)}
              key={`${open.sku} ${open.version}`}
              may={mayComplete}
            />
          ) : null}
        </div>
      )}
    </Screen>
  )
}

function Edit({ item, papers, may }: { item: ItemRow; papers: readonly OwnPaper[]; may: boolean }) {
  const busy = useNavigation().state !== "idle"
  return (
    <section className="item-edit">
      <h2>{item.sku}</h2>
      <p>
        {item.description}
        {item.unNumber ? `, ${item.unNumber}` : ""}
      </p>
      <ActForm intent="complete" sends={{ id: item.id, version: item.version }} id="item-form">
        <Row name="pounds" value={item.pounds} mode="decimal" />
        <div className="field">
          <label htmlFor="freightClass">{say("items.field.freightClass")}</label>
          <NativeSelect.Root>
            <NativeSelect.Field id="freightClass" name="freightClass" defaultValue={item.freightClass}>
              <option value="">{say("items.by-density")}</option>
              {freightClasses.map((one) => (
                <option key={one}>{one}</option>
              ))}
            </NativeSelect.Field>
            <NativeSelect.Indicator />
          </NativeSelect.Root>
        </div>
        <Row name="customsDescription" value={item.customsDescription} placeholder={item.description} />
        <Row name="hsCode" value={item.hsCode} mode="decimal" />
        <Row name="origin" value={item.origin} />
        <div className="typed-head">
          <TextField name="material" label="customs.field.material" value={item.material} most={60} />
          <TextField name="use" label="customs.field.use" value={item.use} most={60} />
          <Choice
            name="unit"
            label="customs.field.unit"
            value={item.unit}
            options={["", ...customsUnits].map((one) => ({
              value: one,
              text: one ? wordFor("print.unit-of", one) : "–",
            }))}
          />
          <TextField name="netKg" label="customs.field.netKg" value={item.netKg} mode="decimal" most={13} />
          <Choice
            name="category"
            label="items.field.category"
            value={item.category}
            options={["", ...goodsCategories].map((one) => ({
              value: one,
              text: one ? wordFor("category", one) : "–",
            }))}
          />
          <TextField name="classItem" label="items.field.classItem" value={item.classItem} most={12} />
        </div>
        <Dangerous item={item} />
        <Button type="submit" disabled={busy || !may}>
          {say("items.save")}
        </Button>
      </ActForm>
      <p className="note">{say("items.note")}</p>
      <h2>{say("items.packing")}</h2>
      <ActForm intent="packing" sends={{ id: item.id, version: item.version }}>
        <Choice
          name="goodsKind"
          label="items.field.goodsKind"
          value={item.packing.goodsKind}
          options={goodsKinds.map((value) => ({ value, text: say(`goods-kind.${value}`) }))}
        />
        <Check name="upright" label="items.field.upright" on={item.packing.upright} />
        <Check name="fragile" label="items.field.fragile" on={item.packing.fragile} />
        <Check name="stackable" label="items.field.stackable" on={item.packing.stackable} />
        <TextField
          name="loadLimit"
          label="items.field.loadLimit"
          value={item.packing.loadLimit}
          mode="decimal"
          most={8}
        />
        <Check name="ownCarton" label="items.field.ownCarton" on={item.packing.ownCarton} />
        <Button type="submit" disabled={busy || !may}>
          {say("items.save")}
        </Button>
      </ActForm>
      <OwnPapers owner="item" id={item.id} papers={papers} mayChange={may} />
    </section>
  )
}

/** What must be known of dangerous goods; the rest of the fields is asked for once there is a UN number. */
function Dangerous({ item }: { item: ItemRow }) {
  const [unNumber, setUnNumber] = useState(item.unNumber)
  const facts = item.dangerous
  return (
    <>
      <TextField
        name="unNumber"
        label="items.field.unNumber"
        value={unNumber}
        onChange={setUnNumber}
        most={6}
        placeholder="UN0000"
      />
      {unNumber ? (
        <>
          <TextField
            name="properShippingName"
            label="items.field.properShippingName"
            value={facts?.properShippingName}
            most={120}
          />
          <div className="typed-head">
            <TextField name="hazardClass" label="items.field.hazardClass" value={facts?.hazardClass} most={8} />
            <Choice
              name="packingGroup"
              label="items.field.packingGroup"
              value={facts?.packingGroup ?? ""}
              options={["", ...packingGroups].map((one) => ({ value: one, text: one || "–" }))}
            />
            <TextField
              name="innerQuantity"
              label="items.field.innerQuantity"
              value={facts?.innerQuantity ? String(Number(facts.innerQuantity)) : ""}
              mode="decimal"
              most={11}
            />
            <Choice
              name="innerUnit"
              label="items.field.innerUnit"
              value={facts?.innerUnit ?? ""}
              options={["", ...innerUnits].map((one) => ({ value: one, text: one || "–" }))}
            />
          </div>
          <div className="typed-head">
            <TextField name="subsidiary" label="items.field.subsidiary" value={facts?.subsidiary ?? ""} most={8} />
            <TextField
              name="technicalName"
              label="items.field.technicalName"
              value={facts?.technicalName ?? ""}
              most={80}
            />
            <TextField
              name="innerCount"
              label="items.field.innerCount"
              value={String(facts?.innerCount ?? 1)}
              mode="numeric"
              most={5}
            />
          </div>
          {isLithium(unNumber) ? <Lithium facts={facts?.lithium ?? null} unNumber={unNumber} /> : null}
          <Choice
            name="limitedQuantity"
            label="items.field.limitedQuantity"
            value={facts?.limitedQuantity === null || !facts ? "" : facts.limitedQuantity ? "yes" : "no"}
            options={(["", "yes", "no"] as const).map((one) => ({ value: one, text: one ? say(`users.${one}`) : "–" }))}
          />
        </>
      ) : null}
    </>
  )
}

/** What must be known of cells and batteries, by which limits are held against them. */
function Lithium({ facts, unNumber }: { facts: LithiumFacts | null; unNumber: LithiumEntry }) {
  const ion = lithiumEntry(unNumber).chemistry === "ion"
  return (
    <div className="typed-head">
      <Choice
        name="lithiumUnit"
        label="items.field.lithiumUnit"
        value={facts?.unit ?? "battery"}
        options={(["cell", "battery"] as const).map((value) => ({ value, text: say(`items.lithium.${value}`) }))}
      />
      <TextField
        name="lithiumCount"
        label="items.field.lithiumCount"
        value={String(facts?.count ?? 1)}
        mode="numeric"
        most={4}
      />
      <TextField
        name="lithiumFigure"
        label={ion ? "items.field.wattHours" : "items.field.grams"}
        value={(ion ? facts?.wattHours : facts?.grams) ?? ""}
        mode="decimal"
        most={9}
      />
      <Check name="lithiumButton" label="items.field.lithiumButton" on={facts?.button ?? false} />
    </div>
  )
}

function Row({
  name,
  value,
  mode,
  placeholder,
}: {
  name: string
  value: string
  mode?: "decimal"
  placeholder?: string
}) {
  return (
    <div className="field">
      <label htmlFor={name}>{wordFor("items.field", name)}</label>
      <Input id={name} name={name} defaultValue={value} inputMode={mode} maxLength={80} placeholder={placeholder} />
    </div>
  )
}
