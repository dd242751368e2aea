import type { Knex } from "knex"
import type { SettingChoices } from "./settingsForm.ts"

/** The services and packagings that settings can name. */
export async function settingChoices(db: Knex): Promise<SettingChoices> {
  return {
    services: await db("service")
      .join("carrier", "carrier.id", "service.carrier_id")
      .orderBy("carrier.name")
      .orderBy("service.name")
      .select("service.code", "service.name", "carrier.name as carrier"),
    packagings: await db("packaging").orderBy("code").select("code", "name"),
  }
}
