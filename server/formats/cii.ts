import { moneyText, unitAmount } from "core/money/index.ts"
import type { InvoiceModel, PaperParty } from "core/papers/index.ts"
import { massIn } from "core/units/index.ts"
import { create } from "xmlbuilder2"

const uri = "urn:un:unece:uncefact:data:standard"
const namespaces = {
  "@xmlns:rsm": `${uri}:CrossIndustryInvoice:100`,
  "@xmlns:ram": `${uri}:ReusableAggregateBusinessInformationEntity:100`,
  "@xmlns:udt": `${uri}:UnqualifiedDataType:100`,
  "@xmlns:qdt": `${uri}:QualifiedDataType:100`,
}

/** Only what XML 1.0 may hold: its control characters are no text of ours. */
const clean = (text: string): string =>
  [...text]
    .filter((sign) => {
      const point = sign.codePointAt(0) as number
      return point >= 0x20 || point === 0x9 || point === 0xa
    })
    .join("")

/** Element by name, left out where it holds nothing. */
const some = (name: string, value: unknown): Record<string, unknown> =>
  value === "" || value === null || value === undefined ? {} : { [name]: value }

const day = (date: string) => ({ "udt:DateTimeString": { "@format": "102", "#": date.replaceAll("-", "") } })
const amount = (value: InvoiceModel["total"]) => moneyText(value).amount

function party(one: PaperParty): Record<string, unknown> {
  return {
    "ram:Name": clean(one.company || one.attention),
    ...(one.attention && one.company
      ? {
          "ram:DefinedTradeContact": {
            "ram:PersonName": clean(one.attention),
            ...(one.phone ? { "ram:TelephoneUniversalCommunication": { "ram:CompleteNumber": clean(one.phone) } } : {}),
          },
        }
      : {}),
    "ram:PostalTradeAddress": {
      ...some("ram:PostcodeCode", clean(one.postalCode)),
      ...some("ram:LineOne", clean(one.street)),
      ...some("ram:LineTwo", clean(one.street2)),
      ...some("ram:CityName", clean(one.city)),
      "ram:CountryID": one.country,
      ...some("ram:CountrySubDivisionName", clean(one.state)),
    },
    // VA where it begins as a VAT number does, else the number of a tax office
    ...(one.taxNumber
      ? {
          "ram:SpecifiedTaxRegistration": {
            "ram:ID": { "@schemeID": /^[A-Z]{2}/.test(one.taxNumber) ? "VA" : "FC", "#": clean(one.taxNumber) },
          },
        }
      : {}),
  }
}

/** No tax is charged on goods that are exported: category G (UNCL 5305, from memory). */
const exportTax = { "ram:TypeCode": "VAT", "ram:CategoryCode": "G" }

const notes = (model: InvoiceModel): string[] => {
  const kg = (value: InvoiceModel["grossWeight"]) => massIn(value, "kg").toFixed(3)
  return [
    `Gross ${kg(model.grossWeight)} KGM, net ${kg(model.netWeight)} KGM, packages ${model.packages}`,
    `Reason for export: ${model.purpose}`,
    ...(model.importer
      ? [`Importer of record: ${model.importer.company}, ${model.importer.city}, ${model.importer.country}`]
      : []),
    ...(model.notify ? [`Notify: ${model.notify.company}, ${model.notify.city}, ${model.notify.country}`] : []),
    ...(model.filing ? [`Export filing: ${model.filing}`] : []),
    ...(model.licence ? [`Export license: ${model.licence}`] : []),
    ...(model.oneStop ? [`IOSS: ${model.oneStop}`] : []),
    ...(model.remarks ? [model.remarks] : []),
  ]
}

/**
 * A commercial invoice as UN/CEFACT Cross Industry Invoice (D16B): parties, terms of delivery, lines with classification
 * (HS), origin and unit (UNECE Recommendation 20), allowances and charges, sums. What the message has no place for, such
 * as weights and the importer, stands in its notes. 380 is a commercial invoice, 325 a pro forma (UNCL 1001).
 */
