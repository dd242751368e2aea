import type { Address } from "./index.ts"

/**
 * What tells one place of delivery from another: name, street, place and country, without regard to capitals, marks and
 * the box number behind a ZIP code. Who signs for it does not matter. Two addresses with the same key are one ship-to.
 */
export function shipToKey(
  address: Pick<Address, "company" | "attention" | "street" | "street2" | "city" | "state" | "postalCode" | "country">,
): string {
  const tidy = (text: string) =>
    text
      .normalize("NFKD")
      .replace(/\p{M}/gu, "")
      .toUpperCase()
      .replace(/[^\p{L}\p{N}]+/gu, " ")
      .trim()
  const postalCode = address.country === "US" ? address.postalCode.slice(0, 5) : address.postalCode.replace(/\s/g, "")
  return [
    tidy(address.company || address.attention),
    tidy(`${address.street} ${address.street2}`),
    tidy(address.city),
    tidy(address.state),
    tidy(postalCode),
    address.country,
  ].join("|")
}
