import { Button } from "@chakra-ui/react"
import { claimAmounts, claimKinds, mostPhoto } from "core/claims/index.ts"
import { moneyText, showMoney } from "core/money/index.ts"
import { useEffect, useState } from "react"
import { data, Form, Link, useNavigation } from "react-router"
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
import { type ClaimWhole, claimWhole } from "server/claims/list.ts"
import { wholeBytes } from "server/formats/bytes.ts"
import { workContext } from "server/http/context.ts"
import { shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { sayReasons, wordFor } from "words/reasons.ts"
import { z } from "zod"
import { Act, ActForm, FieldError } from "../parts/ActForm.tsx"
import { Choice, TextField } from "../parts/Fields.tsx"
import { FileInput } from "../parts/FileInput.tsx"
import { type Answered, act, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import type { Plate } from "../shell/Sill.tsx"
import { done, refusal } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/claim"
import { ClaimGoodsTable, type TypedGoods } from "./ClaimGoods.tsx"
import { claimName, nextWords } from "./claimWords.ts"

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
              <ClaimGoodsTable claim={claim} typed={unsaved ? typed : null} />
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
          <Sums data={loaderData} typed={unsaved ? typed : null} />
          <Facts claim={claim} />
          <p>
            <a href={`/orders/claims/${claim.number}/claim.pdf`}>{say(claim.document ? "claim.sent" : "claim.see")}</a>
          </p>
          <Photos claim={claim} draft={draft} most={mostPhoto.bytes} />
          {draft ? <Filing data={loaderData} /> : null}
          {mayWork ? <WhatCame claim={claim} /> : null}
        </section>
      </div>
    </Screen>
  )
}

/**
 * What is typed and not saved: it stays whatever others do meanwhile. The version that it goes by is the one that was
 * seen when the first letter was typed, until a refusal has said that somebody else was faster.
 */
