/**
 * The eleven rules with their titles, whether they are for sea and inland waterway only, and whether the seller
 * must insure the goods. Source: ICC Incoterms 2020.
 */
export const incoterms = {
  EXW: { title: "Ex Works", seaOnly: false, insured: false },
  FCA: { title: "Free Carrier", seaOnly: false, insured: false },
  CPT: { title: "Carriage Paid To", seaOnly: false, insured: false },
  CIP: { title: "Carriage and Insurance Paid To", seaOnly: false, insured: true },
  DAP: { title: "Delivered at Place", seaOnly: false, insured: false },
  DPU: { title: "Delivered at Place Unloaded", seaOnly: false, insured: false },
  DDP: { title: "Delivered Duty Paid", seaOnly: false, insured: false },
  FAS: { title: "Free Alongside Ship", seaOnly: true, insured: false },
  FOB: { title: "Free On Board", seaOnly: true, insured: false },
  CFR: { title: "Cost and Freight", seaOnly: true, insured: false },
  CIF: { title: "Cost, Insurance and Freight", seaOnly: true, insured: true },
} as const
export type Incoterm = keyof typeof incoterms

export const isIncoterm = (text: string): text is Incoterm => Object.hasOwn(incoterms, text)

/** The rule for any way of transport that stands closest to one for the sea (common practice). */
export const insteadOfSea: Readonly<Partial<Record<Incoterm, Incoterm>>> = {
  FAS: "FCA",
  FOB: "FCA",
  CFR: "CPT",
  CIF: "CIP",
}
