import type { ServiceId } from "core/ids/index.ts"
import type { Knex } from "knex"

/** Takes a charge from the balance of a carrier that is paid beforehand; a negative one is given back to it. */
export const takeFromBalance = (
  trx: Knex,
  intent: { readonly service_id: ServiceId },
  amount: string,
): Promise<number> =>
  trx("carrier")
    .whereIn("id", trx("service").where({ id: intent.service_id }).select("carrier_id"))
    .whereNotNull("prepaid_balance")
    .update({ prepaid_balance: trx.raw("prepaid_balance - ?", [amount]) })
