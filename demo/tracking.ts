import type { EventKind } from "core/tracking/index.ts"
import type { Knex } from "knex"

/** What the codes of the demo's carriers mean. One more that they use, WXD, is left for whoever tries the list. */
const meanings: Readonly<Record<string, EventKind>> = {
  LBL: "announced",
  PU: "accepted",
  DEP: "departed",
  ARR: "arrived",
  CUS: "in-customs",
  CHL: "customs-hold",
  CRL: "customs-cleared",
  DLY: "delayed",
  ADR: "address-problem",
  OFD: "out-for-delivery",
  NHM: "attempted",
  RDY: "ready",
  DMG: "damaged",
  REF: "refused",
  RTS: "returning",
  RTN: "returned",
  LST: "lost",
  DEL: "delivered",
}

/** Says what carriers' codes mean, for those of which nobody has said it yet. */
export async function loadTrackingCodes(db: Knex): Promise<void> {
  const carriers = await db("carrier").orderBy("id").select("id")
  await db("tracking_code")
    .insert(
      carriers.flatMap(({ id }) =>
        Object.entries(meanings).map(([code, kind]) => ({
          carrier_id: id,
          code,
          kind,
          text: "",
          first_at: new Date("2026-01-05T15:00:00Z"),
        })),
      ),
    )
    .onConflict(["carrier_id", "code"])
    .ignore()
}
