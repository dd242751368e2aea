import { Button, Input } from "@chakra-ui/react"
import { memo } from "react"
import type { ReturnShownWhole } from "server/returns/list.ts"
import { say } from "words/index.ts"
import { ActForm } from "../parts/ActForm.tsx"
import { Table, type TableColumn } from "../parts/Table.tsx"
import {
  type CountRow,
  type CountState,
  countStates,
  noneTyped,
  otherIsWrong,
  piecesIn,
  type Typed,
} from "./counting.ts"
import type { Counts } from "./useCounts.ts"

/** The items of a return, with what is counted of each where it is here. */
export function CountItems({ shown, open, counts }: { shown: ReturnShownWhole; open: boolean; counts: Counts }) {
  const { wrong } = counts
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
            key={counts.key}
            id="count-form"
            sends={{ found: JSON.stringify(counts.found), key: counts.key }}
            onSubmit={counts.send}
            className="case-acts"
          >
            <fieldset className="scans-as">
              <legend>{say("goods-back.scans-as")}</legend>
              {countStates.map((state) => (
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
            <Button type="submit" disabled={!counts.sendable}>
              {say("goods-back.record")}
            </Button>
            {wrong.length > 0 ? (
              <p className="note ember">{say("goods-back.not-pieces", { goods: wrongGoods(wrong) })}</p>
            ) : null}
          </ActForm>
        </>
      ) : null}
      {shown.bins.inspection === null ? <p className="note ember">{say("goods-back.no-bin")}</p> : null}
    </>
  )
}

/** What of a count is to be corrected before it can be recorded. */
export const wrongGoods = (wrong: readonly string[]): string =>
  say("goods-back.wrong-goods", { goods: wrong[0] ?? "", more: wrong.length - 1 })

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
    cell: (row) => (row.first ? row.item.announced || "" : ""),
  },
  ...(counts.rows.some((row) => row.item.before > 0)
    ? [
        {
          name: "before",
          head: say("goods-back.before"),
          className: "figure",
          cell: (row: CountRow) => (row.first ? row.item.before || "" : ""),
        },
      ]
    : []),
  {
    name: "good",
    head: say("goods-back.head.sound"),
    className: open ? "figure narrow" : "figure",
    cell: (row) => (open ? <Pieces {...typedOf(row, counts)} of={row} state="sound" /> : shownOf(row, "sound")),
  },
  {
    name: "damaged",
    head: say("goods-back.head.damaged"),
    className: open ? "figure narrow" : "figure",
    cell: (row) => (open ? <Pieces {...typedOf(row, counts)} of={row} state="damaged" /> : shownOf(row, "damaged")),
  },
  open
    ? {
        name: "note",
        className: "wide",
        head: say("goods-back.note"),
        cell: (row) => <Note {...typedOf(row, counts)} of={row} />,
      }
    : {
        name: "missing",
        head: say("goods-back.missing"),
        className: "figure",
        cell: (row) => (row.first && row.item.missing > 0 ? <b className="ember">{row.item.missing}</b> : ""),
      },
]

const shownOf = (row: CountRow, state: CountState) => (row.first ? row.item[state] || "" : "")

interface Fields {
  readonly of: CountRow
  readonly typed: Typed
  readonly set: Counts["set"]
}
const typedOf = ({ key }: CountRow, { typed, set }: Counts) => ({ typed: typed[key] ?? noneTyped, set })

// of three hundred rows, a key that is struck draws the fields of one alone
const Pieces = memo(({ of: { key, item, first }, typed, set, state }: Fields & { readonly state: CountState }) => {
  const counted = first ? item[state] : 0
  return (
    <>
      {counted > 0 ? <small>{`${counted} + `}</small> : null}
      <Input
        value={typed[state]}
        onChange={(event) => {
          const { value } = event.target
          set(key, (before) => ({ ...before, [state]: value }))
        }}
        inputMode="numeric"
        maxLength={7}
        aria-invalid={piecesIn(typed[state]) === null ? true : undefined}
        aria-label={say(`goods-back.pieces-of.${state}`, { sku: item.sku })}
      />
    </>
  )
})

const Note = memo(({ of: { key, item }, typed, set }: Fields) => (
  <Input
    value={typed.note}
    onChange={(event) => {
      const { value } = event.target
      set(key, (before) => ({ ...before, note: value }))
    }}
    maxLength={200}
    aria-label={say("goods-back.note-of", { sku: item.sku })}
  />
))

/** Goods in the package that were never sent. */
function OtherGoods({ counts: { other, setOther } }: { counts: Counts }) {
  const noPieces = otherIsWrong(other)
  const text = (name: "sku" | "lot" | "goods" | "quantity", most: number) => (
    <div className="field">
      <label htmlFor={`other-${name}`}>{say(`goods-back.other.${name}`)}</label>
      <Input
        id={`other-${name}`}
        value={other[name]}
        onChange={(event) => setOther({ ...other, [name]: event.target.value })}
        maxLength={most}
        inputMode={name === "quantity" ? "numeric" : undefined}
        aria-invalid={name === "quantity" && noPieces ? true : undefined}
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
