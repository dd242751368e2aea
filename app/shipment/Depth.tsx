import { lineOfKey, type PlacedPiece, piecesOfKey } from "core/packing/index.ts"
import { say } from "words/index.ts"
import { depthOrder, onPaper } from "./depthDrawing.ts"
import type { PackageView, ShipmentView } from "./shipmentView.server.ts"
import { useInside } from "./usePacking.ts"

/**
 * A package seen into: its pieces where they can lie, numbered in the order of loading, and in words beside it; of a
 * pallet its cartons, layer by layer.
 */
export function Depth({
  one,
  lines,
  onClose,
}: {
  one: PackageView
  lines: ShipmentView["lines"]
  onClose: () => void
}) {
  const inside = useInside(one.inside)
  const placed = one.load?.placed ?? inside
  const box = one.load?.box ?? one.inside?.box
  const lineOf = (key: string) => lines.find((line) => String(line.id) === lineOfKey(key))
  const letter = (key: string) => lineOf(key)?.letter ?? ""
  return (
    <div className="depth">
      <header>
        <h2>{say("packing.depth-title", { name: one.name })}</h2>
        <button type="button" className="as-link" onClick={onClose}>
          {say("packing.depth-close")}
        </button>
      </header>
      {placed === null ? (
        <p>{say("packing.depth-wait")}</p>
      ) : placed === "none" || !box ? (
        <p className="ember">{say("packing.depth-none")}</p>
      ) : (
        <div className="depth-view">
          <DepthDrawing
            box={box}
            placed={placed}
            name={(key, at) => (one.load ? key : `${at + 1}${letter(key)}`)}
            label={one.name}
          />
          {one.load ? (
            <Layers layers={one.load.layers} />
          ) : (
            <div>
              <p className="pale">{say("packing.depth-order")}</p>
              <ol>
                {depthOrder(placed).map((piece, index) => (
                  <li key={index}>
                    {letter(piece.key)} {lineOf(piece.key)?.sku}
                    {piecesOfKey(piece.key) > 1 ? ` ${say("packing.depth-case", { n: piecesOfKey(piece.key) })}` : ""}
                  </li>
                ))}
              </ol>
            </div>
          )}
        </div>
      )}
    </div>
  )
}

/** The cartons of a pallet in the order of loading, a line for each layer, the lowest first. */
function Layers({ layers }: { layers: readonly (readonly number[])[] }) {
  return (
    <div>
      <p className="pale">{say("packing.depth-layers")}</p>
      <ol>
        {layers.map((numbers) => (
          <li key={numbers[0]}>{numbers.join(", ")}</li>
        ))}
      </ol>
    </div>
  )
}

function DepthDrawing({
  box,
  placed,
  name,
  label,
}: {
  box: { readonly length: number; readonly width: number; readonly height: number }
  placed: readonly PlacedPiece[]
  name: (key: string, at: number) => string
  label: string
}) {
  const corner = (x: number, y: number, z: number) => onPaper(x, y, z).join(",")
  const { length: l, width: w, height: h } = box
  const all = [
    onPaper(0, 0, 0),
    onPaper(l, 0, 0),
    onPaper(0, w, 0),
    onPaper(l, w, 0),
    onPaper(0, 0, h),
    onPaper(l, 0, h),
    onPaper(0, w, h),
    onPaper(l, w, h),
  ]
  const [left, right] = [Math.min(...all.map(([x]) => x)), Math.max(...all.map(([x]) => x))]
  const [top, bottom] = [Math.min(...all.map(([, y]) => y)), Math.max(...all.map(([, y]) => y))]
  const pad = (right - left) / 40
  const thin = (right - left) / 300
  return (
    <svg
      className="depth-drawing"
      viewBox={`${left - pad} ${top - pad} ${right - left + 2 * pad} ${bottom - top + 2 * pad}`}
      role="img"
      aria-label={label}
    >
      <g strokeWidth={thin}>
        <polygon
          points={[corner(0, 0, 0), corner(l, 0, 0), corner(l, w, 0), corner(0, w, 0)].join(" ")}
          className="wall"
        />
        <polygon
          points={[corner(0, w, 0), corner(l, w, 0), corner(l, w, h), corner(0, w, h)].join(" ")}
          className="wall"
        />
        <polygon
          points={[corner(0, 0, 0), corner(0, w, 0), corner(0, w, h), corner(0, 0, h)].join(" ")}
          className="wall"
        />
        {depthOrder(placed).map((piece, index) => {
          const [x, y, z] = [piece.x, piece.y, piece.z]
          const [X, Y, Z] = [x + piece.length, y + piece.width, z + piece.height]
          const [cx, cy] = onPaper((x + X) / 2, y, (z + Z) / 2)
          const size = Math.min(piece.length, piece.height) * 0.42
          return (
            <g key={index} className="depth-piece">
              <polygon
                points={[corner(x, y, Z), corner(X, y, Z), corner(X, Y, Z), corner(x, Y, Z)].join(" ")}
                className="up"
              />
              <polygon
                points={[corner(X, y, z), corner(X, Y, z), corner(X, Y, Z), corner(X, y, Z)].join(" ")}
                className="side"
              />
              <polygon
                points={[corner(x, y, z), corner(X, y, z), corner(X, y, Z), corner(x, y, Z)].join(" ")}
                className="front"
              />
              <text x={cx} y={cy + size * 0.35} fontSize={size} textAnchor="middle">
                {name(piece.key, index)}
              </text>
            </g>
          )
        })}
      </g>
    </svg>
  )
}
