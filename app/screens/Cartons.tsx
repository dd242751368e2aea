import { Button, Input } from "@chakra-ui/react"
import { faceDrawing } from "core/packing/index.ts"
import { Form } from "react-router"
import { say, sayReason } from "../messages/index.ts"
import type { PackageView, ShipmentView } from "./shipmentView.server.ts"

/** Pixels of the drawing an inch; one scale for all cartons of a shipment, so that they can be compared. */
function scaleFor(packages: readonly PackageView[]): number {
  const wide = packages.reduce((sum, one) => sum + one.edges.length + one.edges.width * 0.35 + 3, 0)
  const tall = Math.max(...packages.map((one) => one.edges.height + one.edges.width * 0.25), 1)
  return Math.min(7.5, 830 / Math.max(1, wide), 150 / tall)
}

/** The cartons of a shipment drawn to scale on one floor, the one in hand marked, with what is in them. */
export function Cartons({
  view,
  hand,
  editable,
  onHand,
}: {
  view: ShipmentView
  hand: number | null
  editable: boolean
  onHand: (number: number) => void
}) {
  const scale = scaleFor(view.packages)
  return (
    <div className="cartons">
      {view.packages.map((one, index) => (
        <article key={one.id} className={one.number === hand && editable ? "carton hand" : "carton"}>
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
                  {one.number}
                </button>
              ) : (
                <i className="plate-small">{one.number}</i>
              )}{" "}
              <b title={one.weightKg}>{one.weight}</b> <small>{one.measured ? say("ship.measured") : ""}</small>
            </p>
            <p>
              {one.billed ? <b>{say("ship.bills", { billed: one.billed })}</b> : null}{" "}
              {one.measured ? say("ship.calculated", { weight: one.calculated }) : null}
            </p>
            <p title={one.sizeCm}>
              {one.size}, {one.packaging}
              {one.sizeByHand ? `, ${say("ship.by-hand-size")}` : ""}
            </p>
            <p className="code">{one.tracking ?? one.sscc ?? ""}</p>
            {one.flaws
              .filter((flaw) => !(flaw.code === "flaw.empty" && one.contents.length === 0))
              .map((flaw) => (
                <p key={flaw.code} className="ember">
                  {sayReason(flaw)}
                </p>
              ))}
            {editable ? <Edit one={one} position={index} /> : null}
          </div>
        </article>
      ))}
      {view.packages.length > 0 ? (
        <svg className="scale-bar" width={20 * scale + 2} height="18" role="img" aria-label={say("ship.scale-bar")}>
          <path d={`M1 4 V12 H${20 * scale} V4`} fill="none" stroke="#1A1814" />
          <text x={10 * scale} y="10" textAnchor="middle" fontSize="12">
            {say("ship.scale-bar")}
          </text>
        </svg>
      ) : null}
    </div>
  )
}

function Drawing({ one, scale }: { one: PackageView; scale: number }) {
  const { length, width, height } = one.edges
  const [w, h, dx, dy] = [length * scale, height * scale, width * scale * 0.33, width * scale * 0.22]
  const pieces = faceDrawing({ length: length - 0.6, width: width - 0.6, height: height - 0.6 }, one.contents)
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
      {pieces.map((piece, index) => {
        const [pw, ph] = [piece.width * scale, piece.height * scale]
        const label = piece.deep > 1 ? `${piece.deep}${piece.line}` : piece.line
        return (
          <g key={index}>
            <rect
              x={inset + piece.x * scale}
              y={h - inset - piece.y * scale - ph}
              width={pw}
              height={ph}
              className="piece"
            />
            {pw > 9 && ph > 11 ? (
              <text
                x={inset + piece.x * scale + pw / 2}
                y={h - inset - piece.y * scale - ph / 2 + 5}
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

/** Weight and size for this shipment only, contents line by line, and taking the carton away: everything by mouse too. */
function Edit({ one, position }: { one: PackageView; position: number }) {
  const key = `${one.measured} ${one.size}`
  return (
    <details className="carton-edit" name="carton-edit">
      <summary>{say("ship.edit")}</summary>
      <div className={position > 1 ? "carton-sheet left" : "carton-sheet"}>
        <Form method="post" key={`w ${key}`}>
          <input type="hidden" name="intent" value="weigh" />
          <input type="hidden" name="package" value={one.number} />
          <label htmlFor={`w${one.number}`}>{say("ship.weight-field")}</label>
          <Input
            id={`w${one.number}`}
            name="weight"
            inputMode="decimal"
            defaultValue={one.measured ?? ""}
            width="80px"
          />
          <Button type="submit">{say("ship.save")}</Button>
        </Form>
        <Form method="post" key={`s ${key}`}>
          <input type="hidden" name="intent" value="resize" />
          <input type="hidden" name="package" value={one.number} />
          <span>{say("ship.size-field")}</span>
          {(["length", "width", "height"] as const).map((edge) => (
            <Input
              key={edge}
              name={edge}
              aria-label={say(`ship.${edge}`)}
              inputMode="decimal"
              defaultValue={String(Math.round(one.edges[edge] * 100) / 100)}
              width="58px"
            />
          ))}
          <Button type="submit">{say("ship.save")}</Button>
        </Form>
        {one.contents.map((content) => (
          <Form method="post" key={content.lineId}>
            <input type="hidden" name="intent" value="put" />
            <input type="hidden" name="package" value={one.number} />
            <input type="hidden" name="line" value={content.lineId} />
            <span>
              {content.quantity} × {content.line}
            </span>
            <Button
              type="submit"
              name="quantity"
              value="-1"
              aria-label={say("ship.take-one-label", { line: content.line, n: one.number })}
            >
              {say("ship.take-one")}
            </Button>
          </Form>
        ))}
        <Form method="post">
          <input type="hidden" name="intent" value="remove" />
          <input type="hidden" name="package" value={one.number} />
          <Button type="submit">{say("ship.remove")}</Button>
        </Form>
      </div>
    </details>
  )
}
