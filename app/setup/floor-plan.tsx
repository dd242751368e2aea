import type { Readable } from "node:stream"
import { Button } from "@chakra-ui/react"
import { scanSteps, stepsOf } from "core/picking/index.ts"
import { reason } from "core/refusal/index.ts"
import { Form } from "react-router"
import { binColumns, importBins } from "server/floorPlan/binsCsv.ts"
import { binStates, floorOf, putPlan } from "server/floorPlan/index.ts"
import { cartForm, itemSteps, saveCart, saveSteps, warehouseSteps } from "server/floorPlan/settings.ts"
import { FileRefused } from "server/formats/orderRow.ts"
import { wholeText } from "server/formats/text.ts"
import type { Work } from "server/http/context.ts"
import { workContext } from "server/http/context.ts"
import { carts } from "server/picking/runs.ts"
import { say } from "words/index.ts"
import { sayReasons, wordFor } from "words/reasons.ts"
import { z } from "zod"
import { ActForm } from "../parts/ActForm.tsx"
import { TextField } from "../parts/Fields.tsx"
import { FileInput } from "../parts/FileInput.tsx"
import { type BinMark, FloorDrawing } from "../parts/FloorDrawing.tsx"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { done, refusal } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/floor-plan"
import { SetUpHead } from "./SetUp.tsx"
import { setUpRights } from "./setUpRights.server.ts"

export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "warehouse.manage")
  const { db, warehouse } = work
  const { plan, version } = await floorOf(db, warehouse.id)
  const states = await binStates(db, warehouse.id)
  const { bins, ...floor } = plan
  return {
    name: warehouse.name,
    version,
    floor,
    marks: bins.map((bin) => ({
      bin: bin.code,
      x: bin.x,
      y: bin.y,
      state: markOf[states.get(bin.code) ?? "free"],
    })) as BinMark[],
    steps: stepsOf(await warehouseSteps(db, warehouse.id), {}),
    items: await itemSteps(db),
    columns: binColumns.join(", "),
    carts: await carts(db, warehouse.id),
    rights: setUpRights(work.actor),
  }
}

/** How the drawing marks a bin: what has stock is drawn as done. */
const markOf = { blocked: "blocked", filled: "done", free: "free" } as const

/** Most signs of a plan's file. */
const largest = 8_000_000