export function ciiInvoice(model: InvoiceModel): string {
  const allowances = model.charges.filter((one) => one.kind === "discount")
  const charges = model.charges.filter((one) => one.kind !== "discount")
  const sum = (some: typeof model.charges) =>
    some.reduce((total, one) => total.add(one.amount.amount.abs()), model.total.amount.mul(0)).toFixed(2)
  return create(
    { version: "1.0", encoding: "UTF-8" },
    {
      "rsm:CrossIndustryInvoice": {
        ...namespaces,
        "rsm:ExchangedDocumentContext": {
          "ram:GuidelineSpecifiedDocumentContextParameter": {
            "ram:ID": "urn:cen.eu:en16931:2017#conformant#urn:factur-x.eu:1p0:extended",
          },
        },
        "rsm:ExchangedDocument": {
          "ram:ID": model.number,
          "ram:TypeCode": model.proForma ? "325" : "380",
          "ram:IssueDateTime": day(model.date),
          "ram:IncludedNote": notes(model).map((text) => ({ "ram:Content": clean(text) })),
        },
        "rsm:SupplyChainTradeTransaction": {
          "ram:IncludedSupplyChainTradeLineItem": model.lines.map((line) => ({
            "ram:AssociatedDocumentLineDocument": { "ram:LineID": String(line.number) },
            "ram:SpecifiedTradeProduct": {
              "ram:SellerAssignedID": clean(line.sku),
              "ram:Name": clean(line.description),
              "ram:DesignatedProductClassification": {
                "ram:ClassCode": { "@listID": "HS", "#": line.hsCode.replace(/\D/g, "") },
              },
              "ram:OriginTradeCountry": { "ram:ID": line.origin },
            },
            "ram:SpecifiedLineTradeAgreement": {
              "ram:NetPriceProductTradePrice": { "ram:ChargeAmount": unitAmount(line.unitValue) },
            },
            "ram:SpecifiedLineTradeDelivery": {
              "ram:BilledQuantity": { "@unitCode": line.unit, "#": String(line.quantity) },
            },
            "ram:SpecifiedLineTradeSettlement": {
              "ram:ApplicableTradeTax": { ...exportTax, "ram:RateApplicablePercent": "0" },
              "ram:SpecifiedTradeSettlementLineMonetarySummation": { "ram:LineTotalAmount": amount(line.value) },
            },
          })),
          "ram:ApplicableHeaderTradeAgreement": {
            "ram:SellerTradeParty": party(model.seller ?? model.exporter),
            "ram:BuyerTradeParty": party(model.buyer ?? model.consignee),
            "ram:ApplicableTradeDeliveryTerms": { "ram:DeliveryTypeCode": model.incoterm },
            ...(model.purchaseOrder
              ? { "ram:BuyerOrderReferencedDocument": { "ram:IssuerAssignedID": clean(model.purchaseOrder) } }
              : {}),
          },
          "ram:ApplicableHeaderTradeDelivery": {
            "ram:ShipToTradeParty": party(model.consignee),
            "ram:ShipFromTradeParty": party(model.exporter),
            "ram:ActualDeliverySupplyChainEvent": { "ram:OccurrenceDateTime": day(model.date) },
          },
          "ram:ApplicableHeaderTradeSettlement": {
            "ram:InvoiceCurrencyCode": model.currency,
            "ram:ApplicableTradeTax": {
              "ram:CalculatedAmount": "0.00",
              "ram:TypeCode": "VAT",
              "ram:ExemptionReason": "Export",
              "ram:BasisAmount": amount(model.total),
              "ram:CategoryCode": "G",
              "ram:RateApplicablePercent": "0",
            },
            "ram:SpecifiedTradeAllowanceCharge": [...allowances, ...charges].map((one) => ({
              "ram:ChargeIndicator": { "udt:Indicator": one.kind === "discount" ? "false" : "true" },
              "ram:ActualAmount": one.amount.amount.abs().toFixed(2),
              "ram:Reason": one.kind,
              "ram:CategoryTradeTax": { ...exportTax, "ram:RateApplicablePercent": "0" },
            })),
            "ram:SpecifiedTradeSettlementHeaderMonetarySummation": {
              "ram:LineTotalAmount": amount(model.goods),
              "ram:ChargeTotalAmount": sum(charges),
              "ram:AllowanceTotalAmount": sum(allowances),
              "ram:TaxBasisTotalAmount": amount(model.total),
              "ram:GrandTotalAmount": amount(model.total),
              "ram:DuePayableAmount": model.proForma ? "0.00" : amount(model.total),
            },
          },
        },
      },
    },
  ).end({ prettyPrint: true })
}
