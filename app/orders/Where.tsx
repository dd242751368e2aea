import { Button } from "@chakra-ui/react"
import { say } from "words/index.ts"
import { sayTrouble, wordFor } from "words/reasons.ts"
import { Act } from "../parts/ActForm.tsx"
import { Table } from "../parts/Table.tsx"
import { elsewhereWords } from "./Elsewhere.tsx"

interface Fit {
  readonly id: number
  readonly name: string
  readonly has: number
  readonly lines: number
  readonly missing: readonly string[]
  readonly km: number | null
  /** Together with this warehouse it can ship the order. */
  readonly splits: boolean
}

export interface WhereShown {
  readonly fits: readonly Fit[]
  readonly here: number
  readonly parts: readonly {
    readonly id: number
    readonly orderNumber: string
    readonly warehouse: string
    readonly here: boolean
  }[]
  readonly outside: {
    readonly warehouse: string | null
    readonly shippedOn: string | null
    readonly state: string
    readonly trouble: string | null
    readonly reference: string | null
    readonly carrier: string | null
    readonly tracking: readonly string[]
  } | null
  readonly outsides: readonly { readonly id: number; readonly name: string }[]
  readonly begun: boolean
}

/** Which warehouse ships an order: what each has of it and how far it is, its parts, and what others ship for us. */
export function Where({ where, mayWork }: { where: WhereShown; mayWork: boolean }) {
  const { fits, outside, parts, outsides } = where
  const here = fits.find((fit) => fit.id === where.here)
  const movable = mayWork && !where.begun && outside === null
  const others = fits.filter((fit) => fit.id !== where.here)
  if (fits.length < 2 && parts.length === 0 && !outside) return null
  return (
    <div className="where">
      <h2>{say("where.title")}</h2>
      {outside ? (
        <p className={outside.state === "refused" ? "ember" : undefined}>
          {outside.warehouse === null
            ? elsewhereWords(outside)
            : wordFor("outside.state", outside.state, {
                warehouse: outside.warehouse,
                reference: outside.reference ?? "",
                carrier: outside.carrier ?? "",
                why: sayTrouble(outside.trouble),
              })}{" "}
          {outside.tracking.map((one) => (
            <span key={one} className="code">
              {one}{" "}
            </span>
          ))}
        </p>
      ) : null}
      {outside && mayWork && ["sending", "taken", "refused"].includes(outside.state) ? (
        <One intent="recall" warehouse={0} words={say("outside.recall")} />
      ) : null}
      {parts.length > 0 ? (
        <p className="parts">
          {say("split.parts", { n: parts.length })}{" "}
          {parts.map((one) =>
            one.here ? (
              <b key={one.id}>
                {one.orderNumber} {one.warehouse}
              </b>
            ) : (
              <span key={one.id}>
                {one.orderNumber} {one.warehouse}
              </span>
            ),
          )}
        </p>
      ) : null}
      {parts.length > 0 && mayWork ? <One intent="whole" warehouse={0} words={say("split.make-whole")} /> : null}
      {fits.length > 1 ? (
        <Table
          className="rows tight"
          caption={say("where.title")}
          headless
          rows={fits}
          rowKey={(fit) => fit.id}
          columns={[
            {
              name: "warehouse",
              head: "",
              heads: true,
              cell: (fit) => (fit.id === where.here ? say("where.here", { name: fit.name }) : fit.name),
            },
            {
              name: "has",
              head: "",
              cell: (fit) =>
                fit.missing.length === 0
                  ? say("where.has-all")
                  : say("where.has", { has: fit.has, lines: fit.lines, missing: fit.missing.slice(0, 3).join(", ") }),
            },
            {
              name: "far",
              head: "",
              className: "figure",
              cell: (fit) => (fit.km === null ? "" : say("where.miles", { n: Math.round(fit.km / 1.609344) })),
            },
            {
              name: "act",
              head: "",
              className: "acts",
              cell: (fit) =>
                movable && fit.id !== where.here && fit.has > 0 && parts.length === 0 ? (
                  <One intent="reroute" warehouse={fit.id} words={say("where.send", { name: fit.name })} />
                ) : null,
            },
          ]}
        />
      ) : null}
      {movable && parts.length === 0 && here
        ? others
            .filter((fit) => fit.splits)
            .map((fit) => (
              <One
                key={fit.id}
                intent="split"
                warehouse={fit.id}
                words={say("where.split", {
                  n: here.missing.length,
                  name: fit.name,
                })}
              />
            ))
        : null}
      {movable && parts.length === 0
        ? outsides.map((one) => (
            <One key={one.id} intent="outside" warehouse={one.id} words={say("where.outside", { name: one.name })} />
          ))
        : null}
    </div>
  )
}

function One({ intent, warehouse, words }: { intent: string; warehouse: number; words: string }) {
  return (
    <Act intent={intent} sends={{ warehouse }} className="in-line">
      <Button type="submit">{words}</Button>
    </Act>
  )
}
