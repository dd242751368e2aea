import { Button } from "@chakra-ui/react"
import { faceDrawing } from "core/packing/index.ts"
import { say } from "words/index.ts"
import { sayReason } from "words/reasons.ts"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { CartonSheet, lotsInWords } from "./CartonSheet.tsx"
import { ContentGrip, PackageDrop } from "./DragGoods.tsx"
import type { PackageView, ShipmentView } from "./shipmentView.server.ts"

/** Pixels of the drawing an inch; one scale for all packages of a shipment, so that they can be compared. */
function scaleFor(packages: readonly PackageView[], editable: boolean, offered: boolean): number {
  const wide = packages.reduce((sum, one) => sum + one.edges.length + one.edges.width * 0.35 + 3, 0)
  const tall = Math.max(...packages.map((one) => one.edges.height + one.edges.width * 0.25), 1)
  // what the line of another size and that of suggested cartons leave
  const room = (packages.some((one) => one.cartons.length > 0) ? 96 : editable ? 102 : 128) - (offered ? 32 : 0)
  return Math.min(7.5, 830 / Math.max(1, wide), room / tall)
}

/** What a package is called in short: its number, with P before that of a pallet. */
export const shortName = (one: Pick<PackageView, "kind" | "number">): string =>
  one.kind === "pallet" ? `P${one.number}` : String(one.number)

/** The cartons of a shipment drawn to scale on one floor, the one in hand marked, with what is in them. */
export function Cartons({
  view,
  hand,
  editable,
  onHand,
  looked,
  onLook,
}: {
  view: ShipmentView
  hand: number | null
  editable: boolean
  onHand: (number: number) => void
  /** The package that is looked into. */
  looked: number | null
  onLook: (number: number | null) => void
}) {
  const standing = view.packages.filter((one) => one.on === null)
  const pallets = standing.filter((one) => one.kind === "pallet")
  const offered = editable && (view.plannedLeft > 0 || (view.toSuggest?.loads.length ?? 0) > 0)
  const scale = scaleFor(standing, editable, offered)
  const [bar, barWords] = view.abroad ? ([50 / 2.54, "ship.scale-bar-cm"] as const) : ([20, "ship.scale-bar"] as const)
  return (
    <div className="cartons">
      {standing.map((one, index) => (
        <PackageDrop
          key={one.id}
          number={one.number}
          open={editable}
          className={one.number === hand && editable ? "carton hand" : "carton"}
        >
          <Drawing one={one} scale={scale} />
          <div className="carton-words">
            <p className="carton-weight">
              {editable ? (
                <button
                  type="button"
                  className="plate-small"
                  aria-pressed={one.number === hand}
                  aria-label={`${say("ship.take-in-hand")} ${one.number}`}
                  onClick={() => onHand(one.number)}
                >
                  {shortName(one)}
                </button>
              ) : (
                <i className="plate-small">{shortName(one)}</i>
              )}{" "}
              <b title={one.weightOther}>{one.weight}</b> <small>{one.measured ? say("ship.measured") : ""}</small>
            </p>
            {one.flaws
              .filter((flaw) => !(flaw.code === "flaw.empty" && one.contents.length === 0))
              .map((flaw) => (
                <p key={flaw.key} className="ember">
                  {sayReason(flaw)}
                </p>
              ))}
            {view.state === "open" && one.flaws.some((flaw) => flaw.code.startsWith("flaw.weight")) ? (
              <Recount one={one} view={view} />
            ) : null}
            <p>
              {one.freightClass ? (
                <b>{say("ship.class", { freightClass: one.freightClass })}</b>
              ) : one.billed ? (
                <b>{say("ship.bills", { billed: one.billed, unit: view.units.mass })}</b>
              ) : null}{" "}
              {one.measured ? say("ship.calculated", { weight: one.calculated }) : null}
            </p>
            <p title={one.sizeOther}>
              {one.size}
              {one.packaging ? `, ${one.packaging}` : one.origin === "own" ? `, ${say("suggest.own")}` : ""}
              {one.sizeByHand ? `, ${say("ship.by-hand-size")}` : ""}
            </p>
            <p className="code">{one.tracking ?? one.sscc ?? ""}</p>
            {editable && one.contents.length > 0 ? (
              <p className="carton-chips">
                {one.contents.map((content) => (
                  <ContentGrip
                    key={content.lineId}
                    package={one.number}
                    line={content.lineId}
                    letter={content.line}
                    quantity={content.quantity}
                  />
                ))}
                {one.unverified > 0 ? <small>{say("packing.unverified", { n: one.unverified })}</small> : null}
              </p>
            ) : null}
            <Planned one={one} view={view} />
            {one.overridden.map((pass) => (
              <p key={pass.key} className="pale">
                {sayReason(pass.flaw)},{" "}
                {pass.counted
                  ? say("pack.recounted", { counted: pass.counted, actor: pass.actor })
                  : say("packing.overridden", { why: pass.why, actor: pass.actor })}
              </p>
            ))}
            {one.cartons.length > 0 ? (
              <ul className="pallet-cartons">
                {one.cartons.map((carton) => (
                  <li key={carton.number}>
                    <b>{carton.number}</b> {carton.weight}
                    {editable ? (
                      <Stand
                        number={carton.number}
                        pallet={null}
                        words={say("ship.off")}
                        label={say("ship.off-label", { n: carton.number })}
                      />
                    ) : null}
                  </li>
                ))}
              </ul>
            ) : null}
            {editable && one.kind !== "pallet"
              ? pallets.map((pallet) => (
                  <Stand
                    key={pallet.number}
                    number={one.number}
                    pallet={pallet.number}
                    words={say("ship.onto", { pallet: shortName(pallet) })}
                    label={say("ship.onto-label", { n: one.number, pallet: shortName(pallet) })}
                  />
                ))
              : null}
            <div className="carton-acts">
              {one.inside || one.load ? (
                <button
                  type="button"
                  className="as-link"
                  aria-pressed={looked === one.number}
                  onClick={() => onLook(looked === one.number ? null : one.number)}
                >
                  {say("packing.depth", { n: one.number })}
                </button>
              ) : null}
              {editable ? <CartonSheet one={one} position={index} view={view} /> : null}
            </div>
          </div>
        </PackageDrop>
      ))}
      {view.packages.length > 0 ? (
        <svg className="scale-bar" width={bar * scale + 2} height="18" role="img" aria-label={say(barWords)}>
          <path d={`M1 4 V12 H${bar * scale} V4`} fill="none" stroke="#1A1814" />
          <text x={(bar / 2) * scale} y="10" textAnchor="middle" fontSize="12">
            {say(barWords)}
          </text>
        </svg>
      ) : null}
    </div>
  )
}

