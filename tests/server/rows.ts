/** Columns of the order files that tests send. */
export const header =
  "order_number,po_number,ordered_on,promised_on,customer,street,city,state,postal_code,country,address_kind,sku,quantity,unit"

/** One row of an order file; what a test is not about has a good value. */
export function row(fields: Partial<Record<string, string>> = {}): string {
  const good: Record<string, string> = {
    order_number: "SO-1",
    po_number: "",
    ordered_on: "2026-11-23",
    promised_on: "2026-12-02",
    customer: "Elk Run Taproom",
    street: "14 Growler Row",
    city: "Denver",
    state: "CO",
    postal_code: "80205",
    country: "US",
    address_kind: "business",
    sku: "YST-ALE-500",
    quantity: "4",
    unit: "each",
  }
  return header
    .split(",")
    .map((name) => fields[name] ?? good[name])
    .join(",")
}
