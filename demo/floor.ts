import type { FloorPlan } from "core/floorPlan/index.ts"
import type { Knex } from "knex"
import { inTransaction } from "server/db/connection.ts"
import { storePlan } from "server/floorPlan/index.ts"
import { there } from "../server/db/there.ts"

/** How wide an aisle with the racks on both of its sides is, how deep a rack, how wide a bin; meters. */
const pitch = 4.2
const rackDepth = 1.1
const binWidth = 1.2
const front = 3

/** A house's aisles from the left, how many bins a rack is long, and what its zones are. */
interface House {
  readonly aisles: string
  readonly prefix: string
  readonly length: number
  /** Where the middle cross aisle goes through, after so many bins; null: none. */
  readonly middle: number | null
  readonly zones: readonly { code: string; name: string; kind: "cold" | "cage"; aisle: string }[]
  readonly doors: readonly string[]
}

const houses: Record<number, House> = {
  1: {
    aisles: "ABCDEFGHKQZ",
    prefix: "",
    length: 20,
    middle: 10,
    zones: [
      { code: "COLD", name: "Cold store", kind: "cold", aisle: "D" },
      { code: "CAGE", name: "Cage", kind: "cage", aisle: "Q" },
    ],
    doors: ["1", "2", "3", "4", "5", "6", "7", "8"],
  },
  2: {
    aisles: "ABCDEFGHKQZ",
    prefix: "R-",
    length: 20,
    middle: null,
    zones: [{ code: "COLD", name: "Cold store", kind: "cold", aisle: "D" }],
    doors: ["1", "2", "3", "4"],
  },
}

/** The plan of a demo warehouse around the bins that goods lie in: `B-14-2` is aisle B, 14th bin, second level. */
export function demoPlan(warehouse: number, bins: readonly string[]): FloorPlan {
  const house = houses[warehouse] as House
  const centre = (aisle: string) => 3 + house.aisles.indexOf(aisle) * pitch
  const gap = house.middle === null ? 0 : 2.4
  const along = (position: number) =>
    front +
    1 +
    (Math.ceil(position / 2) - 0.5) * binWidth +
    (house.middle !== null && position > house.middle ? gap : 0)
  const back = along(house.length) + binWidth / 2 + 1
  const side = (position: number) => (position % 2 === 0 ? 1 : -1)
  const width = 3 + (house.aisles.length - 1) * pitch + 4
  const halves =
    house.middle === null
      ? [[1, house.length]]
      : [
          [1, house.middle],
          [house.middle + 1, house.length],
        ]
  const racks = [...house.aisles].flatMap((aisle) =>
    halves.flatMap(([from, to], half) =>
      [-1, 1].map((at) => ({
        code: `${aisle}${at < 0 ? "L" : "R"}${half + 1}`,
        x: round(centre(aisle) + (at < 0 ? -1 - rackDepth : 1)),
        y: round(along(from as number) - binWidth / 2),
        width: rackDepth,
        depth: round(along(to as number) - along(from as number) + binWidth),
        levels: aisle === "Z" ? 3 : 6,
      })),
    ),
  )
  const zones = house.zones.map(({ aisle, ...zone }) => ({
    ...zone,
    x: round(centre(aisle) - pitch / 2),
    y: front + 0.6,
    width: pitch,
    depth: round(back - front - 1.2),
  }))
  return {
    width: round(width),
    depth: round(back + 2),
    places: [
      { kind: "desk", code: "DESK", name: "Pick desk", x: round(centre("A") + pitch / 2), y: 1 },
      { kind: "bench", code: "BENCH", name: "Packing bench", x: round(centre("D") + pitch / 2), y: 1 },
      ...house.doors.map((door, index) => ({
        kind: "door" as const,
        code: `DOOR-${door}`,
        name: `Door ${door}`,
        x: round(centre("E") + index * 3),
        y: 0,
      })),
    ],
    aisles: [...house.aisles].map((code) => ({ code, x: round(centre(code)), from: front, to: round(back) })),
    crossAisles: [
      { code: "FRONT", y: front, from: 0, to: round(width) },
      ...(house.middle === null
        ? []
        : [{ code: "MIDDLE", y: round(along(house.middle) + binWidth / 2 + gap / 2), from: 0, to: round(width) }]),
      { code: "BACK", y: round(back), from: 0, to: round(width) },
    ],
    racks,
    zones,
    bins: bins.map((code) => {
      const [aisle = "A", position = "1", level = "1"] = code.slice(house.prefix.length).split("-")
      const at = Number(position)
      return { code, aisle, x: round(centre(aisle) + side(at)), y: round(along(at)), level: Number(level) }
    }),
  }
}

const round = (metres: number): number => Math.round(metres * 100) / 100

/** Bins that stand empty, so that goods can be moved. */
const spare = ["A-01-1", "A-02-1", "B-05-1", "C-02-1", "D-14-1", "E-10-1", "F-12-1", "H-08-1", "K-12-1", "Q-05-1"]

/** Draws both floors around the bins that are filled, and gives them carts with totes. */
export async function loadFloors(db: Knex): Promise<void> {
  for (const warehouse of [1, 2]) {
    const prefix = (houses[warehouse] as House).prefix
    const filled: string[] = await db("bin").where({ warehouse_id: warehouse }).orderBy("code").pluck("code")
    const all = [...new Set([...filled, ...spare.map((code) => `${prefix}${code}`)])]
    await inTransaction(db, (trx) => storePlan(trx, warehouse, demoPlan(warehouse, all)))
    await db("cart").insert([
      { warehouse_id: warehouse, code: "C1", name: "Tote cart", litres: 480, kilograms: 250 },
      { warehouse_id: warehouse, code: "C2", name: "Large tote cart", litres: 960, kilograms: 400 },
      { warehouse_id: warehouse, code: "H1", name: "Pallet truck", litres: 1_800, kilograms: 900 },
    ])
    const cart = async (code: string) =>
      there(await db("cart").where({ warehouse_id: warehouse, code }).first("id")).id as number
    const totes = async (code: string, count: number, first: number, litres: number) => {
      const cart_id = await cart(code)
      await db("tote").insert(
        Array.from({ length: count }, (_, index) => ({
          warehouse_id: warehouse,
          code: `T${first + index}`,
          cart_id,
          position: index + 1,
          litres,
        })),
      )
    }
    await totes("C1", 8, 101, 60)
    await totes("C2", 12, 201, 80)
  }
}
