import type { Knex } from "knex"
import { packagingNames } from "server/packaging/catalog.ts"
import { servicesByName } from "server/setup/services.ts"
import type { SettingChoices } from "./settingsForm.ts"

/** The services and packagings that settings can name. */
export async function settingChoices(db: Knex): Promise<SettingChoices> {
  const services = await servicesByName(db)
  const returns = await servicesByName(db, true)
  return {
    services: services.map(({ code, name, carrier }) => ({ code, name, carrier })),
    returns: returns.map(({ code, name, carrier }) => ({ code, name, carrier })),
    packagings: await packagingNames(db),
  }
}
