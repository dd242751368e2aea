import type { Migration } from "../migrate.ts"

/** Who fetched a truck's goods, when it came and went, and what he signed. Every statement may be run again. */
export const driver: Migration = {
  name: "0032-driver",
  statements: [
    `ALTER TABLE collection
      ADD COLUMN IF NOT EXISTS arrived_at DATETIME(3) NULL,
      ADD COLUMN IF NOT EXISTS departed_at DATETIME(3) NULL,
      ADD COLUMN IF NOT EXISTS driver JSON NULL,
      ADD KEY IF NOT EXISTS collection_arrivals (warehouse_id, door, arrived_at)`,
    "ALTER TABLE document ADD KEY IF NOT EXISTS document_name (warehouse_id, name)",
  ],
}
