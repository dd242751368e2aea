import { Button, Input } from "@chakra-ui/react"
import { massIn, showEdges } from "core/units/index.ts"
import { may } from "server/actors/index.ts"
import { workContext } from "server/http/context.ts"
import { packagingStock, setPackagingStock } from "server/packages/used.ts"
import { packagingTypes } from "server/packaging/catalog.ts"
import {
  addPackaging,
  offerPackaging,
  packagingForm,
  priceOfOne,
  pricePackaging,
  saveSlip,
  slipOf,
} from "server/setup/packaging.ts"
import { say } from "words/index.ts"
import { z } from "zod"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { TextField } from "../parts/Fields.tsx"
import { Table } from "../parts/Table.tsx"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { useKept } from "../shell/useKept.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/packaging"
import { SetUpHead } from "./SetUp.tsx"
import { SlipFields, slipFrom } from "./SlipFields.tsx"
import { setUpRights } from "./setUpRights.server.ts"

export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const { db, warehouse } = work
  const stock = await packagingStock(db, warehouse.id)
  const { slip, tolerance } = await slipOf(db, warehouse.id)
  return {
    types: (await packagingTypes(db)).map((type) => ({
      id: type.id,
      code: type.code,
      name: type.name,
      kind: type.kind,
      active: type.active,
      inner: showEdges(type.inner, "in"),
      outer: showEdges(type.outer, "in"),
      tare: massIn(type.tare, "lb").toDecimalPlaces(1).toString(),
      load: massIn(type.maxLoad, "lb").toDecimalPlaces(1).toString(),
      price: Number(type.price) === 0 ? "" : type.price,
      stock: stock.get(type.id) ?? null,
    })),
    slip,
    // 0.07 times 100 is a hair more than 7
    tolerance: String(Number((tolerance * 100).toFixed(2))),
    mayManage: may(work.actor, "warehouse.manage"),
    rights: setUpRights(work.actor),
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  const saved = (_: unknown, { code }: { code: string }) => say("packaging.saved", { code })
  const offer = (on: boolean) =>
    act(z.object({ code: field.text(12) }), (work, { code }) => offerPackaging(work, code, on), saved)
  return answerTo(request, context.get(workContext), {
    count: act(
      z.object({ id: field.id, code: field.text(12), onHand: field.count, lowAt: field.count }),
      (work, { id, onHand, lowAt }) => setPackagingStock(work, id, onHand, lowAt),
      saved,
    ),
    price: act(
      z.object({ code: field.text(12), price: priceOfOne }),
      (work, { code, price }) => pricePackaging(work, code, price),
      saved,
    ),
    add: act(packagingForm, addPackaging, saved),
    on: offer(true),
    off: offer(false),
    slip: act(
      z.object({ tolerance: field.text(12) }),
      (work, { tolerance }, { form }) => saveSlip(work, null, slipFrom(form), tolerance),
      () => say("slip.saved"),
    ),
  })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("setup.packaging")} · ${say("app.name")}` }]

export default function Packaging({ loaderData: at, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  return (
    <Screen
      ribbon={{}}
      name="stock"
      sill={{
        plate: at.mayManage
          ? { verb: say("packaging.plate"), detail: say("packaging.plate-detail"), ready: true, form: "packaging-form" }
          : { verb: say("plate.nothing"), detail: "", ready: false },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <SetUpHead name="setup.packaging" rights={at.rights} />
      <div className="two wide-left">
        <section className="scrolls packaging-list">
          <Table
            caption={say("setup.packaging")}
            rows={at.types}
            rowKey={(type) => type.id}
            rowClass={(type) => (type.active ? undefined : "pale")}
            columns={[
              {
                name: "code",
                head: say("packaging.head.code"),
                className: "code",
                heads: true,
                cell: (type) => type.code,
              },
              {
                name: "name",
                head: say("packaging.head.name"),
                cell: (type) => (
                  <>
                    {type.name} {type.stock?.low ? <b className="low-mark">{say("packaging.low")}</b> : null}
                  </>
                ),
              },
              { name: "inner", head: say("packaging.head.inner"), className: "whole", cell: (type) => type.inner },
              { name: "outer", head: say("packaging.head.outer"), className: "whole", cell: (type) => type.outer },
              { name: "tare", head: say("packaging.head.tare"), className: "figure", cell: (type) => type.tare },
              { name: "load", head: say("packaging.head.load"), className: "figure", cell: (type) => type.load },
              {
                name: "price",
                head: say("packaging.head.price"),
                className: "figure",
                cell: (type) =>
                  at.mayManage ? (
                    <ActForm intent="price" sends={{ code: type.code }} className="acts-row" key={type.price}>
                      <Input
                        name="price"
                        inputMode="decimal"
                        defaultValue={type.price}
                        aria-label={say("packaging.price-label", { code: type.code })}
                      />
                    </ActForm>
                  ) : (
                    type.price
                  ),
              },
              {
                name: "on-hand",
                head: say("packaging.head.on-hand"),
                cell: (type) => (
                  <div className="acts-row">
                    <ActForm
                      intent="count"
                      sends={{ id: type.id, code: type.code }}
                      className="acts-row"
                      key={`${type.stock?.onHand} ${type.stock?.lowAt}`}
                    >
                      <Input
                        name="onHand"
                        inputMode="numeric"
                        defaultValue={type.stock?.onHand ?? ""}
                        aria-label={say("packaging.count-label", { code: type.code })}
                      />
                      <span>{say("packaging.head.low-at")}</span>
                      <Input
                        name="lowAt"
                        inputMode="numeric"
                        defaultValue={type.stock?.lowAt ?? ""}
                        aria-label={say("packaging.low-label", { code: type.code })}
                      />
                      <Button type="submit">{say("packaging.save")}</Button>
                    </ActForm>
                    {at.mayManage ? (
                      <Act sends={{ code: type.code }}>
                        <Button type="submit" name="intent" value={type.active ? "off" : "on"} variant="ghost">
                          {say(type.active ? "packaging.off" : "packaging.on")}
                        </Button>
                      </Act>
                    ) : null}
                  </div>
                ),
              },
            ]}
          />
        </section>
        {at.mayManage ? (
          <section className="item-edit">
            <h2>{say("packaging.new")}</h2>
            <ActForm
              intent="add"
              id="packaging-form"
              key={actionData?.answer.refused ? "kept" : actionData?.answer.key}
            >
              <TextField name="code" label="packaging.field.code" most={12} />
              <TextField name="name" label="packaging.field.name" most={60} />
              <TextField name="inner" label="packaging.field.inner" placeholder="12 × 12 × 12" />
              <TextField name="outer" label="packaging.field.outer" placeholder="12.4 × 12.4 × 12.8" />
              <TextField name="tare" label="packaging.field.tare" mode="decimal" />
              <TextField name="load" label="packaging.field.load" mode="decimal" />
              <TextField name="price" label="packaging.field.price" mode="decimal" most={8} />
            </ActForm>
            <h2>{say("slip.title")}</h2>
            <ActForm intent="slip">
              <SlipFields slip={at.slip} id="slip" />
              <TextField name="tolerance" label="slip.tolerance" value={at.tolerance} mode="decimal" most={5} />
              <Button type="submit">{say("slip.save")}</Button>
            </ActForm>
          </section>
        ) : null}
      </div>
    </Screen>
  )
}
