import type { Address } from "core/address/index.ts"
import type { SalesOrderRow } from "../db/tables.ts"

/** The columns of an address, as orders, parties and the directory have them. */
export type AddressColumns = Pick<
  SalesOrderRow,
  "company" | "attention" | "street" | "street2" | "city" | "state" | "postal_code" | "country" | "phone"
> & { readonly address_kind?: SalesOrderRow["address_kind"] | null }

/** The address of a row that carries its columns. */
export const addressOf = (row: AddressColumns): Address => ({
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
