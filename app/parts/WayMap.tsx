import { type GeoPermissibleObjects, geoAlbersUsa, geoNaturalEarth1, geoPath } from "d3-geo"
import { useEffect, useState } from "react"

const width = 340
const height = 200

interface Stop {
  readonly place: string
  /** Longitude and latitude, as maps have them. */
  readonly at: readonly [number, number]
}

/** The way of a package over the places where it was seen, on a map. Nothing where fewer than two places are known. */
export function WayMap({ way, label }: { way: readonly Stop[]; label: string }) {
  const stops = way.filter((stop, index) => index === 0 || stop.place !== way[index - 1]?.place)
  const [land, setLand] = useState<GeoPermissibleObjects | null>(null)
  const shown = stops.length > 1
  const abroad = stops.some((stop) => geoAlbersUsa()([...stop.at]) === null)
  useEffect(() => {
    if (!shown) return
    let gone = false
    void import("./mapLand.ts")
      .then(({ landOf }) => landOf(abroad, "US"))
      .then(({ shapes }) => {
        if (!gone) setLand(shapes)
      })
    return () => {
      gone = true
    }
  }, [abroad, shown])
  if (!shown || !land) return null
  const projection = (abroad ? geoNaturalEarth1() : geoAlbersUsa()).fitSize([width, height], land as never)
  const path = geoPath(projection)
  const last = stops.length - 1
  const startY = projection([...(stops[0]?.at ?? [0, 0])])?.[1] ?? 0
  const endY = projection([...(stops[last]?.at ?? [0, 0])])?.[1] ?? 0
  return (
    <svg viewBox={`0 0 ${width} ${height}`} className="way-map" role="img" aria-label={label}>
      <path d={path(land) ?? ""} className="land" />
      <path d={path({ type: "LineString", coordinates: stops.map((stop) => [...stop.at]) }) ?? ""} className="way" />
      {stops.map((stop, index) => {
        const [x = 0, y = 0] = projection([...stop.at]) ?? []
        // the name stays on the map
        const left = x > width / 2
        // the upper one of the two names above its place, the lower one below
        const above = index === last ? y <= startY : startY < endY
        return (
          <g key={`${stop.place} ${stop.at.join()}`} className={index === last ? "stop last" : "stop"}>
            <circle cx={x} cy={y} r={index === last ? 5 : 3}>
              <title>{stop.place}</title>
            </circle>
            {index === 0 || index === last ? (
              <text x={x + (left ? -8 : 8)} y={y + (above ? -7 : 15)} textAnchor={left ? "end" : "start"}>
                {stop.place}
              </text>
            ) : null}
          </g>
        )
      })}
    </svg>
  )
}
