/**
 * The eleven rules with their titles, and whether they are for sea and inland waterway only. Source: ICC Incoterms
 * 2020.
 */
export const incoterms = {
  EXW: { title: "Ex Works", seaOnly: false },
  FCA: { title: "Free Carrier", seaOnly: false },
  CPT: { title: "Carriage Paid To", seaOnly: false },
  CIP: { title: "Carriage and Insurance Paid To", seaOnly: false },
  DAP: { title: "Delivered at Place", seaOnly: false },
  DPU: { title: "Delivered at Place Unloaded", seaOnly: false },
  DDP: { title: "Delivered Duty Paid", seaOnly: false },
  FAS: { title: "Free Alongside Ship", seaOnly: true },
  FOB: { title: "Free On Board", seaOnly: true },
  CFR: { title: "Cost and Freight", seaOnly: true },
  CIF: { title: "Cost, Insurance and Freight", seaOnly: true },
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