/** What is still to come into a package by its plan. */
function Planned({ one, view }: { one: PackageView; view: ShipmentView }) {
  if (one.state !== "open") return null
  const toCome = Object.entries(one.planned).flatMap(([lineId, quantity]) => {
    const there = one.contents.find((content) => String(content.lineId) === lineId)?.quantity ?? 0
    const line = view.lines.find((each) => String(each.id) === lineId)
    if (!line || quantity <= there || line.picked <= line.packed) return []
    const left = quantity - there
    const cases = line.whole ? Math.floor(left / line.whole) : 0
    const how = [cases > 0 ? say("packing.whole-cases", { n: cases }) : "", lotsInWords(one, lineId)].filter(Boolean)
    return [`${left}${line.letter}${how.length > 0 ? ` (${how.join("; ")})` : ""}`]
  })
  return toCome.length > 0 ? <p className="planned">{say("suggest.goes", { what: toCome.join(" ") })}</p> : null
}

/** Lines of a shipment that are all offered where a package is counted again; of more only those that are in it. */
const mostToCount = 8

/** What is really in a package that weighs other than it should: counted line by line, the fields begin empty. */
function Recount({ one, view }: { one: PackageView; view: ShipmentView }) {
  const inside = new Set(one.contents.map((content) => content.lineId))
  const lines = view.lines.length <= mostToCount ? view.lines : view.lines.filter((line) => inside.has(line.id))
  return (
    <ActForm intent="recount" sends={{ key: view.key, package: one.number }} className="recount" key={one.measured}>
      <span>{say("pack.recount")}</span>
      {lines.map((line) => (
        <label key={line.id}>
          {line.letter}{" "}
          <input
            name={`line-${line.id}`}
            inputMode="numeric"
            pattern="[0-9]{1,6}"
            size={3}
            autoComplete="off"
            aria-label={say("pack.recount-label", { line: line.letter, n: one.number })}
          />
        </label>
      ))}
      <Button type="submit">{say("pack.recount-save")}</Button>
    </ActForm>
  )
}

