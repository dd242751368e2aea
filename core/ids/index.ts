declare const of: unique symbol

/**
 * The id of a row of one table. It is a number, and a number may be used as one (an address or a form brings it so, and
 * is asked about in the database); the id of another table is not taken for it.
 */
export type Id<Table extends string> = number & { readonly [of]?: Table }

export type AllocationId = Id<"allocation">
export type BinId = Id<"bin">
export type BookedCollectionId = Id<"booked_collection">
export type CarrierId = Id<"carrier">
export type CartId = Id<"cart">
export type ClaimId = Id<"claim">
export type ClosingFormId = Id<"closing_form">
export type CollectionId = Id<"collection">
export type CustomerId = Id<"customer">
export type DocumentId = Id<"document">
export type EdiMessageId = Id<"edi_message">
export type FindingId = Id<"goods_return_finding">
export type GoodsReturnId = Id<"goods_return">
export type IntakeId = Id<"intake_file">
export type IntentId = Id<"buy_intent">
export type ItemId = Id<"item">
export type JobId = Id<"job">
export type LineId = Id<"order_line">
export type LotId = Id<"lot">
export type NoteId = Id<"order_note">
export type OrderId = Id<"sales_order">
export type OutboxId = Id<"outbox">
export type OutsideId = Id<"outside_warehouse">
export type OwnPaperId = Id<"own_paper">
export type PackageId = Id<"package">
export type PackagingId = Id<"packaging">
export type PatternId = Id<"shipping_pattern">
export type PickRunId = Id<"pick_run">
export type QuoteId = Id<"quote">
export type ReturnId = Id<"return_intent">
export type ServiceId = Id<"service">
export type ShipmentId = Id<"shipment">
export type ShippingRunId = Id<"shipping_run">
export type SourceId = Id<"order_source">
export type StockId = Id<"stock">
export type TrackedUnitId = Id<"tracked_unit">
export type TrackingCaseId = Id<"tracking_case">
export type TariffVersionId = Id<"tariff_version">
export type TokenId = Id<"api_token">
export type UserId = Id<"user">
export type WarehouseId = Id<"warehouse">
