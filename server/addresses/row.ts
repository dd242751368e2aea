import type { Address } from "core/address/index.ts"

/** The address of a row that carries its columns. */
// biome-ignore lint/suspicious/noExplicitAny: a row as the driver gives it
export const addressOf = (row: any): Address => ({
  company: row.company,
  attention: row.attention,
  street: row.street,
  street2: row.street2,
  city: row.city,
  state: row.state,
  postalCode: row.postal_code,
  country: row.country,
  phone: row.phone,
  kind: row.address_kind ?? "unknown",
})
