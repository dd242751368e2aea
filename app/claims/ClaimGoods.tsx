import { lineValue } from "core/claims/index.ts"
import { moneyText, showMoney } from "core/money/index.ts"
import type { ClaimWhole } from "server/claims/list.ts"
import { say } from "words/index.ts"
import { FieldError } from "../parts/ActForm.tsx"
import { Table } from "../parts/Table.tsx"

/** Pieces and values by line, as somebody types them. */
export type TypedGoods = Readonly<Record<number, { readonly pieces: string; readonly unitValue: string }>>

/** The goods of the packages that are claimed for: how many of them, and what one is worth. */
export function ClaimGoodsTable({ claim, typed }: { claim: ClaimWhole; typed: TypedGoods | null }) {
  const lines = claim.facts.lines.map((line, index) => {
    const own = claim.goods.find((one) => one.lineId === line.lineId)
    const saved = { pieces: String(own?.pieces ?? 0), unitValue: own?.unitValue ?? line.unitValue ?? "0" }
    return { ...line, index, saved, now: typed?.[line.lineId] ?? saved }
  })
  return (
    <Table
      caption={say("claim.goods")}
      rows={lines}
      rowKey={(line) => line.lineId}
      sorts={false}
      columns={[
        {
          name: "item",
          head: say("goods-back.item"),
          heads: true,
          cell: (line) => (
            <>
              {line.description}
              <br />
              <span className="code">{line.sku}</span>
              <input type="hidden" name={`goods[${line.index}].lineId`} value={line.lineId} />
            </>
          ),
        },
        { name: "held", head: say("claim.held"), className: "figure", cell: (line) => line.pieces },
        {
          name: "pieces",
          head: say("claim.pieces"),
          className: "figure narrow",
          cell: (line) => (
            <>
              <input
                name={`goods[${line.index}].pieces`}
                defaultValue={line.saved.pieces}
                inputMode="numeric"
                maxLength={7}
                aria-label={say("claim.pieces-of", { sku: line.sku })}
              />
              <FieldError name={`goods[${line.index}].pieces`} />
            </>
          ),
        },
        {
          name: "value",
          head: say("claim.unit-value"),
          className: "figure narrow",
          cell: (line) => (
            <>
              <input
                name={`goods[${line.index}].unitValue`}
                defaultValue={line.saved.unitValue}
                inputMode="decimal"
                maxLength={14}
                aria-label={say("claim.value-of", { sku: line.sku })}
              />
              <FieldError name={`goods[${line.index}].unitValue`} />
            </>
          ),
        },
        {
          name: "sum",
          head: say("claim.line-value"),
          className: "figure",
          cell: (line) => sumOf(line.now, claim.currency),
        },
      ]}
    />
  )
}

function sumOf({ pieces, unitValue }: { pieces: string; unitValue: string }, currency: string): string {
  if (!/^\d{1,7}$/.test(pieces) || !/^\d{1,9}(\.\d{1,6})?$/.test(unitValue)) return ""
  return showMoney(moneyText(lineValue({ pieces: Number(pieces), unitValue }, currency)))
}
