import { type GeoPermissibleObjects, geoAlbersUsa, geoNaturalEarth1, geoPath } from "d3-geo"
import { useEffect, useState } from "react"
import { say } from "words/index.ts"

export interface RoutePlaces {
  /** Longitude and latitude, as maps have them. */
  readonly from: readonly [number, number]
  /** Null where the place is not known: then the country itself is the end of the way. */
  readonly to: readonly [number, number] | null
  readonly country: string
  readonly home: string
  readonly words: { readonly from: string; readonly to: string }
}

const width = 340
const height = 250

interface Land {
  readonly shapes: GeoPermissibleObjects
  /** Middle of the receiver's country, where its place is not known. */
  readonly middle: [number, number] | null
}

/** The way of a shipment on a map: of the United States at home, of the world abroad. */
export function RouteMap({ places }: { places: RoutePlaces }) {
  const [land, setLand] = useState<Land | null>(null)
  const abroad = places.country !== "US" || places.home !== "US"
  useEffect(() => {
    let gone = false
    void import("../parts/mapLand.ts")
      .then(({ landOf }) => landOf(abroad, places.country))
      .then((found) => {
        if (!gone) setLand(found)
      })
    return () => {
      gone = true
    }
  }, [abroad, places.country])
  const end = places.to ?? land?.middle ?? null
  const label = say("rate.map-label", places.words)
  if (!land) return <p className="note">{label}</p>
  const inside: [[number, number], [number, number]] = [
    [6, 6],
    [width - 6, height - 6],
  ]
  const projection = abroad ? geoNaturalEarth1() : geoAlbersUsa()
  projection.fitExtent(inside, land.shapes as never)
  const path = geoPath(projection)
  const at = (place: readonly [number, number]) => projection([...place])
  const [start, stop] = [at(places.from), end ? at(end) : null]
  const way = end ? path({ type: "LineString", coordinates: [[...places.from], [...end]] }) : null
  return (
    <figure className="route-map">
      <svg viewBox={`0 0 ${width} ${height}`} role="img" aria-label={label}>
        <path d={path(land.shapes) ?? ""} className="land" />
        {way ? <path d={way} className="way" /> : null}
        {start ? <rect x={start[0] - 5} y={start[1] - 5} width="10" height="10" className="from" /> : null}
        {stop ? <circle cx={stop[0]} cy={stop[1]} r="5.5" className="to" /> : null}
      </svg>
      <figcaption>{end ? label : say("rate.map-none", places.words)}</figcaption>
    </figure>
  )
}
