import { Button } from "@chakra-ui/react"
import { claimKinds, mostPhoto } from "core/claims/index.ts"
import { data, Link } from "react-router"
import { may } from "server/actors/index.ts"
import {
  addPhoto,
  answerClaim,
  answerForm,
  claimForm,
  claimNumbered,
  removePhoto,
  saveClaim,
} from "server/claims/claims.ts"
import { termsOf } from "server/claims/facts.ts"
import { fileClaim, fileForm } from "server/claims/file.ts"
import { claimWhole } from "server/claims/list.ts"
import { wholeBytes } from "server/formats/bytes.ts"
import { workContext } from "server/http/context.ts"
import { shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { sayReasons, wordFor } from "words/reasons.ts"
import { z } from "zod"
import { ActForm, FieldError } from "../parts/ActForm.tsx"
import { Choice } from "../parts/Fields.tsx"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import type { Plate } from "../shell/Sill.tsx"
import { done, refusal } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/claim"
import { ClaimGoodsTable, type TypedGoods } from "./ClaimGoods.tsx"
import { Filing, Photos, WhatCame } from "./ClaimSteps.tsx"
import { Facts, Sums } from "./ClaimSums.tsx"
import { claimName, nextWords } from "./claimWords.ts"
import { useUnsaved } from "./useUnsaved.ts"

const numberIn = (text: string): number => (/^\d{1,9}$/.test(text) ? Number(text) : 0)

export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const claim = await claimWhole(work.db, work.warehouse.id, numberIn(params.number), work.now)
  if (!claim) throw data(null, { status: 404 })
  const row = await claimNumbered(work.db, work.warehouse.id, claim.number)
  return {
    claim,
    terms: await termsOf(work.db, row?.carrier_id ?? null),
    mayWork: may(work.actor, "orders.work"),
    mayOverrule: may(work.actor, "orders.override"),
  }
}

const line = z.object({
  lineId: z.coerce.number().int().min(1),
  pieces: z
    .string()
    .default("")
    .transform((text) => (/^\d{1,7}$/.test(text.trim()) ? Number(text) : text.trim() === "" ? 0 : Number.NaN))
    .pipe(z.number({ error: "stock.quantity" }).int()),
  unitValue: z
    .string()
    .trim()
    .default("")
    .transform((text) => (text === "" ? "0" : text))
    .pipe(z.string().regex(/^\d{1,9}(\.\d{1,6})?$/, { error: "claim.value" })),
})
const typedClaim = claimForm.extend({
  units: field.many(field.id, 200),
  papers: field.many(field.id, 60),
  goods: z.array(line).max(400).default([]),
})

