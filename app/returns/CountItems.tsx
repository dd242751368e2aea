import { Button, Input } from "@chakra-ui/react"
import type { ReturnShownWhole } from "server/returns/list.ts"
import { say } from "words/index.ts"
import { ActForm } from "../parts/ActForm.tsx"
import { Table, type TableColumn } from "../parts/Table.tsx"
import type { CountRow, Counts } from "./useCounts.ts"

/** The items of a return, with what is counted of each where it is here. */
export function CountItems({
  shown,
  open,
  counts,
  sendKey,
}: {
  shown: ReturnShownWhole
  open: boolean
  counts: Counts
  sendKey: string
}) {
  return (
    <>
      {counts.rows.length === 0 ? (
        <p className="nothing">{say("goods-back.no-items")}</p>
      ) : (
        <Table
          caption={say("goods-back.items")}
          rows={counts.rows}
          rowKey={(row) => row.key}
          rowClass={(row) => (row.key === counts.last ? "next" : undefined)}
          sorts={false}
          columns={columnsOf(open, counts)}
        />
      )}
      {open ? (
        <>
          <OtherGoods counts={counts} />
          <ActForm
            intent="count"
            key={counts.recorded}
            id="count-form"
            sends={{ found: JSON.stringify(counts.found), key: sendKey }}
            className="case-acts"
          >
            <fieldset className="scans-as">
              <legend>{say("goods-back.scans-as")}</legend>
              {(["sound", "damaged"] as const).map((state) => (
                <label key={state} className="tick-line">
                  <input
                    type="radio"
                    name="scans"
                    checked={counts.scansAs === state}
                    onChange={() => counts.setScansAs(state)}
                  />{" "}
                  {say(`goods-back.condition.${state}`)}
                </label>
              ))}
            </fieldset>
            <label className="tick-line">
              <input type="checkbox" name="surplus" /> {say("goods-back.surplus")}
            </label>
            <Button type="submit" disabled={counts.pieces === 0}>
              {say("goods-back.record")}
            </Button>
          </ActForm>
        </>
      ) : null}
      {shown.bins.inspection === null ? <p className="note ember">{say("goods-back.no-bin")}</p> : null}
    </>
  )
}

const columnsOf = (open: boolean, counts: Counts): readonly TableColumn<CountRow>[] => [
  {
    name: "item",
    head: say("goods-back.item"),
    heads: true,
    cell: ({ item, lot }) => (
      <>
        {item.description}
        <br />
        <span className="code">
          {item.sku}
          {lot ? `, ${say("pick.lot", { lot: lot.code })}` : ""}
        </span>
      </>
    ),
  },
  {
    name: "sent",
    head: say("goods-back.sent"),
    className: "figure",
    cell: ({ item, lot }) => lot?.sent ?? item.sent,
  },
  {
    name: "announced",
    head: say("goods-back.announced"),
    className: "figure",
    cell: (row) => (isFirst(row, counts) ? row.item.announced || "" : ""),
  },
  ...(counts.rows.some((row) => row.item.before > 0)
    ? [
        {
          name: "before",
          head: say("goods-back.before"),
          className: "figure",
          cell: (row: CountRow) => (isFirst(row, counts) ? row.item.before || "" : ""),
        },
      ]
    : []),
  {
    name: "good",
    head: say("goods-back.head.sound"),
    className: open ? "figure narrow" : "figure",
    cell: (row) => (open ? <Pieces row={row} counts={counts} state="sound" /> : shownOf(row, counts, "sound")),
  },
  {
    name: "damaged",
    head: say("goods-back.head.damaged"),
    className: open ? "figure narrow" : "figure",
    cell: (row) => (open ? <Pieces row={row} counts={counts} state="damaged" /> : shownOf(row, counts, "damaged")),
  },
  open
    ? {
        name: "note",
        className: "wide",
        head: say("goods-back.note"),
        cell: (row) => (
          <Input
            value={counts.at(row.key).note}
            onChange={(event) => counts.set(row.key, { note: event.target.value })}
            maxLength={200}
            aria-label={say("goods-back.note-of", { sku: row.item.sku })}
          />
        ),
      }
    : {
        name: "missing",
        head: say("goods-back.missing"),
        className: "figure",
        cell: (row) =>
          isFirst(row, counts) && row.item.missing > 0 ? <b className="ember">{row.item.missing}</b> : "",
      },
]

/** Figures of a whole item stand in the first of its rows. */
const isFirst = (row: CountRow, { rows }: Counts): boolean =>
  rows.find((one) => one.item.itemId === row.item.itemId)?.key === row.key

const shownOf = (row: CountRow, counts: Counts, state: "sound" | "damaged") =>
  isFirst(row, counts) ? row.item[state] || "" : ""

function Pieces({ row, counts, state }: { row: CountRow; counts: Counts; state: "sound" | "damaged" }) {
  const counted = isFirst(row, counts) ? row.item[state] : 0
  return (
    <>
      {counted > 0 ? <small>{`${counted} + `}</small> : null}
      <Input
        value={counts.at(row.key)[state]}
        onChange={(event) => counts.set(row.key, { [state]: event.target.value })}
        inputMode="numeric"
        maxLength={7}
        aria-label={say(`goods-back.pieces-of.${state}`, { sku: row.item.sku })}
      />
    </>
  )
}

/** Goods in the package that were never sent. */
function OtherGoods({ counts: { other, setOther } }: { counts: Counts }) {
  const text = (name: "sku" | "lot" | "goods" | "quantity", most: number) => (
    <div className="field">
      <label htmlFor={`other-${name}`}>{say(`goods-back.other.${name}`)}</label>
      <Input
        id={`other-${name}`}
        value={other[name]}
        onChange={(event) => setOther({ ...other, [name]: event.target.value })}
        maxLength={most}
        inputMode={name === "quantity" ? "numeric" : undefined}
        autoComplete="off"
      />
    </div>
  )
  return (
    <fieldset className="case-acts other-goods">
      <legend>{say("goods-back.others")}</legend>
      {text("quantity", 7)}
      {text("sku", 24)}
      {text("lot", 24)}
      {text("goods", 120)}
    </fieldset>
  )
}
