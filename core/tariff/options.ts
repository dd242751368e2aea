/**
 * What a shipper may ask a carrier for, beyond carrying the goods. Trade terms; a service knows those that its tariff
 * names, and no other is offered.
 */
export const optionCodes = [
  // at the door
  "signature",
  "signature-adult",
  "saturday",
  "hold-at-location",
  "appointment",
  "notify",
  "inside-delivery",
  "liftgate",
  "liftgate-pickup",
  "limited-access",
  // the goods
  "declared-value",
  "extra-handling",
  "dry-ice",
  "dangerous-goods",
  "protect-from-freezing",
  "sort-and-segregate",
  // what else
  "return-undeliverable",
  "abandon-undeliverable",
  /** The label is printed at the carrier's counter, by a code that it gives. */
  "counter-code",
  "lower-emission",
  /** We bring the packages to one of the carrier's places ourselves. */
  "drop-off",
] as const
export type OptionCode = (typeof optionCodes)[number]
