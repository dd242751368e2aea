import { geoDistance, geoMercator } from "d3-geo"
import { say } from "words/index.ts"

export interface MapPlace {
  readonly code: string
  readonly name: string
  /** Longitude and latitude, as maps have them. */
  readonly at: readonly [number, number] | null
}

const width = 340
const height = 210
const earthMiles = 3958.8

/** Where places lie around us: north is up, rings are miles. Places nobody can locate are not on it. */
export function PlacesMap({
  from,
  places,
  chosen,
}: {
  from: readonly [number, number] | null
  places: readonly MapPlace[]
  chosen: string
}) {
  const known = places.flatMap((one) => (one.at ? [{ ...one, at: one.at }] : []))
  if (!from || known.length === 0) return null
  const miles = Math.max(2, ...known.map((one) => geoDistance([...from], [...one.at]) * earthMiles))
  const ring = [1, 2, 5, 10, 20, 50, 100].find((step) => miles / step <= 4) ?? 100
  // as many pixels a mile as let the farthest place in
  const pixels = (Math.min(width, height) / 2 - 14) / miles
  const projection = geoMercator()
    .center([...from])
    .translate([width / 2, height / 2])
    .scale(pixels * earthMiles * Math.cos((from[1] * Math.PI) / 180))
  const rings = Array.from({ length: Math.ceil(miles / ring) }, (_, index) => (index + 1) * ring)
  return (
    <svg
      viewBox={`0 0 ${width} ${height}`}
      className="places-map"
      role="img"
      aria-label={say("drop.map-label", { n: known.length })}
    >
      {rings.map((radius) => (
        <g key={radius}>
          <circle cx={width / 2} cy={height / 2} r={radius * pixels} className="ring" />
          <text x={width / 2 + 3} y={height / 2 - radius * pixels - 3}>
            {say("drop.miles", { n: radius })}
          </text>
        </g>
      ))}
      <rect x={width / 2 - 5} y={height / 2 - 5} width="10" height="10" className="from" />
      {known.map((one, index) => {
        const [x, y] = projection([...one.at]) ?? [0, 0]
        return (
          <g key={one.code} className={one.code === chosen ? "place chosen" : "place"}>
            <circle cx={x} cy={y} r="6">
              <title>{one.name}</title>
            </circle>
            <text x={x + 9} y={y + 4}>
              {index + 1}
            </text>
          </g>
        )
      })}
    </svg>
  )
}
