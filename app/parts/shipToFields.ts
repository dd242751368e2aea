/** The columns of an order that its ship-to shows and changes. */
export const nameFields = [
  "company",
  "attention",
  "street",
  "street2",
  "city",
  "state",
  "postal_code",
  "country",
  "phone",
] as const
/** What delivery there needs. */
export const deliveryFields = ["building", "instructions", "opening_hours"] as const
/** What customs ask of the order; shown for a shipment over a border. */
export const termFields = ["incoterm", "incoterm_place"] as const
export const shipToFields = [...nameFields, ...deliveryFields, ...termFields, "dock", "forklift"] as const
