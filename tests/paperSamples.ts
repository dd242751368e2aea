import { noDetails } from "core/customs/index.ts"
import type { DangerousFacts } from "core/dangerous/index.ts"
import { noLading } from "core/documents/index.ts"
import { exchangeTable } from "core/exchange/index.ts"
import { money } from "core/money/index.ts"
import {
  type Made,
  type PaperFacts,
  type PaperLine,
  type PaperPackage,
  type PaperService,
  shipperSchema,
} from "core/papers/index.ts"
import { mass, size } from "core/units/index.ts"
import { Decimal } from "decimal.js"

/** What papers are tried with: a shipment of yeast to Berlin, and what may be otherwise in it. */
export const party = {
  company: "Northlake Ferment Supply",
  attention: "",
  street: "1 Fermenter Quay",
  street2: "",
  city: "Duluth",
  state: "MN",
  postalCode: "55802",
  country: "US",
  phone: "218-555-0100",
  taxNumber: "41-0000042",
  eori: "",
}
export const {
  taxNumber: _,
  eori: __,
  ...settings
} = shipperSchema.parse({ emergencyPhone: "+1 800 555 0199", signer: "Maren" })
export const phosphoric: DangerousFacts = {
  unNumber: "UN1805",
  properShippingName: "Phosphoric acid solution",
  hazardClass: "8",
  packingGroup: "III",
  innerQuantity: "5",
  innerUnit: "L",
  limitedQuantity: true,
}
export const line = (more: Partial<PaperLine> = {}): PaperLine => ({
  id: 1,
  lineNumber: 1,
  sku: "YST",
  description: "Dry brewing yeast",
  hsCode: "2102.10",
  origin: "BE",
  unitValue: new Decimal("74.00"),
  quantity: 4,
  before: 0,
  unitNet: mass("0.5", "kg"),
  dangerous: null,
  itemNumber: "",
  category: null,
  ...more,
})
export const pack = (more: Partial<PaperPackage> = {}): PaperPackage => ({
  number: 1,
  name: "48217-1",
  kind: "carton",
  pieces: 4,
  on: null,
  gross: mass("3", "kg"),
  outer: size(30, 20, 20, "cm"),
  sscc: "",
  freightClass: "85",
  contents: [{ line: 1, quantity: 4 }],
  ...more,
})
export const express: PaperService = {
  code: "MDW",
  carrierCode: "MERI",
  carrier: "Meridian Air",
  name: "World Saver",
  mode: "parcel",
  regime: "road",
  handling: "parcel",
  postal: null,
  electronic: [],
}
const none = money(0, "USD")
export const facts = (more: Partial<PaperFacts> = {}): PaperFacts => ({
  orderNumber: "48217",
  sourceNumber: "SO-1",
  purchaseOrder: "PO 1",
  warehouseCode: "DLH",
  date: "2026-11-24",
  shipper: { ...settings, party },
  shipTo: {
    company: "Brauhaus Kesselwehr",
    attention: "",
    street: "Gärbottichweg 4",
    street2: "",
    city: "Berlin",
    state: "",
    postalCode: "10115",
    country: "DE",
    phone: "+49 30 5550142",
    kind: "business",
  },
  customs: noDetails,
  parties: {},
  terms: { incoterm: "DAP", place: "Berlin" },
  currency: "USD",
  lines: [line()],
  packages: [pack()],
  service: express,
  options: new Set(),
  dryIceKg: null,
  payer: "prepaid",
  account: "",
  accessorials: [],
  lading: noLading,
  copies: {},
  charges: { discount: none, packing: none, freight: none, insurance: none },
  attached: false,
  vague: new Set(),
  // one special drawing right is 1.25 dollars: 300 of them are 375 dollars
  exchange: exchangeTable([{ from: "XDR", to: "USD", on: "2026-11-16", rate: "1.25" }]),
  importRules: [],
  dutyRates: [],
  exportedAlso: [],
  ...more,
})
export const home = { ...facts().shipTo, country: "US", state: "CO", city: "Denver", postalCode: "80205" }
export const made: Made = { trackingNumber: "T", shipDate: "2026-11-24", tracking: new Map([[1, "T"]]), suffix: "" }
