import { Button } from "@chakra-ui/react"
import { customsRoles, incoterms, isIncoterm, purposes } from "core/customs/index.ts"
import type { Reason } from "core/refusal/index.ts"
import { type RefObject, useEffect, useRef, useState } from "react"
import { Link, useNavigation } from "react-router"
import { shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { sayReason, wordFor } from "words/reasons.ts"
import { ActForm, isChanged } from "../parts/ActForm.tsx"
import { Check, Choice, TextField } from "../parts/Fields.tsx"
import { Table } from "../parts/Table.tsx"
import { PaperLine } from "./PaperLine.tsx"
import { lacksOf, usePapersWay } from "./PapersToMake.tsx"
import type { PapersView } from "./papersView.server.ts"

/** Where what papers say is filled in: the goods line by line, the order, its parties, the lading, and what it will cost. */
export function PapersPanel({ papers, orderNumber }: { papers: PapersView; orderNumber: string }) {
  const way = usePapersWay()
  const panel = useRef<HTMLDivElement>(null)
  useFirstGap(panel, papers.gaps)
  const elsewhere = papers.gaps.filter((gap) => !hasField(gap))
  return (
    <div className="papers-panel" ref={panel}>
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
          {papers.gaps.length === 0 ? <p>{say("papers.complete")}</p> : null}
          <ul className="gaps ember">
            {elsewhere.map((gap) => (
              <li key={`${gap.code} ${JSON.stringify(gap.values)}`}>
                {sayReason(gap)} {atBorder(gap) ? <Link to="/set-up/border">{say("setup.border")}</Link> : null}
              </li>
            ))}
          </ul>
          {papers.duty ? <Duty papers={papers} /> : null}
          {papers.lines.map((line) => (
            <PaperLine key={line.id} line={line} papers={papers} />
          ))}
        </div>
      </div>
    </div>
  )
}

/** Fields of the order's own form that a paper may ask for. */
const orderFields: readonly unknown[] = [
  "incoterm",
  "incoterm_place",
  "phone",
  "insurance",
  "discount",
  "itn",
  "ownInvoice",
]

/** Whether what is missing stands at a field of this panel. */
const hasField = ({ values }: Reason): boolean => values.line !== undefined || orderFields.includes(values.field)

/** Whether what is missing is filled in for all shipments of the warehouse. */
const atBorder = ({ code, values }: Reason): boolean => values.field === "shipper" || code === "exchange.missing"

/** Goes to the first field that lacks something, when the panel opens and when what was missing there is saved. */
function useFirstGap(panel: RefObject<HTMLDivElement | null>, gaps: readonly Reason[]) {
  const missing = JSON.stringify(gaps)
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is missing has changed, by somebody's save
  useEffect(() => {
    // nobody is taken away from what they are typing
    const active = document.activeElement
    const scanning = active instanceof HTMLInputElement && active.id === "scan-line" && active.value !== ""
    if (active && (scanning || isChanged(active))) return
    panel.current?.querySelector<HTMLElement>("[aria-invalid=true]")?.focus()
  }, [missing, panel])
}

/** Terms, purpose, amounts, filing: what is said of the whole order. */
function CustomsOfOrder({ papers }: { papers: PapersView }) {
  const busy = useNavigation().state !== "idle"
  const { customs, terms } = papers
  return (
    <ActForm intent="customs" id="customs-form" lacks={lacksOf(papers.gaps)} className="papers-form">
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