/** Sets a carton on a pallet, or takes it off. */
function Stand({
  number,
  pallet,
  words,
  label,
}: {
  number: number
  pallet: number | null
  words: string
  label: string
}) {
  return (
    <Act intent="stand-on" sends={{ package: number, pallet: pallet ?? "" }}>
      <Button type="submit" variant="ghost" aria-label={label}>
        {words}
      </Button>
    </Act>
  )
}

/** Height of a pallet's deck in inches, for the drawing. */
const deck = 5.5

function Drawing({ one, scale }: { one: PackageView; scale: number }) {
  const { length, width, height } = one.edges
  const [w, h, dx, dy] = [length * scale, height * scale, width * scale * 0.33, width * scale * 0.22]
  const floor = one.kind === "pallet" ? deck : 0.3
  const pieces = faceDrawing({ length: length - 0.6, width: width - 0.6, height: height - 0.3 - floor }, one.contents)
  const inset = 0.3 * scale
  return (
    <svg
      width={w + dx + 3}
      height={h + dy + 3}
      viewBox={`-1 ${-dy - 1} ${w + dx + 3} ${h + dy + 3}`}
      role="img"
      aria-label={`${one.name}: ${one.contents.map((content) => `${content.quantity} ${content.line}`).join(", ") || say("ship.empty-carton")}`}
    >
      <path d={`M0 0 L${dx} ${-dy} H${w + dx} L${w} 0 Z`} className="face lo" />
      <path d={`M${w} 0 L${w + dx} ${-dy} V${h - dy} L${w} ${h} Z`} className="face lo" />
      <rect x="0" y="0" width={w} height={h} className="face hi" />
      {one.kind === "pallet" ? (
        <>
          <rect x="0" y={h - deck * scale} width={w} height={deck * scale} className="face lo" />
          {[0.06, 0.5, 0.94].map((at) => (
            <rect
              key={at}
              x={w * at - 2 * scale}
              y={h - deck * 0.7 * scale}
              width={4 * scale}
              height={deck * 0.7 * scale}
              className="face deck"
            />
          ))}
          {one.front.map((place) => (
            <g key={place.number}>
              <rect
                x={place.x * scale}
                y={h - (deck + place.z + place.height) * scale}
                width={place.width * scale}
                height={place.height * scale}
                className="piece"
              />
              {place.width * scale > 12 && place.height * scale > 11 ? (
                <text
                  x={(place.x + place.width / 2) * scale}
                  y={h - (deck + place.z + place.height / 2) * scale + 5}
                  textAnchor="middle"
                  fontSize="14"
                  fontWeight="650"
                >
                  {place.number}
                </text>
              ) : null}
            </g>
          ))}
        </>
      ) : null}
      {pieces.map((piece, index) => {
        const [pw, ph] = [piece.width * scale, piece.height * scale]
        const label = piece.deep > 1 ? `${piece.deep}${piece.line}` : piece.line
        return (
          <g key={index}>
            <rect
              x={inset + piece.x * scale}
              y={h - floor * scale - piece.y * scale - ph}
              width={pw}
              height={ph}
              className="piece"
            />
            {pw > 9 && ph > 11 ? (
              <text
                x={inset + piece.x * scale + pw / 2}
                y={h - floor * scale - piece.y * scale - ph / 2 + 5}
                textAnchor="middle"
                fontSize="15"
                fontWeight="650"
              >
                {label}
              </text>
            ) : null}
          </g>
        )
      })}
    </svg>
  )
}