export async function action({ request, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  const saved = () => say("steps.saved")
  const steps = <T extends z.ZodType>(one: T) =>
    Object.fromEntries(scanSteps.map((step) => [step, one])) as Record<(typeof scanSteps)[number], T>
  return answerTo(
    request,
    work,
    {
      steps: act(z.object(steps(field.tick)), (_, all) => saveSteps(work, null, all), saved),
      "item-steps": act(
        z.object({ sku: field.text(24), ...steps(field.text(3)) }),
        (_, { sku, ...all }) =>
          saveSteps(
            work,
            sku,
            Object.fromEntries(
              Object.entries(all).flatMap(([step, says]) => (says === "" ? [] : [[step, says === "yes"]])),
            ),
          ),
        saved,
      ),
      cart: act(cartForm, saveCart, (_, { code }) => say("cart.saved", { code })),
    },
    {
      upload: async (file, name, { version }) => {
        const outcome = await planFromFile(work, Number(version), name, file)
        return outcome.ok
          ? done(say("floor.saved", { n: outcome.value.bins }))
          : refusal(sayReasons(outcome.reasons.slice(0, 8)))
      },
    },
  )
}

/** A plan as JSON, or a list of bins as CSV. */
async function planFromFile(work: Work, version: number, name: string, file: Readable) {
  if (/\.csv$/i.test(name)) return importBins(work, version, file)
  const text = await wholeText(file, largest)
  try {
    return putPlan(work, version, JSON.parse(text))
  } catch (error) {
    if (error instanceof SyntaxError) throw new FileRefused(reason("floor-plan.not-json"))
    throw error
  }
}

export const meta: Route.MetaFunction = () => [{ title: `${say("setup.floor-plan")} · ${say("app.name")}` }]

export default function FloorSetUp({ loaderData: at, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  return (
    <Screen
      ribbon={{}}
      name="set-up-floor"
      sill={{
        plate: {
          verb: say("steps.plate"),
          detail: say("steps.plate-detail", { name: at.name }),
          ready: true,
          form: "steps-form",
        },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <SetUpHead name="setup.floor-plan" rights={at.rights} />
      <div className="two wide-left">
        <section className="scrolls">
          <figure className="pick-plan whole">
            <FloorDrawing floor={at.floor} marks={at.marks} label={say("floor.of", { name: at.name })} />
            <figcaption>
              {say("floor.facts", {
                aisles: at.floor.aisles.length,
                cross: at.floor.crossAisles.length,
                racks: at.floor.racks.length,
                bins: at.marks.length,
                zones: at.floor.zones.length,
                width: at.floor.width,
                depth: at.floor.depth,
              })}
            </figcaption>
          </figure>
          <div className="floor-files">
            <Form method="post" encType="multipart/form-data">
              <input type="hidden" name="version" value={at.version} />
              <label htmlFor="plan-file">{say("floor.file")}</label>
              <FileInput id="plan-file" accept=".json,.csv" />
              <Button type="submit">{say("floor.take-in")}</Button>
            </Form>
            <p>
              <a href="/set-up/floor-plan/plan.json">{say("floor.plan-json")}</a>{" "}
              <a href="/set-up/floor-plan/bins.csv">{say("floor.bins-csv")}</a>
            </p>
            <p className="note">{say("floor.file-note", { columns: at.columns })}</p>
          </div>
        </section>
        <section className="item-edit">
          <h2>{say("steps.title")}</h2>
          <ActForm intent="steps" id="steps-form">
            {scanSteps.map((step) => (
              <label key={step} className="check">
                <input type="checkbox" name={step} defaultChecked={at.steps[step]} /> {say(`steps.${step}`)}
              </label>
            ))}
          </ActForm>
          <h2>{say("steps.items")}</h2>
          {at.items.map((item) => (
            <p key={item.sku}>
              <b>{item.sku}</b>{" "}
              {Object.entries(item.steps)
                .map(([step, on]) => say(on ? "steps.does" : "steps.does-not", { step: wordFor("steps", step) }))
                .join(", ")}
            </p>
          ))}
          <ActForm intent="item-steps">
            <TextField name="sku" label="steps.sku" most={24} needed />
            <div className="step-choices">
              {scanSteps.map((step) => (
                <label key={step}>
                  {say(`steps.${step}`)}
                  <select name={step} defaultValue="">
                    <option value="">{say("steps.as-warehouse")}</option>
                    <option value="yes">{say("steps.yes")}</option>
                    <option value="no">{say("steps.no")}</option>
                  </select>
                </label>
              ))}
            </div>
            <Button type="submit">{say("steps.save-item")}</Button>
          </ActForm>
          <h2>{say("cart.title")}</h2>
          {at.carts.map((cart) => (
            <p key={cart.id}>
              <b>{cart.code}</b> {cart.name},{" "}
              {say("cart.facts", {
                totes: cart.totes,
                litres: cart.litres ?? "–",
                kilograms: cart.kilograms ?? "–",
              })}
            </p>
          ))}
          <ActForm intent="cart">
            <div className="step-choices">
              {(["code", "name", "litres", "kilograms", "totes", "firstTote", "toteLitres"] as const).map((field) => (
                <TextField
                  key={field}
                  name={field}
                  id={`cart-${field}`}
                  label={`cart.field.${field}`}
                  value={{ totes: "8", firstTote: "301", toteLitres: "60" }[field as "totes"] ?? ""}
                  mode={field === "code" || field === "name" ? undefined : "decimal"}
                  needed={field !== "name" && field !== "litres" && field !== "kilograms"}
                />
              ))}
            </div>
            <Button type="submit">{say("cart.save")}</Button>
          </ActForm>
        </section>
      </div>
    </Screen>
  )
}