export async function action({ request, params, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  const number = numberIn(params.number)
  const name = claimName(number)
  return answerTo(
    request,
    work,
    {
      save: act(
        typedClaim,
        (work, said) => saveClaim(work, number, said),
        () => ({ ...done(say("claim.saved", { name })), saved: true }),
      ),
      file: act(
        fileForm,
        (work, said) => fileClaim(work, number, said),
        ({ to }) => say("claim.was-filed", { name, to: to || "none" }),
      ),
      answer: act(
        answerForm,
        (work, said) => answerClaim(work, number, said),
        ({ state }) => say("claim.answered", { name, state }),
      ),
      "drop-photo": act(
        z.object({ photo: field.id }),
        (work, { photo }) => removePhoto(work, number, photo),
        () => say("claim.photo-removed"),
      ),
    },
    {
      upload: async (file, name) => {
        const outcome = await addPhoto(work, number, { name, bytes: await wholeBytes(file, mostPhoto.bytes) })
        return outcome.ok
          ? done(say("claim.photo-added", { name: outcome.value.name }))
          : refusal(sayReasons(outcome.reasons))
      },
    },
  )
}

export const meta: Route.MetaFunction = ({ params }) => [
  { title: `${say("claim.name", { name: claimName(numberIn(params.number ?? "")) })} · ${say("app.name")}` },
]

type Data = Route.ComponentProps["loaderData"]

export default function Claim({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { claim, mayWork } = loaderData
  useLive(null)
  const { typed, unsaved, seen, form, type } = useUnsaved(claim.version, actionData)
  const draft = claim.state === "draft" && mayWork
  return (
    <Screen
      ribbon={{}}
      name="claim"
      sill={{
        plate: plateOf(loaderData, draft, unsaved),
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <div className="place-head">
        <h1>{claimName(claim.number)}</h1>
        <p>
          <b>{say(`claim.state.${claim.state}`)}</b>
          {`, ${say(`claim.kind.${claim.kind}`)}, ${claim.carrier}, `}
          {claim.next ? (
            <b className={claim.next.over ? "ember" : undefined}>{nextWords(claim.next, shortDay)}</b>
          ) : null}
          {claim.next ? ", " : ""}
          <Link to={`/orders/${claim.orderNumber}`}>{say("goods-back.order", { order: claim.orderNumber })}</Link>
          {`, ${claim.customer}`}
        </p>
        <Link to="/orders/claims">{say("claim.title")}</Link>
      </div>
      <div className="two wide-left">
        <section className="scrolls claim-left">
          <ActForm
            intent="save"
            id="claim-form"
            sends={{ version: seen }}
            key={form}
            className="claim-form"
            onInput={(event) => type(goodsIn(event.currentTarget))}
          >
            <fieldset disabled={!draft}>
              <div className="claim-what">
                <Choice
                  name="kind"
                  label="claim.kind"
                  value={claim.kind}
                  options={claimKinds.map((value) => ({ value, text: say(`claim.kind.${value}`) }))}
                />
                <div className="field">
                  <label htmlFor="happened">{say("claim.happened")}</label>
                  <textarea id="happened" name="happened" rows={3} maxLength={1000} defaultValue={claim.happened} />
                  <FieldError name="happened" />
                </div>
              </div>
              <ClaimGoodsTable claim={claim} typed={typed} />
              <Ticks name="units" title={say("claim.others")} of={claim.others} />
              <Ticks
                name="papers"
                title={say("claim.papers")}
                of={claim.papers.map((one) => ({ ...one, name: `${wordFor("papers.kind", one.kind)} ${one.name}` }))}
                none={say("claim.no-papers")}
              />
            </fieldset>
            {draft ? <Button type="submit">{say("claim.save")}</Button> : null}
          </ActForm>
        </section>
        <section className="item-edit">
          <Sums claim={claim} terms={loaderData.terms} typed={typed} />
          <Facts claim={claim} />
          <p>
            <a href={`/orders/claims/${claim.number}/claim.pdf`}>{say(claim.document ? "claim.sent" : "claim.see")}</a>
          </p>
          <Photos claim={claim} draft={draft} />
          {draft ? <Filing claim={claim} mayOverrule={loaderData.mayOverrule} unsaved={unsaved} /> : null}
          {mayWork ? <WhatCame claim={claim} /> : null}
        </section>
      </div>
    </Screen>
  )
}

function plateOf({ claim }: Data, draft: boolean, unsaved: boolean): Plate {
  if (!draft) return { verb: say("claim.plate-list"), detail: "", ready: true, to: "/orders/claims" }
  if (!unsaved && claim.email && claim.happened && Number(claim.total.amount) > 0)
    return {
      verb: say("claim.plate-file"),
      detail: say("claim.plate-file-detail", { to: claim.email }),
      ready: true,
      send: { intent: "file", way: "mail" },
    }
  return { verb: say("claim.save"), detail: claimName(claim.number), ready: true, form: "claim-form" }
}

/** What stands in the fields of the goods just now. */
function goodsIn(form: HTMLFormElement): TypedGoods {
  const fields = new FormData(form)
  const typed: Record<number, { pieces: string; unitValue: string }> = {}
  for (let at = 0; fields.has(`goods[${at}].lineId`); at += 1)
    typed[Number(fields.get(`goods[${at}].lineId`))] = {
      pieces: String(fields.get(`goods[${at}].pieces`) ?? ""),
      unitValue: String(fields.get(`goods[${at}].unitValue`) ?? ""),
    }
  return typed
}

function Ticks({
  name,
  title,
  of,
  none,
}: {
  name: string
  title: string
  of: readonly { readonly id: number; readonly name: string; readonly chosen: boolean }[]
  none?: string
}) {
  if (of.length === 0) return none ? <p className="note">{none}</p> : null
  return (
    <fieldset className="claim-ticks">
      <legend>{title}</legend>
      {of.map((one) => (
        <label key={one.id} className="tick-line">
          <input type="checkbox" name={name} value={one.id} defaultChecked={one.chosen} /> {one.name}
        </label>
      ))}
    </fieldset>
  )
}
