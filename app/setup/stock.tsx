import { Button, Input } from "@chakra-ui/react"
import { Form, Link, useSearchParams } from "react-router"
import { may } from "server/actors/index.ts"
import {
  blockBin,
  doubtStock,
  findStock,
  movementsOf,
  receiptForm,
  receive,
  type StockRow,
  setLotState,
  transfer,
  transferForm,
} from "server/decisions/stock.ts"
import { workContext } from "server/http/context.ts"
import { binFor } from "server/returns/inspect.ts"
import { setReturnBin } from "server/returns/onward.ts"
import { reconcileStock } from "server/stock/move.ts"
import { dayAndClock } from "words/format.ts"
import { say } from "words/index.ts"
import { wordFor } from "words/reasons.ts"
import { z } from "zod"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { Check, TextField } from "../parts/Fields.tsx"
import { Table } from "../parts/Table.tsx"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { useKept } from "../shell/useKept.ts"
import { useShell } from "../shell/useNow.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/stock"
import { SetUpHead } from "./SetUp.tsx"
import { setUpRights } from "./setUpRights.server.ts"

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const search = new URL(request.url).searchParams
  const find = (search.get("find") ?? "").slice(0, 80)
  const empty = search.get("empty") === "on"
  const { rows, more } = await findStock(work, { words: find, empty })
  const open = rows.find((row) => row.id === Number(search.get("place"))) ?? null
  return {
    find,
    empty,
    rows,
    more,
    open,
    bins: {
      inspection: (await binFor(work.db, work.warehouse.id, "inspection"))?.code ?? "",
      repair: (await binFor(work.db, work.warehouse.id, "repair"))?.code ?? "",
    },
    movements: open ? await movementsOf(work, open.id) : [],
    // of what is shown: `npm run reconcile` goes over all of it
    wrong: await reconcileStock(work.db, { warehouseId: work.warehouse.id, stockIds: rows.map((row) => row.id) }),
    mayAdjust: may(work.actor, "stock.adjust"),
    rights: setUpRights(work.actor),
    key: crypto.randomUUID(),
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  const bin = field.text(16)
  return answerTo(request, context.get(workContext), {
    receive: act(receiptForm, receive, (value, { quantity }) => say("stock.received", { n: quantity, ...value }), {
      at: {
        "stock.no-bin": "bin",
        "stock.no-item": "sku",
        "stock.no-lot": "lot",
      },
    }),
    transfer: act(transferForm, transfer, (_, { quantity, to }) => say("stock.transferred", { n: quantity, bin: to }), {
      at: {
        "stock.no-bin": "to",
      },
    }),
    "return-bin": act(
      z.object({ purpose: z.enum(["inspection", "repair"]), bin }),
      (work, { purpose, bin }) => setReturnBin(work, purpose, bin),
      ({ bin }) => say("goods-back.bin-saved", { bin }),
    ),
    doubt: act(
      z.object({ stockId: field.id }),
      (work, { stockId }) => doubtStock(work, stockId),
      () => say("stock.doubted"),
    ),
    block: act(
      z.object({ bin, why: field.text(200) }),
      (work, { bin, why }) => blockBin(work, bin, why),
      (_, { bin }) => say("stock.blocked", { bin }),
    ),
    free: act(
      z.object({ bin }),
      (work, { bin }) => blockBin(work, bin, null),
      (_, { bin }) => say("stock.freed", { bin }),
    ),
    lot: act(
      z.object({ lotId: field.id, state: field.text(20) }),
      (work, { lotId, state }) => setLotState(work, lotId, state),
      () => say("stock.lot-saved"),
    ),
  })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("setup.stock")} · ${say("app.name")}` }]

export default function Stock({ loaderData: at, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const [search] = useSearchParams()
  const to = (place: number) => {
    const next = new URLSearchParams(search)
    next.set("place", String(place))
    return `?${next}`
  }
  return (
    <Screen
      ribbon={{}}
      name="stock"
      sill={{
        plate: { verb: say("stock.plate"), detail: say("stock.plate-detail"), ready: true, form: "receipt-form" },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <SetUpHead name="setup.stock" rights={at.rights}>
        <Form method="get" className="find" role="search">
          <label htmlFor="find">{say("stock.find-label")}</label>
          <Input id="find" name="find" defaultValue={at.find} key={at.find} maxLength={80} />
          <label className="check">
            <input type="checkbox" name="empty" defaultChecked={at.empty} /> {say("stock.empty")}
          </label>
          <Button type="submit">{say("orders.find")}</Button>
        </Form>
      </SetUpHead>
      <div className="two wide-left">
        <section className="scrolls">
          {at.wrong.map((one) => (
            <p key={`${one.bin} ${one.sku} ${one.lot}`} className="ember pad">
              {say("stock.wrong", { ...one, lot: one.lot ?? "" })}
            </p>
          ))}
          {at.rows.length === 0 ? (
            <p className="nothing">{say("stock.none")}</p>
          ) : (
            <Table
              caption={say("setup.stock")}
              rows={at.rows}
              rowKey={(row) => row.id}
              sorts={!at.more}
              rowClass={(row) => (row.id === at.open?.id ? "next" : undefined)}
              columns={[
                {
                  name: "bin",
                  head: say("stock.head.bin"),
                  className: "code",
                  heads: true,
                  cell: (row) => (
                    <Link to={to(row.id)} preventScrollReset>
                      {row.bin}
                    </Link>
                  ),
                },
                {
                  name: "item",
                  head: say("stock.head.item"),
                  cell: (row) => (
                    <>
                      {row.description} <span className="code">{row.sku}</span>
                      <Doubts row={row} />
                    </>
                  ),
                },
                { name: "lot", head: say("stock.head.lot"), className: "code", cell: (row) => row.lot ?? "" },
                {
                  name: "expires",
                  head: say("stock.head.expires"),
                  className: "code",
                  cell: (row) => row.expiresOn ?? "",
                },
                { name: "there", head: say("stock.head.there"), className: "figure", cell: (row) => row.onHand },
                { name: "held", head: say("stock.head.held"), className: "figure", cell: (row) => row.allocated || "" },
              ]}
            />
          )}
          {at.more ? <p className="pager">{say("stock.more")}</p> : null}
        </section>
        <section className="item-edit">
          {at.open ? (
            <Place row={at.open} movements={at.movements} mayAdjust={at.mayAdjust} transferKey={at.key} />
          ) : null}
          <h2>{say("stock.receive")}</h2>
          <ActForm intent="receive" sends={{ key: at.key }} id="receipt-form" key={actionData?.answer.key}>
            <TextField name="sku" label="stock.field.sku" value={at.open?.sku} most={24} />
            <TextField name="bin" label="stock.field.bin" most={16} />
            <TextField name="quantity" label="stock.field.quantity" mode="numeric" most={7} />
            <TextField name="lot" label="stock.field.lot" most={24} />
            <TextField name="expires" label="stock.field.expires" type="date" />
            <Check name="released" label="stock.field.released" on />
          </ActForm>
          {at.mayAdjust ? (
            <>
              <h2>{say("goods-back.bins")}</h2>
              {(["inspection", "repair"] as const).map((purpose) => (
                <ActForm
                  key={purpose}
                  intent="return-bin"
                  sends={{ purpose }}
                  id={`bin-for-${purpose}`}
                  className="back-bin"
                >
                  <TextField
                    name="bin"
                    id={`bin-${purpose}`}
                    label={`goods-back.bin.${purpose}`}
                    value={at.bins[purpose]}
                    most={16}
                  />
                  <Button
                    type="submit"
                    aria-label={`${say("goods-back.bin-save")} ${say(`goods-back.bin.${purpose}`)}`}
                  >
                    {say("goods-back.bin-save")}
                  </Button>
                </ActForm>
              ))}
            </>
          ) : null}
        </section>
      </div>
    </Screen>
  )
}

/** What keeps a place from being used, in words. */
function Doubts({ row }: { row: StockRow }) {
  const words = [
    row.blockedWhy === null ? null : say("stock.is-blocked", { why: row.blockedWhy }),
    row.lotState === null || row.lotState === "released" ? null : say(`stock.lot-is.${row.lotState}`),
    row.toCount ? say("stock.to-count") : null,
  ].filter((one) => one !== null)
  return words.length > 0 ? <small className="stock-doubt">{words.join(", ")}</small> : null
}

function Place({
  row,
  movements,
  mayAdjust,
  transferKey,
}: {
  row: StockRow
  movements: Route.ComponentProps["loaderData"]["movements"]
  mayAdjust: boolean
  transferKey: string
}) {
  const { zone } = useShell()
  return (
    <div className="stock-place">
      <h2>
        {row.bin}: {row.sku}
        {row.lot ? ` ${row.lot}` : ""}
      </h2>
      <ActForm intent="transfer" sends={{ key: transferKey, stockId: row.id }} className="acts-row">
        <Input
          name="quantity"
          inputMode="numeric"
          aria-label={say("stock.field.quantity")}
          defaultValue={row.onHand - row.allocated}
          width="80px"
        />
        <Input name="to" aria-label={say("stock.field.to")} placeholder={say("stock.field.to")} width="110px" />
        <Button type="submit">{say("stock.move")}</Button>
      </ActForm>
      <div className="acts-row">
        {row.toCount ? null : (
          <Act intent="doubt" sends={{ stockId: row.id }}>
            <Button type="submit">{say("stock.doubt")}</Button>
          </Act>
        )}
        {mayAdjust && row.lotId !== null ? (
          <Act intent="lot" sends={{ lotId: row.lotId }} className="acts-row">
            {(["released", "unreleased", "blocked"] as const)
              .filter((state) => state !== row.lotState)
              .map((state) => (
                <Button key={state} type="submit" name="state" value={state}>
                  {say(`stock.lot-set.${state}`)}
                </Button>
              ))}
          </Act>
        ) : null}
      </div>
      {mayAdjust ? (
        <ActForm intent={row.blockedWhy === null ? "block" : "free"} sends={{ bin: row.bin }} className="acts-row">
          {row.blockedWhy === null ? (
            <Input
              name="why"
              aria-label={say("stock.field.why")}
              placeholder={say("stock.field.why")}
              maxLength={80}
              width="200px"
            />
          ) : null}
          <Button type="submit">{say(row.blockedWhy === null ? "stock.block" : "stock.free")}</Button>
        </ActForm>
      ) : null}
      <ol className="movements">
        {movements.map((one, index) => (
          <li key={index}>
            <b>{one.quantity > 0 ? `+${one.quantity}` : `−${-one.quantity}`}</b> {wordFor("stock.cause", one.cause)}{" "}
            {one.order ?? ""} {one.note}{" "}
            <span className="pale">
              {dayAndClock(one.at, zone)} {one.who ?? ""}
            </span>
          </li>
        ))}
      </ol>
    </div>
  )
}
