import { Button, Input } from "@chakra-ui/react"
import { customsUnits } from "core/customs/index.ts"
import { useEffect, useRef, useState } from "react"
import { Link, useFetcher, useNavigation } from "react-router"
import { say } from "words/index.ts"
import { sayReason, wordFor } from "words/reasons.ts"
import { ActForm, FieldError, useFieldState } from "../parts/ActForm.tsx"
import { Check, Choice, TextField } from "../parts/Fields.tsx"
import type { loader as hsLoader } from "./hs-codes.ts"
import { lacksOf } from "./PapersToMake.tsx"
import type { PapersView } from "./papersView.server.ts"

type LineView = PapersView["lines"][number]

/** What a line says to customs; open where something of it is missing. */
export function PaperLine({ line, papers }: { line: LineView; papers: PapersView }) {
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
        <ActForm
          intent="line-customs"
          sends={{ line: line.id }}
          id={`line-${line.id}`}
          lacks={lacksOf(line.gaps)}
          className="papers-form"
        >
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
  const shown = useRef(typed)
  // what is stored anew meanwhile shows where nobody typed
  useEffect(() => {
    const before = shown.current
    shown.current = typed
    setCode((now) => (now === before ? typed : now))
  }, [typed])
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
