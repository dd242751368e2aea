import type { Migration } from "../migrate.ts"

/**
 * What packing for the least price goes by: what a box costs, what of its inside is left for filling material, what
 * is to stay in one package; and what walks take first and last. Every statement may be run again.
 */
export const packing: Migration = {
  name: "0026-packing",
  statements: [
    "ALTER TABLE packaging ADD COLUMN IF NOT EXISTS price DECIMAL(8,2) NOT NULL DEFAULT 0",
    `ALTER TABLE warehouse ADD COLUMN IF NOT EXISTS fill_share DECIMAL(4,3) NOT NULL DEFAULT 0,
      ADD COLUMN IF NOT EXISTS keep_together ENUM('no','lines') NOT NULL DEFAULT 'no',
      ADD COLUMN IF NOT EXISTS heavy_first BOOLEAN NOT NULL DEFAULT FALSE,
      ADD COLUMN IF NOT EXISTS cold_last BOOLEAN NOT NULL DEFAULT FALSE`,
  ],
}