function useUnsaved(version: number, answered: Answered | undefined) {
  const [typed, setTyped] = useState<TypedGoods | null>(null)
  const [seen, setSeen] = useState(version)
  const [form, setForm] = useState("")
  const unsaved = typed !== null
  const { answer } = answered ?? {}
  const saved = answered && "saved" in answered ? (answer?.key ?? "") : ""
  const refused = answer?.refused ? answer.key : ""
  useEffect(() => {
    if (!saved) return
    setTyped(null)
    setForm(saved)
  }, [saved])
  useEffect(() => {
    if (!unsaved) setSeen(version)
  }, [version, unsaved])
  // biome-ignore lint/correctness/useExhaustiveDependencies: seen once, with the refusal; what comes after is not
  useEffect(() => {
    if (refused) setSeen(version)
  }, [refused])
  return { typed, unsaved, seen, form, type: setTyped }
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

/** What the claim comes to: as it is typed, or as it was saved. */
function Sums({ data: { claim, terms }, typed }: { data: Data; typed: TypedGoods | null }) {
  const amounts = typed
    ? claimAmounts(
        {
          lines: Object.values(typed).flatMap((one) =>
            /^\d{1,7}$/.test(one.pieces) && /^\d{1,9}(\.\d{1,6})?$/.test(one.unitValue)
              ? [{ pieces: Number(one.pieces), unitValue: one.unitValue }]
              : [],
          ),
          currency: claim.currency,
          freight: claim.facts.freight,
          shipmentValue: claim.facts.shipmentValue,
          declared: claim.facts.declared,
          packages: claim.facts.tracking.length,
          pounds: claim.facts.pounds,
        },
        terms,
      )
    : null
  const shown = amounts
    ? {
        goods: moneyText(amounts.goods),
        freight: moneyText(amounts.freight),
        total: moneyText(amounts.total),
        limit: amounts.limit ? moneyText(amounts.limit) : null,
        expected: moneyText(amounts.expected),
      }
    : claim.amounts
  const limit = claim.facts.declared ? "claim.sum-declared" : "claim.sum-limit"
  return (
    <dl className="claim-sums">
      <dt>{say("claim.sum-goods")}</dt>
      <dd>{showMoney(shown.goods)}</dd>
      <dt>{say("claim.sum-freight")}</dt>
      <dd>{showMoney(shown.freight)}</dd>
      <dt className="whole">{say("claim.sum-total")}</dt>
      <dd className="whole">{showMoney(shown.total)}</dd>
      {shown.limit ? (
        <>
          <dt>{say(limit)}</dt>
          <dd>{showMoney(shown.limit)}</dd>
          <dt>{say("claim.sum-expected")}</dt>
          <dd>{showMoney(shown.expected)}</dd>
        </>
      ) : null}
    </dl>
  )
}

function Facts({ claim }: { claim: ClaimWhole }) {
  const { facts } = claim
  const known = [
    say("claim.fact.shipped", { day: shortDay(facts.shippedOn) }),
    ...(facts.dueOn ? [say("claim.fact.due", { day: shortDay(facts.dueOn) })] : []),
    ...(facts.deliveredOn ? [say("claim.fact.delivered", { day: shortDay(facts.deliveredOn) })] : []),
    ...(claim.filedOn ? [say("claim.fact.filed", { day: shortDay(claim.filedOn), name: claim.filedBy })] : []),
    ...(claim.acknowledgedOn ? [say("claim.fact.acknowledged", { day: shortDay(claim.acknowledgedOn) })] : []),
    ...(claim.reference ? [say("claim.fact.reference", { reference: claim.reference })] : []),
    ...(claim.paid ? [say("claim.fact.paid", { amount: showMoney(claim.paid) })] : []),
    ...(claim.settledOn ? [say("claim.fact.settled", { day: shortDay(claim.settledOn) })] : []),
  ]
  return (
    <>
      <h2>{say("claim.facts")}</h2>
      <p>
        <span className="code">{facts.tracking.join(", ")}</span>
        <br />
        {known.join(", ")}
        {claim.note ? (
          <>
            <br />
            {claim.note}
          </>
        ) : null}
      </p>
    </>
  )
}

function Photos({ claim, draft, most }: { claim: ClaimWhole; draft: boolean; most: number }) {
  const busy = useNavigation().state !== "idle"
  if (!draft && claim.photos.length === 0) return null
  return (
    <>
      <h2>{say("claim.photos")}</h2>
      <ul className="claim-photos">
        {claim.photos.map((one) => (
          <li key={one.id}>
            <a href={`/orders/claims/${claim.number}/photos/${one.id}`}>
              <img src={`/orders/claims/${claim.number}/photos/${one.id}`} alt={one.name} />
            </a>
            {draft ? (
              <Act intent="drop-photo" sends={{ photo: one.id }}>
                <button type="submit" className="as-link" aria-label={say("claim.photo-remove-of", { name: one.name })}>
                  {say("claim.photo-remove")}
                </button>
              </Act>
            ) : null}
          </li>
        ))}
      </ul>
      {draft ? (
        <Form
          key={claim.photos.map((one) => one.id).join(" ")}
          method="post"
          encType="multipart/form-data"
          className="upload small"
        >
          <div className="field">
            <label htmlFor="claim-photo">{say("claim.photo-file", { limit: most / 1024 / 1024 })}</label>
            <FileInput id="claim-photo" accept="image/jpeg,image/png" most={most} />
          </div>
          <Button type="submit" disabled={busy}>
            {say("claim.photo-add")}
          </Button>
        </Form>
      ) : null}
    </>
  )
}

/** A claim goes to the carrier: by e-mail, or by hand where it takes none. */
function Filing({ data: { claim, mayOverrule } }: { data: Data }) {
  const over = claim.next?.what === "file" && claim.next.over
  return (
    <ActForm intent="file" id="file-form">
      {over && mayOverrule ? (
        <label className="tick-line">
          <input type="checkbox" name="late" /> {say("claim.late")}
        </label>
      ) : null}
      {claim.email ? (
        <Button type="submit" name="way" value="mail">
          {say("claim.send", { to: claim.email })}
        </Button>
      ) : null}
      <TextField name="reference" label="claim.reference" most={60} />
      <Button type="submit" name="way" value="hand" variant="ghost">
        {say("claim.by-hand")}
      </Button>
    </ActForm>
  )
}

/** What the carrier answered, or that we let it go. */
function WhatCame({ claim }: { claim: ClaimWhole }) {
  const [to, setTo] = useState<string>("acknowledged")
  const { state } = claim
  if (state === "paid" || state === "withdrawn") return null
  if (state === "draft")
    return (
      <details className="back-move">
        <summary>{say("claim.withdraw")}</summary>
        <ActForm intent="answer" id="withdraw-form" sends={{ to: "withdrawn" }}>
          <TextField name="note" id="withdraw-note" label="claim.note" most={300} />
          <Button type="submit">{say("claim.withdraw")}</Button>
        </ActForm>
      </details>
    )
  const choices = [
    ...(state === "filed" ? (["acknowledged"] as const) : []),
    "paid" as const,
    ...(state === "denied" ? [] : (["denied"] as const)),
    "withdrawn" as const,
  ]
  const chosen = choices.find((one) => one === to) ?? choices[0] ?? "paid"
  return (
    <>
      <h2>{say("claim.answer")}</h2>
      <ActForm intent="answer" id="answer-form" key={state}>
        <Choice
          name="to"
          id="answer-to"
          label="claim.answer-to"
          value={chosen}
          onChange={setTo}
          options={choices.map((value) => ({ value, text: say(`claim.to.${value}`) }))}
        />
        <TextField name="on" label="claim.on" type="date" />
        {chosen === "acknowledged" ? (
          <TextField name="reference" id="answer-reference" label="claim.reference" value={claim.reference} most={60} />
        ) : null}
        {chosen === "paid" ? (
          <TextField name="paid" label="claim.paid" value={claim.amounts.expected.amount} mode="decimal" most={14} />
        ) : null}
        <TextField name="note" id="answer-note" label="claim.note" most={300} />
        <Button type="submit">{say("claim.answer-save")}</Button>
      </ActForm>
    </>
  )
}
