import { Button, Input } from "@chakra-ui/react"
import { customsRoles, customsUnits, incoterms, isIncoterm, purposes } from "core/customs/index.ts"
import { useState } from "react"
import { Link, useFetcher, useNavigation } from "react-router"
import { shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { sayReason, wordFor } from "words/reasons.ts"
import { ActForm, FieldError, useFieldState } from "../parts/ActForm.tsx"
import { Check, Choice, TextField } from "../parts/Fields.tsx"
import { Table } from "../parts/Table.tsx"
import type { loader as hsLoader } from "./hs-codes.ts"
import { Gaps, usePapersWay } from "./PapersToMake.tsx"
import type { PapersView } from "./papersView.server.ts"

/** Where what papers say is filled in: the goods line by line, the order, its parties, the lading, and what it will cost. */
export function PapersPanel({ papers, orderNumber }: { papers: PapersView; orderNumber: string }) {
  const way = usePapersWay()
  return (
    <div className="papers-panel">
      <header>
        <h2>{say("papers.panel-title", { orderNumber })}</h2>
        <Link to={way.to(false)} preventScrollReset>
          {say("papers.close")}
        </Link>
      </header>
      <div className="papers-columns">
        <div>
          {papers.abroad ? <CustomsOfOrder papers={papers} /> : null}
          {papers.freight ? <LadingForm papers={papers} /> : null}
          {papers.abroad ? <Parties papers={papers} /> : null}
        </div>
        <div>
          {papers.gaps.length > 0 ? (
            <div className="ember">
              <Gaps gaps={papers.gaps} all />
            </div>
          ) : (
            <p>{say("papers.complete")}</p>
          )}
          {papers.duty ? <Duty papers={papers} /> : null}
          {papers.lines.map((line) => (
            <Line key={line.id} line={line} papers={papers} />
          ))}
        </div>
      </div>
    </div>
  )
}

type LineView = PapersView["lines"][number]

/** What a line says to customs; open where something of it is missing. */
function Line({ line, papers }: { line: LineView; papers: PapersView }) {
  const busy = useNavigation().state !== "idle"
  const lacks = line.gaps.length + line.dangerous.length
  if (!papers.abroad && lacks === 0) return null
  return (
    <details open={lacks > 0} className="papers-line">
      <summary>
        <b>{line.letter}</b> {line.description}{" "}
        <span className="code">
          {line.hsCode || "–"} {line.origin || "–"}
        </span>
        {lacks > 0 ? <span className="ember"> {say("papers.gaps", { n: lacks })}</span> : null}
      </summary>
      {line.dangerous.map((flaw) => (
        <p key={flaw.code} className="ember">
          {sayReason(flaw)}{" "}
          <Link to={`/set-up/items?find=${encodeURIComponent(line.sku)}`}>
            {say("order.to-item", { sku: line.sku })}
          </Link>
        </p>
      ))}
      {papers.abroad ? (
        <ActForm intent="line-customs" sends={{ line: line.id }} id={`line-${line.id}`} className="papers-form">
          <Of id={line.id} name="description" value={line.said.description} shown={line.description} wide />
          <HsField line={line} />
          <Of id={line.id} name="origin" value={line.said.origin} shown={line.origin} />
          <Of id={line.id} name="material" value={line.said.material} shown={line.material} />
          <Of id={line.id} name="use" value={line.said.use} shown={line.use} />
          <Choice
            name="unit"
            id={`unit-${line.id}`}
            label="customs.field.unit"
            value={line.said.unit || line.unit || "C62"}
            options={customsUnits.map((unit) => ({ value: unit, text: say(`print.unit-of.${unit}`) }))}
          />
          <Of id={line.id} name="netKg" value={line.said.netKg} shown={line.netKg} mode="decimal" />
          <TextField
            name="value"
            id={`value-${line.id}`}
            label={{ words: `${say("customs.field.value")}, ${papers.currency}` }}
            value={line.said.value}
            placeholder={line.value}
            mode="decimal"
            most={14}
          />
          <Check name="keep" id={`keep-${line.id}`} label="customs.field.keep" on />
          <Button type="submit" disabled={busy}>
            {say("papers.save-line")}
          </Button>
        </ActForm>
      ) : null}
    </details>
  )
}

/** A field of a line: what its item says shows as long as nothing else is said. */
function Of({
  id,
  name,
  value,
  shown,
  mode,
  wide = false,
}: {
  id: number
  name: "description" | "material" | "use" | "origin" | "netKg"
  value: string
  shown: string
  mode?: "decimal"
  wide?: boolean
}) {
  return (
    <div className={wide ? "wide" : undefined}>
      <TextField
        name={name}
        id={`${name}-${id}`}
        label={`customs.field.${name}`}
        value={value}
        placeholder={shown}
        mode={mode}
      />
    </div>
  )
}

/** The code of the harmonized system, with those that may fit: the item's own history first. */
function HsField({ line }: { line: LineView }) {
  const found = useFetcher<typeof hsLoader>()
  const { typed, error, errorId } = useFieldState("hsCode", line.said.hsCode)
  const [code, setCode] = useState(typed)
  const look = (words: string) =>
    void found.load(`/look-up/hs-codes?line=${line.id}&words=${encodeURIComponent(words || line.description)}`)
  return (
    <div className="field hs-field">
      <label htmlFor={`hsCode-${line.id}`}>{say("customs.field.hsCode")}</label>
      <Input
        id={`hsCode-${line.id}`}
        name="hsCode"
        value={code}
        placeholder={line.hsCode}
        maxLength={13}
        autoComplete="off"
        aria-invalid={error ? true : undefined}
        aria-describedby={error ? errorId : undefined}
        onChange={(event) => {
          setCode(event.target.value)
          look(event.target.value)
        }}
        onFocus={() => look(code)}
      />
      <FieldError name="hsCode" />
      {found.data && found.data.length > 0 ? (
        <ul className="hs-found">
          {found.data.map((one) => (
            <li key={one.code}>
              <button type="button" className="as-link code" onClick={() => setCode(one.code)}>
                {one.code}
              </button>{" "}
              <small>
                {one.title} · {wordFor("hs.from", one.from)}
              </small>
            </li>
          ))}
        </ul>
      ) : line.hsTitle ? (
        <small className="field-note">{line.hsTitle}</small>
      ) : null}
    </div>
  )
}

/** Terms, purpose, amounts, filing: what is said of the whole order. */
function CustomsOfOrder({ papers }: { papers: PapersView }) {
  const busy = useNavigation().state !== "idle"
  const { customs, terms } = papers
  return (
    <ActForm intent="customs" id="customs-form" className="papers-form">
      <h3>
        {say("customs.of-order")} {isIncoterm(terms.incoterm) ? <small>{incoterms[terms.incoterm].title}</small> : null}
      </h3>
      <Choice
        name="incoterm"
        label="customs.field.incoterm"
        value={terms.incoterm}
        options={[{ value: "", text: "–" }, ...Object.keys(incoterms).map((code) => ({ value: code, text: code }))]}
      />
      <TextField name="incoterm_place" label="customs.field.place" value={terms.place} most={60} />
      <Choice
        name="purpose"
        label="customs.field.purpose"
        value={customs.purpose}
        options={purposes.map((value) => ({ value, text: say(`print.purpose.${value}`) }))}
      />
      <TextField name="phone" id="customs-phone" label="customs.field.phone" value={papers.phone} most={24} />
      <TextField name="receiverTax" label="customs.field.receiverTax" value={customs.receiverTax} most={30} />
      <TextField name="receiverEori" label="customs.field.receiverEori" value={customs.receiverEori} most={17} />
      {(["freight", "insurance", "packing", "discount"] as const).map((name) => (
        <TextField
          key={name}
          name={name}
          id={`customs-${name}`}
          label={{ words: `${say(`print.charge.${name}`)}, ${papers.currency}` }}
          value={customs[name] ?? ""}
          mode="decimal"
          most={12}
        />
      ))}
      <TextField name="itn" label="customs.field.itn" value={customs.itn} most={15} placeholder="X00000000000000" />
      <TextField name="licence" label="customs.field.licence" value={customs.licence} most={30} />
      <TextField
        name="receiverLicence"
        label="customs.field.receiverLicence"
        value={customs.receiverLicence}
        most={40}
      />
      <TextField name="remarks" label="customs.field.remarks" value={customs.remarks} most={240} />
      <div className="checks wide">
        <Check name="proForma" label="customs.field.proForma" on={customs.proForma} />
        <Check name="ownInvoice" label="customs.field.ownInvoice" on={customs.ownInvoice} />
        <Check name="certificateOfOrigin" label="customs.field.certificateOfOrigin" on={customs.certificateOfOrigin} />
        <Check name="transit" label="customs.field.transit" on={customs.transit} />
        <Check name="declaresKind" label="customs.field.declaresKind" on={customs.declaresKind} />
      </div>
      <p className="note wide">
        {papers.filing === null
          ? say("filing.unknown")
          : papers.filing.kind === "none"
            ? say("filing.none")
            : papers.filing.kind === "exempt"
              ? say("filing.exempt", { citation: papers.filing.citation })
              : say("filing.file")}
      </p>
      <Button type="submit" disabled={busy}>
        {say("papers.save-customs")}
      </Button>
    </ActForm>
  )
}

/** Whom papers name besides the receiver, one at a time. */
function Parties({ papers }: { papers: PapersView }) {
  const busy = useNavigation().state !== "idle"
  const named = customsRoles.filter((role) => papers.customs.parties[role])
  const [role, setRole] = useState<(typeof customsRoles)[number]>(named[0] ?? "importer")
  const party = papers.customs.parties[role]
  const fields = [
    "company",
    "attention",
    "street",
    "street2",
    "city",
    "state",
    "postalCode",
    "country",
    "phone",
  ] as const
  return (
    <details
      open={papers.gaps.some((gap) => gap.values.field === "importer" || gap.values.role)}
      className="papers-line"
    >
      <summary>
        {say("customs.parties")}{" "}
        <small>{named.map((one) => wordFor("customs.role", one)).join(", ") || say("customs.parties-none")}</small>
      </summary>
      <ActForm intent="customs-party" id={`party-${role}`} key={role} className="papers-form">
        <Choice
          name="role"
          label="customs.field.role"
          value={role}
          onChange={(value) => setRole(value as typeof role)}
          options={customsRoles.map((value) => ({ value, text: say(`customs.role.${value}`) }))}
        />
        {fields.map((name) => (
          <TextField
            key={name}
            name={name}
            id={`party-${name}`}
            label={`customs.party.${name}`}
            value={party?.[name] ?? ""}
            most={60}
          />
        ))}
        <TextField name="taxNumber" label="customs.party.taxNumber" value={party?.taxNumber ?? ""} most={30} />
        <TextField name="eori" label="customs.party.eori" value={party?.eori ?? ""} most={17} />
        <Button type="submit" disabled={busy}>
          {say("papers.save-party")}
        </Button>
      </ActForm>
    </details>
  )
}

/** What the bill of lading says besides the shipment. */
function LadingForm({ papers }: { papers: PapersView }) {
  const busy = useNavigation().state !== "idle"
  const { lading } = papers
  return (
    <ActForm intent="lading" id="lading-form" className="papers-form">
      <h3>{say("papers.kind.bill-of-lading")}</h3>
      {(
        ["proNumber", "appointment", "instructions", "trailer", "seal", "value", "billTo", "driver", "counted"] as const
      ).map((name) => (
        <TextField
          key={name}
          name={name}
          id={`lading-${name}`}
          label={`lading.field.${name}`}
          value={lading[name]}
          most={name === "instructions" || name === "billTo" ? 200 : 60}
        />
      ))}
      <Check name="stackable" id="lading-stackable" label="lading.field.stackable" on={lading.stackable} />
      <Button type="submit" disabled={busy}>
        {say("papers.save-lading")}
      </Button>
    </ActForm>
  )
}

/** What customs there are likely to take, with its arithmetic: an estimate, and it says so. */
function Duty({ papers }: { papers: PapersView }) {
  const { duty } = papers
  if (!duty) return null
  return (
    <details className="papers-line" open={papers.gaps.length === 0}>
      <summary>
        {say("duty.title", { amount: `${duty.total} ${duty.currency}` })}{" "}
        <small>{say("duty.paid-by", { payer: papers.dutyPayer })}</small>
      </summary>
      <Table
        caption={say("duty.title", { amount: `${duty.total} ${duty.currency}` })}
        headless
        sorts={false}
        rows={[
          ...duty.lines.map((line) => ({
            what: `${line.hsCode} ${line.origin}`,
            how: duty.dutyFree
              ? say("duty.free")
              : line.known
                ? say("duty.line", { base: line.base, percent: line.percent })
                : say("duty.unknown"),
            amount: line.duty,
          })),
          {
            what: say("duty.tax"),
            how: duty.taxFree ? say("duty.free") : say("duty.line", { base: duty.taxBase, percent: duty.taxPercent }),
            amount: duty.tax,
          },
        ]}
        rowKey={(row) => `${row.what} ${row.how}`}
        columns={[
          { name: "what", head: say("customs.field.hsCode"), heads: true, cell: (row) => row.what },
          { name: "how", head: say("duty.how"), cell: (row) => row.how },
          { name: "amount", head: duty.currency, className: "figure", cell: (row) => row.amount },
        ]}
      />
      <p className="note">
        {say("duty.note", {
          own: papers.currency,
          rate: duty.rate,
          on: shortDay(duty.rateOn),
          from: duty.from,
          currency: duty.currency,
        })}
      </p>
    </details>
  )
}
