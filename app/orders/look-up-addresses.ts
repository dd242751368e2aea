import { type BookAddress, findAddresses } from "server/addresses/book.ts"
import { suggestionsFor } from "server/decisions/checkAddress.ts"
import { workContext } from "server/http/context.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/look-up-addresses"

/** Addresses for a field that completes what is typed: our own directory first, then the address service. */
export async function loader({ request, context }: Route.LoaderArgs): Promise<BookAddress[]> {
  const work = context.get(workContext)
  allow(work, "orders.see")
  const typed = (new URL(request.url).searchParams.get("find") ?? "").slice(0, 80)
  const own = await findAddresses(work, typed, 10)
  if (own.length >= 10) return own
  const suggested = await suggestionsFor(work, typed, "")
  const known = new Set(own.map((one) => `${one.street}|${one.postalCode}`.toLowerCase()))
  return [
    ...own,
    ...suggested
      .filter((one) => !known.has(`${one.street}|${one.postalCode}`.toLowerCase()))
      .map(
        (one, index): BookAddress => ({
          id: -1 - index,
          code: "",
          customer: "",
          company: "",
          attention: "",
          street: one.street,
          street2: "",
          city: one.city,
          state: one.state,
          postalCode: one.postalCode,
          country: one.country,
          phone: "",
          kind: one.kind,
          kindConfirmed: one.kind !== "unknown",
          building: "",
          instructions: "",
          openingHours: "",
          dock: "unknown",
          forklift: "unknown",
          zone: null,
          version: 0,
        }),
      ),
  ]
}
