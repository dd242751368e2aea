import { geoCentroid } from "d3-geo"
import type { Feature, FeatureCollection } from "geojson"
import { feature } from "topojson-client"
import type { GeometryCollection, Topology } from "topojson-specification"

const known = new Map<string, FeatureCollection>()

/**
 * Outlines of the states (package `us-atlas`, United States Census Bureau) or of the world's countries (`world-atlas`,
 * Natural Earth), and the middle of one country. Read when they are first wanted.
 *
 * @param country ISO 3166-1 alpha-2
 */
export async function landOf(
  world: boolean,
  country: string,
): Promise<{ shapes: FeatureCollection; middle: [number, number] | null }> {
  const name = world ? "countries" : "states"
  if (!known.has(name)) {
    const topology = (world
      ? await import("world-atlas/countries-110m.json")
      : await import("us-atlas/states-10m.json")
    ).default as unknown as Topology
    known.set(name, feature(topology, topology.objects[name] as GeometryCollection) as FeatureCollection)
  }
  const shapes = known.get(name) as FeatureCollection
  const english = new Intl.DisplayNames(["en"], { type: "region" }).of(country) ?? country
  const own = shapes.features.find((one: Feature) => one.properties?.name === english)
  return { shapes, middle: world && own ? geoCentroid(own) : null }
}
