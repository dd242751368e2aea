import type { FloorPlan } from "core/floorPlan/index.ts"
import { say } from "words/index.ts"

/** A floor as it is drawn: without the bins, which come as marks. */
export type DrawnFloor = Omit<FloorPlan, "bins">

export interface BinMark {
  readonly bin: string
  readonly x: number
  readonly y: number
  readonly state: "open" | "next" | "done" | "short"
}

/**
 * A floor from above, to scale: racks, zones, desk, bench and doors, and on it bins and the walk. Bins that are done are
 * solid, the next one is large; what is not yet walked is a thin line.
 */
export function FloorDrawing({
  floor,
  marks = [],
  path = [],
  label,
}: {
  floor: DrawnFloor
  marks?: readonly BinMark[]
  path?: readonly { readonly x: number; readonly y: number }[]
  label: string
}) {
  const { width, depth } = floor
  // the floor's lower left corner is its origin, the drawing's is the upper left one
  const up = (y: number) => depth - y
  const next = marks.find((mark) => mark.state === "next")
  return (
    <svg className="floor" viewBox={`-0.5 -2.2 ${width + 1} ${depth + 2.7}`} role="img" aria-label={label}>
      <rect x="0" y="0" width={width} height={depth} className="floor-ground" />
      {floor.zones.map((zone) => (
        <g key={zone.code}>
          <rect
            x={zone.x}
            y={up(zone.y + zone.depth)}
            width={zone.width}
            height={zone.depth}
            className={`zone ${zone.kind}`}
          />
          <text x={zone.x + zone.width / 2} y={up(zone.y + zone.depth) - 0.4} className="zone-name">
            {zone.name || zone.code}
          </text>
        </g>
      ))}
      {floor.racks.map((rack) => (
        <rect
          key={rack.code}
          x={rack.x}
          y={up(rack.y + rack.depth)}
          width={rack.width}
          height={rack.depth}
          className="rack"
        />
      ))}
      {floor.aisles.map((aisle) => (
        <text key={aisle.code} x={aisle.x} y={up(aisle.from) + 0.3} className="aisle-name">
          {aisle.code}
        </text>
      ))}
      {floor.places.map((place) => (
        <g key={place.code} className={`spot ${place.kind}`}>
          {place.kind === "door" ? (
            <rect x={place.x - 1} y={up(place.y) - 0.9} width="2" height="0.9" />
          ) : (
            <rect x={place.x - 1} y={up(place.y) - 0.5} width="2" height="1" />
          )}
          {place.kind === "door" ? (
            <text x={place.x} y={up(place.y) - 0.12}>
              {place.name.replace(/^\D+/, "")}
            </text>
          ) : null}
        </g>
      ))}
      {path.length > 1 ? (
        <polyline points={path.map((at) => `${at.x},${up(at.y)}`).join(" ")} className="walk" />
      ) : null}
      {marks.map((mark) => (
        <rect
          key={mark.bin}
          x={mark.x - (mark.state === "next" ? 0.95 : 0.5)}
          y={up(mark.y) - (mark.state === "next" ? 0.95 : 0.5)}
          width={mark.state === "next" ? 1.9 : 1}
          height={mark.state === "next" ? 1.9 : 1}
          className={`bin-mark ${mark.state}`}
        >
          <title>{mark.bin}</title>
        </rect>
      ))}
      {next ? (
        <text
          x={Math.min(Math.max(next.x, 4), width - 4)}
          y={up(next.y) > 4 ? up(next.y) - 1.4 : up(next.y) + 2.8}
          className="next-name"
        >
          {next.bin}
        </text>
      ) : null}
      <g className="floor-scale">
        <path d={`M${width - 10} -0.5 v-0.5 h10 v0.5`} />
        <text x={width - 5} y="-1.2">
          {say("floor.scale")}
        </text>
      </g>
    </svg>
  )
}
