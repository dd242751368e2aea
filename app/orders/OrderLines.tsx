import { Button, Input } from "@chakra-ui/react"
import { useState } from "react"
import type { FoundItem } from "server/goods/lookUp.ts"
import { say } from "words/index.ts"
import { ActForm } from "../parts/ActForm.tsx"
import { LookUp } from "../parts/LookUp.tsx"
import { Table } from "../parts/Table.tsx"
import type { OrderView } from "./orderView.server.ts"

/** What the order holds; the lead can change it as long as no label is asked for. */
export function OrderLines({ order, answered }: { order: OrderView; answered: string | null }) {
  return (
    <>
      <h2>{say("order.lines")}</h2>
      <Table
        className="rows tight"
        headless
        rows={order.lines}
        rowKey={(line) => line.id}
        columns={[
          {
            name: "item",
            head: "",
            cell: (line) => (
              <>
                {line.description}
                <br />
                <span className="code">{line.sku}</span>
              </>
            ),
          },
          { name: "ordered", head: "", className: "figure big", cell: (line) => line.ordered },
        ]}
      />
      {order.mayChangeLines ? <ChangeLines key={`${order.address.version} ${answered}`} order={order} /> : null}
    </>
  )
}

function ChangeLines({ order }: { order: OrderView }) {
  const [sku, setSku] = useState("")
  return (
    <details className="change-lines">
      <summary>{say("lines.change")}</summary>
      <ActForm intent="lines" sends={{ version: order.address.version }}>
        <ul>
          {order.lines.map((line) => (
            <li key={line.id}>
              <label htmlFor={`pieces-${line.id}`}>
                <span className="code">{line.sku}</span>
                {line.packed > 0 ? <small> {say("lines.packed-already", { n: line.packed })}</small> : null}
              </label>
              <Input
                id={`pieces-${line.id}`}
                name={`pieces-${line.id}`}
                defaultValue={String(line.ordered)}
                inputMode="numeric"
                pattern="[0-9]{1,6}"
                required
                width="72px"
                autoComplete="off"
              />
            </li>
          ))}
          <li>
            <LookUp<FoundItem>
              name="sku"
              id="added-sku"
              label="lines.add"
              value={sku}
              from="/look-up/items"
              textOf={(item) => item.sku}
              show={(one) => (
                <>
                  <b className="code">{one.sku}</b> {one.description} <i>{say("order-new.free", { n: one.free })}</i>
                </>
              )}
              onChange={setSku}
              onChoose={(one) => setSku(one.sku)}
            />
            <Input
              name="added"
              inputMode="numeric"
              pattern="[0-9]{1,6}"
              width="72px"
              aria-label={say("lines.add-pieces")}
              autoComplete="off"
            />
          </li>
          <li>
            <label htmlFor="lines-why">{say("lines.why")}</label>
            <Input id="lines-why" name="why" required maxLength={200} autoComplete="off" />
          </li>
        </ul>
        <Button type="submit">{say("lines.save")}</Button> <small>{say("lines.note")}</small>
      </ActForm>
    </details>
  )
}
