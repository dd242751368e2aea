// written by `npm run tables` from the migrated schema; not by hand
import type { LocalDate, LocalTime } from "core/calendar/index.ts"
import type { Id } from "core/ids/index.ts"
import type { Knex } from "knex"

/** Read as 0 or 1; written and asked for as true or false as well. */
export type Flag = 0 | 1 | boolean

/** What a row is changed to: a value, or what the database works out. */
type Changed<Row> = { [Column in keyof Row]?: Row[Column] | Knex.Raw | Knex.QueryBuilder }

export interface AddressBookRow {
  id: Id<"address_book">
  code: string | null
  customer_id: Id<"customer"> | null
  company: string
  attention: string
  street: string
  street2: string
  city: string
  state: string
  postal_code: string
  country: string
  phone: string
  address_kind: "unknown" | "business" | "residential"
  kind_confirmed: Flag
  building: string
  instructions: string
  opening_hours: string
  dock: "unknown" | "yes" | "no"
  forklift: "unknown" | "yes" | "no"
  latitude: string | null
  longitude: string | null
  zone: string | null
  used_at: Date | null
  version: number
}

export interface AddressWordRow {
  word: string
  address_id: Id<"address_book">
}

export interface AllocationRow {
  id: Id<"allocation">
  order_line_id: Id<"order_line">
  stock_id: Id<"stock">
  quantity: number
  picked: number
  unverified: number
  run_id: Id<"pick_run"> | null
  claimed_by: number | null
  claimed_at: Date | null
  skipped_at: Date | null
}

export interface ApiRequestRow {
  token_id: Id<"api_token">
  idempotency_key: string
  body_hash: string
  status: number | null
  answer: unknown | null
  at: Date
}

export interface ApiTokenRow {
  id: Id<"api_token">
  name: string
  token_hash: string
  rights: unknown
  warehouse_id: Id<"warehouse">
  source_id: Id<"order_source">
  created_at: Date
  created_by: string
  expires_at: Date
  revoked_at: Date | null
  used_at: Date | null
}

export interface AuditRow {
  id: Id<"audit">
  at: Date
  user_id: Id<"user"> | null
  actor: string
  order_id: Id<"sales_order"> | null
  collection_id: Id<"collection"> | null
  action: string
  detail: unknown
}

export interface BenchRow {
  id: Id<"bench">
  warehouse_id: Id<"warehouse">
  name: string
  active: Flag
}

export interface BinRow {
  id: Id<"bin">
  warehouse_id: Id<"warehouse">
  code: string
  walk_order: number
  aisle: string | null
  x_m: string | null
  y_m: string | null
  level: number
  zone: string
  blocked_why: string | null
  purpose: "inspection" | "repair" | null
}

export interface BookedCollectionRow {
  id: Id<"booked_collection">
  warehouse_id: Id<"warehouse">
  carrier_id: Id<"carrier">
  collection_id: Id<"collection"> | null
  own_truck: Flag
  order_id: Id<"sales_order"> | null
  press_key: string
  once_key: string
  revision: number
  asked: number
  state: "asking" | "booked" | "refused" | "cancelling" | "cancelled"
  ask: unknown
  held: unknown | null
  fee: string
  currency: string
  number: string
  trouble: unknown | null
  on_date: LocalDate
  asked_at: Date
  asked_by: string
  answered_at: Date | null
}

export interface BusinessClockRow {
  id: Id<"business_clock">
  offset_ms: number
  seen_at: Date | null
}

export interface BuyIntentRow {
  id: Id<"buy_intent">
  idempotency_key: string
  shipment_id: Id<"shipment">
  shipment_version: number
  service_id: Id<"service">
  expected_amount: string
  currency: string
  request: unknown
  rate: unknown
  state: "open" | "booked" | "refused" | "differs" | "given-up" | "void"
  answer: unknown | null
  created_at: Date
  answered_at: Date | null
  give_up: Flag
  user_id: Id<"user"> | null
  actor: string
  void_at: Date | null
  tariff_version_id: Id<"tariff_version"> | null
  prints: Flag
  bench_id: Id<"bench"> | null
}

export interface CarrierRow {
  id: Id<"carrier">
  code: string
  name: string
  base_url: string
  account: string
  holidays: unknown
  down_until: Date | null
  numbers: "plain" | "s10"
  void_minutes: number
  prepaid_balance: string | null
  account_form: string
  tolerance: string
  label_form: string
  carrier_code: string
  pro_from: number | null
  pro_to: number | null
  pro_next: number | null
  pro_digits: number
  events_cursor: string
  events_at: Date | null
  events_trouble: string | null
  pushes: Buffer | null
  pushes_before: Buffer | null
  claim_terms: unknown | null
}

export interface CartRow {
  id: Id<"cart">
  warehouse_id: Id<"warehouse">
  code: string
  name: string
  litres: string | null
  kilograms: string | null
  active: Flag
  version: number
}

export interface ChangeNoticeRow {
  id: Id<"change_notice">
  at: Date
  warehouse_id: Id<"warehouse">
  order_id: Id<"sales_order"> | null
}

export interface ChargeRow {
  id: Id<"charge">
  shipment_id: Id<"shipment">
  code: string
  package_number: number | null
  currency: string
  list_amount: string
  contract_amount: string
  why: unknown
  intent_id: Id<"buy_intent"> | null
  reverses_id: Id<"charge"> | null
}

export interface ChargingRuleRow {
  id: Id<"charging_rule">
  position: number
  name: string
  is_on: Flag
  body: unknown
  version: number
}

export interface ClaimRow {
  id: Id<"claim">
  warehouse_id: Id<"warehouse">
  number: number
  order_id: Id<"sales_order">
  unit_id: number
  units: unknown
  carrier_id: Id<"carrier"> | null
  carrier: string
  kind: "loss" | "damage" | "shortage"
  state: "draft" | "filed" | "acknowledged" | "paid" | "denied" | "withdrawn"
  happened: string
  goods: unknown
  currency: string
  facts: unknown
  amounts: unknown
  total: string
  file_by: LocalDate
  papers: unknown
  version: number
  made_at: Date
  made_by: string
  filed_on: LocalDate | null
  filed_to: string
  filed_by: string
  document_id: Id<"document"> | null
  reference: string
  acknowledged_on: LocalDate | null
  settled_on: LocalDate | null
  paid: string | null
  note: string
  open_unit: number | null
}

export interface ClaimPhotoRow {
  id: Id<"claim_photo">
  claim_id: Id<"claim">
  name: string
  media: string
  sha256: string
  bytes: Buffer
  added_at: Date
  added_by: string
}

export interface ClosingAddressRow {
  id: Id<"closing_address">
  warehouse_id: Id<"warehouse">
  carrier_id: Id<"carrier"> | null
  email: string
  purpose: "forms" | "collections"
}

export interface ClosingFormRow {
  id: Id<"closing_form">
  warehouse_id: Id<"warehouse">
  collection_id: Id<"collection">
  carrier_id: Id<"carrier">
  sequence: number
  way: "one-barcode" | "manifest" | "bill-of-lading" | "electronic" | "none"
  number: string
  account: string
  service: string | null
  supplement: Flag
  at_closing: Flag
  packages: number
  weight_kg: string
  document_id: Id<"document"> | null
  own_document: Flag
  told: Flag
  once_key: string
  asked: number
  state: "made" | "sending" | "done" | "refused" | "discarded"
  carrier_number: string
  trouble: unknown | null
  made_at: Date
  made_by: string
  ended_at: Date | null
  ended_by: string | null
}

export interface CollectionRow {
  id: Id<"collection">
  warehouse_id: Id<"warehouse">
  carrier_id: Id<"carrier">
  door: string
  on_date: LocalDate
  cut_off: Date
  services: unknown
  closed_at: Date | null
  closed_by: string | null
  final_at: Date | null
  closings: number
  on_call: Flag
  cancelled_at: Date | null
  arrived_at: Date | null
  departed_at: Date | null
  driver: unknown | null
  round_km: string | null
  drop_off: unknown | null
}

export interface CollectionRuleRow {
  id: Id<"collection_rule">
  warehouse_id: Id<"warehouse">
  carrier_id: Id<"carrier">
  door: string
  cut_off: LocalTime
  weekdays: unknown
  services: unknown
  on_call: Flag
}

export interface CountTaskRow {
  id: Id<"count_task">
  warehouse_id: Id<"warehouse">
  stock_id: Id<"stock">
  why: string
  order_id: Id<"sales_order"> | null
  raised_at: Date
  raised_by: string
  expected: number | null
  counted: number | null
  done_at: Date | null
  done_by: string | null
}

export interface CustomerRow {
  id: Id<"customer">
  code: string
  name: string
  credit_stop: Flag
  credit_note: string
  version: number
  blind_ship: Flag
  routing: unknown
  slip: unknown
  language: string
}

export interface CustomerContactRow {
  id: Id<"customer_contact">
  customer_id: Id<"customer">
  role: "receiving" | "purchasing" | "billing" | "sales"
  name: string
  way: "mail" | "text"
  address: string
  language: string
  topics: unknown
}

export interface CustomerMessageRow {
  id: Id<"customer_message">
  warehouse_id: Id<"warehouse">
  order_id: Id<"sales_order">
  topic: string
  once_key: string
  way: "mail" | "text"
  address: string
  name: string
  language: string
  facts: unknown
  state: "waiting" | "handed-on" | "sent" | "refused" | "bounced" | "blocked" | "off"
  subject: string
  body: string | null
  trouble: string | null
  made_at: Date
  send_after: Date
  sent_at: Date | null
  leased_until: Date | null
  mail_id: Id<"mail"> | null
}

export interface DayExceptionRow {
  warehouse_id: Id<"warehouse">
  on_date: LocalDate
  closed: Flag
  hands: number | null
  name: string
}

export interface DeliveryRow {
  id: Id<"delivery">
  tracking: string
  service_id: Id<"service">
  ship_date: LocalDate
  promised_on: LocalDate
  delivered_on: LocalDate
  lane: string
}

export interface DeliveryLegRow {
  service_id: Id<"service">
  lane: string
  state: string
  month: LocalDate
  days: number
  packages: number
}

export interface DocumentRow {
  id: Id<"document">
  warehouse_id: Id<"warehouse">
  kind: string
  name: string
  media: string
  sha256: string
  bytes: Buffer
  made_at: Date
  order_id: Id<"sales_order"> | null
  collection_id: Id<"collection"> | null
  intent_id: Id<"buy_intent"> | null
  void_at: Date | null
  model: unknown | null
  own_paper_id: Id<"own_paper"> | null
  return_intent_id: Id<"return_intent"> | null
  electronic: Flag
  language: string
  copies: number
}

export interface DropPlaceRow {
  warehouse_id: Id<"warehouse">
  carrier_id: Id<"carrier">
  code: string
}

export interface DutyRateRow {
  country: string
  prefix: string
  origin: string
  valid_from: LocalDate
  share: string
}

export interface EdiMessageRow {
  id: Id<"edi_message">
  warehouse_id: Id<"warehouse">
  order_id: Id<"sales_order">
  customer_id: Id<"customer">
  collection_id: Id<"collection"> | null
  document_id: Id<"document"> | null
  kind: "desadv" | "iftmin" | "epcis"
  cancels: Flag
  way: "mail" | "folder" | "http"
  send_to: string
  receiver: string
  once_key: string
  message_key: string
  packages: unknown
  bytes: Buffer | null
  state: "waiting" | "sent" | "acknowledged" | "refused"
  asked: number
  trouble: unknown | null
  made_at: Date
  sent_at: Date | null
  answered_at: Date | null
  answered_by: string
}

export interface ExchangeRateRow {
  from_currency: string
  to_currency: string
  on_date: LocalDate
  rate: string
}

export interface GoodsReturnRow {
  id: Id<"goods_return">
  warehouse_id: Id<"warehouse">
  name: string
  order_id: Id<"sales_order"> | null
  number: number
  kind: "label" | "undelivered" | "unannounced" | "unknown"
  return_intent_id: Id<"return_intent"> | null
  state: "awaited" | "arrived" | "inspected" | "done" | "declined" | "closed" | "void"
  valid_until: LocalDate | null
  made_at: Date
  arrived_at: Date | null
  is_late: Flag
  note: string
  finishes: number
  inspected_at: Date | null
  told_by: string
  press_key: string | null
}

export interface GoodsReturnFindingRow {
  id: Id<"goods_return_finding">
  goods_return_id: Id<"goods_return">
  item_id: Id<"item"> | null
  lot_id: Id<"lot"> | null
  goods: string
  state: "sound" | "damaged" | "other"
  quantity: number
  note: string
  in_inspection: number
  in_repair: number
  put_back: number
  thrown_away: number
  inspection_stock_id: number | null
  repair_stock_id: number | null
  press_key: string
  at: Date
  told_by: string
  undone_at: Date | null
}

export interface GoodsReturnLineRow {
  goods_return_id: Id<"goods_return">
  item_id: Id<"item">
  announced: number
}

export interface GoodsReturnPackageRow {
  id: Id<"goods_return_package">
  goods_return_id: Id<"goods_return">
  piece: number
  unit_id: number | null
  tracking: string
  arrived_at: Date | null
  told_by: string
}

export interface GroupChangeRow {
  id: string
  warehouse_id: Id<"warehouse">
  user_id: Id<"user"> | null
  actor: string
  at: Date
  change_json: unknown
  content_hash: string
  undone_at: Date | null
}

export interface GroupChangeOrderRow {
  change_id: string
  order_id: Id<"sales_order">
  before_json: unknown | null
  refusals: unknown
  undone_at: Date | null
}

export interface HandedOverRow {
  order_id: Id<"sales_order">
  warehouse_id: Id<"warehouse">
  way: "counter" | "in-person"
  name: string
  identity: "seen" | "known" | "none"
  on_paper: Flag
  strokes: unknown
  note: string
  document_id: Id<"document"> | null
  handed_at: Date
  handed_by: string
}

export interface ImportRuleRow {
  country: string
  valid_from: LocalDate
  currency: string
  duty_free: string | null
  tax_free: string | null
  tax_share: string
  basis: "fob" | "cif"
  one_stop: string | null
}

export interface IntakeFileRow {
  id: Id<"intake_file">
  warehouse_id: Id<"warehouse">
  source_id: Id<"order_source">
  name: string
  sha256: string
  uploaded_at: Date
  user_id: Id<"user"> | null
  taken_at: Date | null
  row_count: number
  taken: unknown | null
  format: "csv" | "edifact" | "json"
  state: "reading" | "read" | "taking" | "taken"
  order_count: number
  refused_count: number
  taken_count: number
}

export interface IntakeOrderRow {
  intake_id: Id<"intake_file">
  position: number
  order_number: string
  customer: string
  place: string
  good_rows: number
  refused_rows: number
  content_hash: string
  wish: "ship" | "wait" | "cancel"
  fate: string | null
  trouble: string | null
}

export interface IntakeRefusalRow {
  id: Id<"intake_refusal">
  source_id: Id<"order_source">
  warehouse_id: Id<"warehouse">
  name: string
  reason: unknown
  at: Date
  seen_at: Date | null
}

export interface IntakeRowRow {
  intake_id: Id<"intake_file">
  line: number
  order_number: string
  raw: unknown
  refusals: unknown
  parsed: unknown | null
  corrected_by: string | null
  refused: Flag | null
}

export interface ItemRow {
  id: Id<"item">
  sku: string
  description: string
  weight_kg: string | null
  length_mm: string
  width_mm: string
  height_mm: string
  this_side_up: Flag
  un_number: string | null
  freight_only: Flag
  hs_code: string | null
  origin: string | null
  value: string
  currency: string
  customs_description: string
  freight_class: string | null
  version: number
  proper_shipping_name: string
  hazard_class: string
  packing_group: string
  inner_quantity: string | null
  inner_unit: string
  limited_quantity: Flag | null
  scan_steps: unknown
  stackable: Flag
  load_limit_kg: string | null
  fragile: Flag
  own_carton: Flag
  goods_kind: "general" | "food" | "chemical"
  most_on_hand: number
  material: string
  customs_use: string
  customs_unit: string
  net_kg: string | null
  technical_name: string
  subsidiary_hazard: string
  inner_count: number
  lithium: unknown | null
  category: string
  class_item: string
}

export interface ItemHsCodeRow {
  item_id: Id<"item">
  hs_code: string
  used_at: Date
}

export interface ItemLevelRow {
  id: Id<"item_level">
  item_id: Id<"item">
  name: string
  gtin: string | null
  quantity: number
  weight_kg: string | null
  length_mm: string | null
  width_mm: string | null
  height_mm: string | null
}

export interface JobRow {
  id: Id<"job">
  kind: string
  once_key: string
  payload: unknown
  state: "waiting" | "done" | "dead"
  tries: number
  run_at: Date
  leased_until: Date | null
  lease: string | null
  trouble: string | null
  created_at: Date
  done_at: Date | null
  losses: number
  warehouse_id: Id<"warehouse"> | null
  order_id: Id<"sales_order"> | null
}

export interface KnownDeviceRow {
  token_hash: string
  user_id: Id<"user">
  seen_at: Date
}

export interface LotRow {
  id: Id<"lot">
  item_id: Id<"item">
  code: string
  received_on: LocalDate
  expires_on: LocalDate | null
  state: "released" | "unreleased" | "blocked"
}

export interface MailRow {
  id: Id<"mail">
  once_key: string
  warehouse_id: Id<"warehouse">
  recipient: string
  subject: string
  body: string
  attachment_name: string | null
  attachment: Buffer | null
  quote_id: Id<"quote"> | null
  state: "waiting" | "sent" | "refused" | "bounced"
  trouble: string | null
  made_by: string
  made_at: Date
  sent_at: Date | null
  html: string | null
  documents: unknown | null
  sender_name: string
  unsubscribe_url: string
  leased_until: Date | null
  bounced_at: Date | null
}

export interface MessageTemplateRow {
  topic: string
  way: "mail" | "text"
  language: string
  subject: string
  body: string
  version: number
}

export interface OrderChangeRow {
  id: Id<"order_change">
  order_id: Id<"sales_order">
  kind: "changed" | "cancelled"
  content: unknown
  content_hash: string
  came_with: string
  intake_id: Id<"intake_file"> | null
  came_at: Date
  state: "open" | "taken" | "kept" | "overtaken"
  decided_at: Date | null
  decided_by: string | null
}

export interface OrderCustomsRow {
  order_id: Id<"sales_order">
  body: unknown
}

export interface OrderDraftRow {
  id: string
  warehouse_id: Id<"warehouse">
  user_id: Id<"user">
  title: string
  content: unknown
  updated_at: Date
  version: number
  taken_as: string | null
}

export interface OrderFreightRow {
  order_id: Id<"sales_order">
  intent_id: Id<"buy_intent">
  currency: string
  list_amount: string
  contract_amount: string
  weight_kg: string
  charged_amount: string | null
}

export interface OrderInvoiceRow {
  order_id: Id<"sales_order">
  number: string
  freight: string
  currency: string
  total: string | null
  at: Date
}

export interface OrderLineRow {
  id: Id<"order_line">
  order_id: Id<"sales_order">
  line_number: number
  item_id: Id<"item">
  ordered: number
  unit: string
  unit_price: string | null
  cancelled: number
  customs: unknown | null
}

export interface OrderNoteRow {
  id: Id<"order_note">
  order_id: Id<"sales_order">
  text: string
  at: Date
  actor: string
  dropped_at: Date | null
}

export interface OrderPartyRow {
  order_id: Id<"sales_order">
  role: "sender" | "return-to" | "notify"
  company: string
  attention: string
  street: string
  street2: string
  city: string
  state: string
  postal_code: string
  country: string
  phone: string
  email: string
}

export interface OrderReferenceRow {
  order_id: Id<"sales_order">
  name: string
  value: string
  printed: Flag
}

export interface OrderSourceRow {
  id: Id<"order_source">
  code: string
  name: string
  report_url: string | null
  pull_url: string | null
  pull_warehouse_id: Id<"warehouse"> | null
  pull_every_s: number
  pull_cursor: string
  kind: "upload" | "folder" | "api" | "pull" | "typed"
  active: Flag
  folder: string | null
  ship_states: unknown
  cancelled_states: unknown
  record_url: string | null
  mapping: unknown | null
  sample: unknown | null
  version: number
  ran_at: Date | null
  run_trouble: string | null
  routing: "own" | "nearest"
  report_cost: Flag
  report_way: "http" | "webhook" | "folder-json" | "folder-csv"
  report_folder: string
  report_fields: unknown | null
  report_names: unknown | null
  report_by_hand: Flag
  report_labels: Flag
  report_delivery: Flag
  report_secret: Buffer | null
  report_secret_before: Buffer | null
  report_returns: Flag
}

export interface OrderStopRow {
  id: Id<"order_stop">
  order_id: Id<"sales_order">
  code: string
  detail: unknown
  raised_at: Date
}

export interface OrderTagRow {
  order_id: Id<"sales_order">
  tag: string
}

export interface OrderTellingRow {
  order_id: Id<"sales_order">
  is_off: Flag
  note: string
  thanks: Flag
  more: unknown
  attach: unknown
}

export interface OrderViewRow {
  id: Id<"order_view">
  warehouse_id: Id<"warehouse">
  user_id: Id<"user">
  name: string
  filter: string
  shared: Flag
}

export interface OrderWaiverRow {
  id: Id<"order_waiver">
  order_id: Id<"sales_order">
  code: string
  detail_hash: string
  detail: unknown
  actor: string
  at: Date
}

export interface OrderWordRow {
  word: string
  order_id: Id<"sales_order">
}

export interface OutboxRow {
  id: Id<"outbox">
  message_id: string
  topic: string
  source_id: Id<"order_source">
  order_id: Id<"sales_order">
  payload: unknown
  created_at: Date
  sent_at: Date | null
  state: "waiting" | "sent" | "refused"
  trouble: string | null
  asked: number
  once_of: string | null
}

export interface OutsideOrderRow {
  order_id: Id<"sales_order">
  outside_id: Id<"outside_warehouse"> | null
  idempotency_key: string
  state: "sending" | "taken" | "refused" | "shipped" | "recalling"
  trouble: string | null
  reference: string | null
  carrier: string | null
  service: string | null
  tracking: unknown | null
  asked_at: Date
  shipped_at: Date | null
  shipped_on: LocalDate | null
  cost: string | null
  currency: string | null
  recorded_by: string | null
  delivered_at: Date | null
}

export interface OutsideServiceRow {
  kind: "address" | "mail" | "text"
  name: string
  url: string
}

export interface OutsideWarehouseRow {
  id: Id<"outside_warehouse">
  code: string
  name: string
  base_url: string
  active: Flag
}

export interface OwnPaperRow {
  id: Id<"own_paper">
  order_id: Id<"sales_order"> | null
  customer_id: Id<"customer"> | null
  item_id: Id<"item"> | null
  name: string
  pages: number
  sha256: string
  bytes: Buffer
  added_at: Date
  added_by: string
  removed_at: Date | null
}

export interface PackageRow {
  id: Id<"package">
  shipment_id: Id<"shipment">
  number: number
  packaging_id: Id<"packaging"> | null
  state: "open" | "closed" | "labelled" | "on-truck" | "left-behind" | "gone" | "void"
  length_mm: string
  width_mm: string
  height_mm: string
  tare_kg: string
  measured_kg: string | null
  size_by_hand: Flag
  sscc: string | null
  tracking: string | null
  routing_code: string | null
  label_document_id: Id<"document"> | null
  collection_id: Id<"collection"> | null
  loaded_at: Date | null
  loaded_by: string | null
  seen_at: Date | null
  seen_where: string | null
  parent_id: Id<"package"> | null
  sent_kg: string | null
  origin: "catalogue" | "one-off" | "own"
  max_load_kg: string | null
  overrides: unknown
  used_packaging_id: Id<"packaging"> | null
  planned: unknown | null
  form_id: Id<"closing_form"> | null
  missed_id: Id<"collection"> | null
  noticed_at: Date | null
  delivered_at: Date | null
}

export interface PackageContentRow {
  package_id: Id<"package">
  order_line_id: Id<"order_line">
  quantity: number
  unverified: number
}

export interface PackageLotRow {
  package_id: Id<"package">
  order_line_id: Id<"order_line">
  lot_id: Id<"lot">
  quantity: number
}

export interface PackagingRow {
  id: Id<"packaging">
  code: string
  name: string
  inner_length_mm: string
  inner_width_mm: string
  inner_height_mm: string
  outer_length_mm: string
  outer_width_mm: string
  outer_height_mm: string
  tare_kg: string
  max_load_kg: string
  kind: "carton" | "pallet" | "carrier-box"
  carrier_id: Id<"carrier"> | null
  active: Flag
  version: number
  price: string
}

export interface PackagingStockRow {
  warehouse_id: Id<"warehouse">
  packaging_id: Id<"packaging">
  on_hand: number
  low_at: number
  version: number
}

export interface PickRunRow {
  id: Id<"pick_run">
  warehouse_id: Id<"warehouse">
  number: number
  kind: "orders" | "single"
  label: string
  zone: string | null
  cart_id: Id<"cart"> | null
  state: "ready" | "picking" | "left" | "done" | "dropped"
  holder_id: Id<"user"> | null
  metres: string | null
  apart_metres: string | null
  made_at: Date
  made_by: string
  begun_at: Date | null
  ended_at: Date | null
  made_key: string
}

export interface PickRunOrderRow {
  run_id: Id<"pick_run">
  order_id: Id<"sales_order">
  position: number
}

export interface PickRunPersonRow {
  run_id: Id<"pick_run">
  user_id: Id<"user">
  since: Date
  left_at: Date | null
}

export interface PickShortRow {
  scan_id: string
  order_id: Id<"sales_order">
  order_line_id: Id<"order_line">
  stock_id: Id<"stock">
  quantity: number
  why: "empty" | "too-few" | "damaged" | "wrong-goods" | "lot-bad"
  way: "elsewhere" | "warehouse" | "back-order" | "wait" | "cancel"
  at: Date
  user_id: Id<"user"> | null
  actor: string
}

export interface PickTakeRow {
  id: Id<"pick_take">
  scan_id: string
  order_id: Id<"sales_order">
  order_line_id: Id<"order_line">
  allocation_id: Id<"allocation">
  stock_id: Id<"stock">
  run_id: Id<"pick_run"> | null
  quantity: number
  unverified: number
  user_id: Id<"user"> | null
  at: Date
  undone_at: Date | null
}

export interface PreferenceRow {
  warehouse_id: Id<"warehouse">
  bench: number
  person: number
  body: unknown
}

export interface PresenceRow {
  id: string
  user_id: Id<"user">
  name: string
  warehouse_id: Id<"warehouse">
  order_id: Id<"sales_order">
  seen_at: Date
}

export interface PrinterRow {
  id: Id<"printer">
  warehouse_id: Id<"warehouse">
  name: string
  uri: string
  tray_url: string | null
  media: string
  active: Flag
  form: string
  dpi: number
  held: Flag
  half_free: Flag
  fallback_id: Id<"printer"> | null
  state: string | null
  reasons: string
  media_found: unknown
  model: string
  looked_at: Date | null
  trouble_since: Date | null
  lease: string | null
  leased_until: Date | null
  version: number
}

export interface PrinterUseRow {
  id: Id<"printer_use">
  warehouse_id: Id<"warehouse">
  bench_id: Id<"bench"> | null
  user_id: Id<"user"> | null
  kind: string
  printer_id: Id<"printer">
}

export interface PrintJobRow {
  id: Id<"print_job">
  document_id: Id<"document">
  printer_id: Id<"printer">
  name: string
  state: "waiting" | "sent" | "printed" | "cancelled"
  tries: number
  trouble: string | null
  created_at: Date
  printed_at: Date | null
  copies: number
  ipp_job: number | null
  sheet: string | null
  form: string
}

export interface QuoteRow {
  id: Id<"quote">
  warehouse_id: Id<"warehouse">
  once_key: string
  number: string | null
  state: "open" | "shipped" | "withdrawn"
  valid_until: LocalDate
  order_id: Id<"sales_order"> | null
  customer_code: string
  customer_name: string
  asked: unknown
  offers: unknown
  currency: string
  note: string
  chosen: string | null
  made_by: string
  made_at: Date
  shipped_order_id: Id<"sales_order"> | null
  version: number
}

export interface RateLimitRow {
  key: string
  points: number
  expire: number | null
}

export interface ReceiverLinkRow {
  token: string
  order_id: Id<"sales_order">
  warehouse_id: Id<"warehouse">
  language: string
  made_at: Date
  expires_at: Date
}

export interface RemoteAreaRow {
  id: Id<"remote_area">
  name: string
  country: string
  from_code: string
  to_code: string
}

export interface ReturnIntentRow {
  id: Id<"return_intent">
  warehouse_id: Id<"warehouse">
  order_id: Id<"sales_order">
  number: number
  intent_id: Id<"buy_intent"> | null
  service_id: Id<"service">
  tariff_version_id: Id<"tariff_version">
  once_key: string
  idempotency_key: string
  state: "open" | "booked" | "refused" | "differs" | "voiding" | "void"
  expected_amount: string
  currency: string
  paid: "at-once" | "when-scanned"
  valid_until: LocalDate
  request: unknown
  charges: unknown
  models: unknown
  goods: unknown
  answer: unknown | null
  trouble: unknown | null
  prints: Flag
  mail_to: string
  master_tracking: string | null
  created_at: Date
  answered_at: Date | null
  scanned_at: Date | null
  asked_at: Date | null
  user_id: Id<"user"> | null
  bench_id: Id<"bench"> | null
  actor: string
}

export interface RoundStopRow {
  id: Id<"round_stop">
  warehouse_id: Id<"warehouse">
  collection_id: Id<"collection">
  order_id: Id<"sales_order">
  position: number
  state: "planned" | "delivered" | "not-delivered"
  name: string
  reason: string
  strokes: unknown | null
  told_at: Date | null
  told_by: string
}

export interface RuleRow {
  id: Id<"rule">
  name: string
  position: number
  is_on: Flag
  body: unknown
  version: number
}

export interface SalesOrderRow {
  id: Id<"sales_order">
  warehouse_id: Id<"warehouse">
  source_id: Id<"order_source">
  source_number: string
  order_number: string
  customer_id: Id<"customer"> | null
  customer_name: string
  po_number: string
  ordered_on: LocalDate
  promised_on: LocalDate | null
  company: string
  attention: string
  street: string
  street2: string
  city: string
  state: string
  postal_code: string
  country: string
  phone: string
  address_kind: "unknown" | "business" | "residential"
  notes: string
  content_hash: string
  received_at: Date
  refused_rows: unknown
  held_by_hand: Flag
  collection_id: Id<"collection"> | null
  planned_service_id: Id<"service"> | null
  next_package: number
  version: number
  incoterm: string
  incoterm_place: string
  currency: string
  left_line_at: Date | null
  intake_id: Id<"intake_file"> | null
  ship_on: LocalDate | null
  source_state: string
  record_url: string
  source_waits: Flag
  cancelled_at: Date | null
  kind_confirmed: Flag
  building: string
  instructions: string
  opening_hours: string
  dock: "unknown" | "yes" | "no"
  forklift: "unknown" | "yes" | "no"
  words_of: number
  must_collection_id: Id<"collection"> | null
  chosen_collection_id: Id<"collection"> | null
  chosen_service_id: Id<"service"> | null
  planned_packages: number
  settings: unknown | null
  pattern_id: Id<"shipping_pattern"> | null
  joined_to_id: Id<"sales_order"> | null
  ship_to_key: string | null
  part: number
  split_from_id: Id<"sales_order"> | null
  came_to_id: Id<"warehouse"> | null
  priority: number
  service_asked: string
  freight_paid: string | null
  chosen_ship_on: LocalDate | null
  lines_changed_at: Date | null
  joined_for: unknown | null
  by_hand: unknown | null
  message: string
  advice_taken: unknown | null
}

export interface ScaleRow {
  id: Id<"scale">
  warehouse_id: Id<"warehouse">
  name: string
  host: string
  port: number
  active: Flag
}

export interface ScanRow {
  id: string
  at: Date
  user_id: Id<"user">
  place: string
  text: string
  outcome: string
}

export interface ScreeningEntryRow {
  id: Id<"screening_entry">
  list: string
  reference: string
  name: string
  street: string
  city: string
  country: string
}

export interface ServiceRow {
  id: Id<"service">
  carrier_id: Id<"carrier">
  code: string
  name: string
  mode: "parcel" | "post" | "freight" | "air" | "groupage" | "own"
  returns: Flag
}

export interface SessionRow {
  token_hash: string
  user_id: Id<"user">
  created_at: Date
  seen_at: Date
  expires_at: Date
  warehouse_id: Id<"warehouse"> | null
}

export interface ShipmentRow {
  id: Id<"shipment">
  order_id: Id<"sales_order">
  warehouse_id: Id<"warehouse">
  state: "open" | "buying" | "bought" | "voiding" | "void"
  version: number
  service_id: Id<"service"> | null
  collection_id: Id<"collection"> | null
  ship_date: LocalDate | null
  master_tracking: string | null
  currency: string | null
  list_amount: string | null
  contract_amount: string | null
  arrives_on: LocalDate | null
  bought_at: Date | null
  trouble: unknown | null
  wishes: unknown
  tariff_version_id: Id<"tariff_version"> | null
  charged_by_hand: unknown | null
  charged_amount: string | null
  charged_why: unknown | null
  lading: unknown
  exchange: unknown | null
}

export interface ShippingPatternRow {
  id: Id<"shipping_pattern">
  name: string
  body: unknown
  version: number
}

export interface ShippingRunRow {
  id: Id<"shipping_run">
  warehouse_id: Id<"warehouse">
  once_key: string
  rule: string
  state: "open" | "buying" | "paused"
  made_by: string
  made_at: Date
  name: string
  origin: string
  prints: "after" | "each" | "later"
  print_order: "packing" | "doors"
  parts: number
  bought_by_id: Id<"user"> | null
  bought_by: string | null
  bought_at: Date | null
  ended_at: Date | null
  seen_at: Date | null
  put_away_at: Date | null
  bench_id: Id<"bench"> | null
}

export interface ShippingRunOrderRow {
  run_id: Id<"shipping_run">
  order_id: Id<"sales_order">
  state: "waiting" | "rated" | "refused" | "failed" | "asked" | "buying" | "bought"
  chosen: string | null
  offers: unknown
  reasons: unknown
  position: number
  pack: Flag
  rated_version: number | null
  rated_at: Date | null
  intent_id: Id<"buy_intent"> | null
  collection_id: Id<"collection"> | null
}

export interface SignInSettingRow {
  id: Id<"sign_in_setting">
  idle_minutes: number
  longest_hours: number
}

export interface StockRow {
  id: Id<"stock">
  warehouse_id: Id<"warehouse">
  bin_id: Id<"bin">
  item_id: Id<"item">
  lot_id: Id<"lot"> | null
  on_hand: number
  allocated: number
  to_count: Flag
}

export interface StockMovementRow {
  id: Id<"stock_movement">
  stock_id: Id<"stock">
  quantity: number
  cause: "opening" | "receipt" | "pick" | "put-back" | "transfer" | "adjustment" | "count" | "return" | "scrap"
  at: Date
  user_id: Id<"user"> | null
  order_id: Id<"sales_order"> | null
  note: string
  move_key: string | null
}

export interface TariffRow {
  id: Id<"tariff">
  service_id: Id<"service">
  valid_from: LocalDate
  body: unknown
  revision: number
}

export interface TariffVersionRow {
  id: Id<"tariff_version">
  carrier_id: Id<"carrier">
  number: number
  state: "draft" | "released" | "withdrawn"
  valid_from: LocalDate
  valid_to: LocalDate | null
  body: unknown
  revision: number
  made_by: string
  made_at: Date
  released_by: string | null
  released_at: Date | null
}

export interface TellingBlockRow {
  address_hash: string
  why: "unsubscribed" | "bounced" | "erased"
  at: Date
}

export interface TellingTopicRow {
  topic: string
  is_on: Flag
}

export interface ToteRow {
  id: Id<"tote">
  warehouse_id: Id<"warehouse">
  code: string
  cart_id: Id<"cart"> | null
  position: number
  litres: string
  order_id: Id<"sales_order"> | null
  run_id: Id<"pick_run"> | null
}

export interface TrackedUnitRow {
  id: Id<"tracked_unit">
  warehouse_id: Id<"warehouse">
  order_id: Id<"sales_order">
  kind: "package" | "elsewhere" | "return"
  package_id: Id<"package"> | null
  return_id: number | null
  piece: number
  carrier_id: Id<"carrier"> | null
  service_id: Id<"service"> | null
  carrier: string
  tracking: string
  master: string
  name: string
  zone: string
  lane: string
  shipped_on: LocalDate | null
  arrives_on: LocalDate | null
  due_on: LocalDate | null
  left_at: Date | null
  state:
    | "announced"
    | "accepted"
    | "in-transit"
    | "in-customs"
    | "out-for-delivery"
    | "attempted"
    | "ready"
    | "held"
    | "returning"
    | "returned"
    | "lost"
    | "delivered"
  since: Date | null
  seen_at: Date | null
  place: string
  estimated_on: LocalDate | null
  delivered_at: Date | null
  delivered_to: string
  void_at: Date | null
  measured: Flag
  look_at: Date | null
}

export interface TrackingCaseRow {
  id: Id<"tracking_case">
  warehouse_id: Id<"warehouse">
  order_id: Id<"sales_order">
  unit_id: Id<"tracked_unit">
  kind: string
  since_key: string
  figures: unknown
  opened_at: Date
  state: "open" | "watched" | "let-go" | "over"
  watch_until: Date | null
  note: string
  told_by: string
  told_at: Date | null
}

export interface TrackingCodeRow {
  carrier_id: Id<"carrier">
  code: string
  kind: string | null
  text: string
  first_at: Date
}

export interface TrackingEventRow {
  id: Id<"tracking_event">
  once_key: string
  carrier_id: Id<"carrier"> | null
  unit_id: number | null
  way: "pulled" | "pushed" | "own" | "typed"
  tracking: string
  master: string
  code: string
  kind: string | null
  at: Date
  zone_offset: number
  place: string
  postal_code: string
  country: string
  text: string
  estimated_on: LocalDate | null
  name: string
  strokes: unknown | null
  picture: Buffer | null
  picture_media: string | null
  taken_at: Date
  known: Flag
}

export interface TrackingFileRow {
  id: Id<"tracking_file">
  warehouse_id: Id<"warehouse">
  name: string
  state: "preview" | "taking" | "done"
  made_at: Date
  made_by: string
  user_id: Id<"user"> | null
}

export interface TrackingReaddressRow {
  id: Id<"tracking_readdress">
  unit_id: Id<"tracked_unit">
  once_key: string
  address: unknown
  state: "waiting" | "taken" | "refused"
  trouble: string | null
  asked_at: Date
  asked_by: string
  answered_at: Date | null
}

export interface TrackingRowRow {
  id: Id<"tracking_row">
  file_id: Id<"tracking_file">
  line: number
  order_number: string
  order_id: Id<"sales_order"> | null
  body: unknown
  state: "good" | "refused" | "taken"
  why: unknown | null
}

export interface UserRow {
  id: Id<"user">
  username: string
  name: string
  role: "clerk" | "lead" | "sales" | "administrator"
  password_hash: string
  warehouse_id: Id<"warehouse">
  active: Flag
  language: string
  clock: string
}

export interface UserWarehouseRow {
  user_id: Id<"user">
  warehouse_id: Id<"warehouse">
}

export interface VagueWordRow {
  word: string
  added_by: string
  added_at: Date
}

export interface WarehouseRow {
  id: Id<"warehouse">
  code: string
  name: string
  zone: string
  company: string
  street: string
  city: string
  state: string
  postal_code: string
  country: string
  phone: string
  hands: number
  at_work: Flag
  gln: string
  gs1_prefix: string
  sscc_extension: number
  sscc_serial: number
  order_serial: number
  work_per_order: string
  work_per_bin: string
  work_per_line: string
  work_per_package: string
  work_source: string
  work_per_paper: string
  hand_hour: string
  currency: string
  leave_policy: "soonest" | "latest"
  version: number
  floor_plan: unknown | null
  plan_version: number
  scan_steps: unknown
  slip: unknown
  weight_tolerance: string
  email: string
  pack_in_runs: Flag
  weigh_all: Flag
  fill_share: string
  keep_together: "no" | "lines" | "lots"
  heavy_first: Flag
  cold_last: Flag
  shipper: unknown
  signature: Buffer | null
  closing_wait: number
  quiet_from: string
  quiet_to: string
  quiet_mail: Flag
}

export interface WorkDoneRow {
  order_id: Id<"sales_order">
  warehouse_id: Id<"warehouse">
  at: Date
  bins: number
  order_lines: number
  packages: number
  papers: number
  predicted_pick: string
  predicted_pack: string
  predicted_papers: string
}

export interface WorkMeasureRow {
  order_id: Id<"sales_order">
  kind: "pick" | "pack" | "papers"
  user_id: Id<"user">
  began_at: Date
  last_at: Date
  active_s: string
  acts: number
}

export interface WorkPeriodRow {
  id: Id<"work_period">
  warehouse_id: Id<"warehouse">
  kind: "shift" | "break"
  starts: LocalTime
  ends: LocalTime
  hands: number | null
}

export interface ZoneChartRow {
  id: Id<"zone_chart">
  carrier_id: Id<"carrier">
  origin: string
  body: unknown
  revision: number
}

export interface NewAddressBookRow {
  id?: Id<"address_book">
  code?: string | null
  customer_id?: Id<"customer"> | null
  company: string
  attention: string
  street: string
  street2: string
  city: string
  state: string
  postal_code: string
  country: string
  phone: string
  address_kind?: "unknown" | "business" | "residential"
  kind_confirmed?: Flag
  building?: string
  instructions?: string
  opening_hours?: string
  dock?: "unknown" | "yes" | "no"
  forklift?: "unknown" | "yes" | "no"
  latitude?: string | number | null
  longitude?: string | number | null
  zone?: string | null
  used_at?: Date | null
  version?: number
}

export interface NewAddressWordRow {
  word: string
  address_id: Id<"address_book">
}

export interface NewAllocationRow {
  id?: Id<"allocation">
  order_line_id: Id<"order_line">
  stock_id: Id<"stock">
  quantity: number
  picked?: number
  unverified?: number
  run_id?: Id<"pick_run"> | null
  claimed_by?: number | null
  claimed_at?: Date | null
  skipped_at?: Date | null
}

export interface NewApiRequestRow {
  token_id: Id<"api_token">
  idempotency_key: string
  body_hash: string
  status?: number | null
  answer?: string | null
  at: Date
}

export interface NewApiTokenRow {
  id?: Id<"api_token">
  name: string
  token_hash: string
  rights: string
  warehouse_id: Id<"warehouse">
  source_id: Id<"order_source">
  created_at: Date
  created_by: string
  expires_at: Date
  revoked_at?: Date | null
  used_at?: Date | null
}

export interface NewAuditRow {
  id?: Id<"audit"> | string
  at: Date
  user_id?: Id<"user"> | null
  actor: string
  order_id?: Id<"sales_order"> | null
  collection_id?: Id<"collection"> | null
  action: string
  detail: string
}

export interface NewBenchRow {
  id?: Id<"bench">
  warehouse_id: Id<"warehouse">
  name: string
  active?: Flag
}

export interface NewBinRow {
  id?: Id<"bin">
  warehouse_id: Id<"warehouse">
  code: string
  walk_order: number
  aisle?: string | null
  x_m?: string | number | null
  y_m?: string | number | null
  level?: number
  zone?: string
  blocked_why?: string | null
  purpose?: "inspection" | "repair" | null
}

export interface NewBookedCollectionRow {
  id?: Id<"booked_collection">
  warehouse_id: Id<"warehouse">
  carrier_id: Id<"carrier">
  collection_id?: Id<"collection"> | null
  own_truck?: Flag
  order_id?: Id<"sales_order"> | null
  press_key: string
  once_key: string
  revision?: number
  asked?: number
  state: "asking" | "booked" | "refused" | "cancelling" | "cancelled"
  ask: string
  held?: string | null
  fee: string | number
  currency: string
  number?: string
  trouble?: string | null
  on_date: LocalDate | Date
  asked_at: Date
  asked_by: string
  answered_at?: Date | null
}

export interface NewBusinessClockRow {
  id: Id<"business_clock">
  offset_ms?: number | string
  seen_at?: Date | null
}

export interface NewBuyIntentRow {
  id?: Id<"buy_intent">
  idempotency_key: string
  shipment_id: Id<"shipment">
  shipment_version: number
  service_id: Id<"service">
  expected_amount: string | number
  currency: string
  request: string
  rate: string
  state?: "open" | "booked" | "refused" | "differs" | "given-up" | "void"
  answer?: string | null
  created_at: Date
  answered_at?: Date | null
  give_up?: Flag
  user_id?: Id<"user"> | null
  actor: string
  void_at?: Date | null
  tariff_version_id?: Id<"tariff_version"> | null
  prints?: Flag
  bench_id?: Id<"bench"> | null
}

export interface NewCarrierRow {
  id?: Id<"carrier">
  code: string
  name: string
  base_url: string
  account: string
  holidays: string
  down_until?: Date | null
  numbers?: "plain" | "s10"
  void_minutes?: number
  prepaid_balance?: string | number | null
  account_form?: string
  tolerance?: string | number
  label_form?: string
  carrier_code?: string
  pro_from?: number | string | null
  pro_to?: number | string | null
  pro_next?: number | string | null
  pro_digits?: number
  events_cursor?: string
  events_at?: Date | null
  events_trouble?: string | null
  pushes?: Buffer | null
  pushes_before?: Buffer | null
  claim_terms?: string | null
}

export interface NewCartRow {
  id?: Id<"cart">
  warehouse_id: Id<"warehouse">
  code: string
  name?: string
  litres?: string | number | null
  kilograms?: string | number | null
  active?: Flag
  version?: number
}

export interface NewChangeNoticeRow {
  id?: Id<"change_notice"> | string
  at: Date
  warehouse_id: Id<"warehouse">
  order_id?: Id<"sales_order"> | null
}

export interface NewChargeRow {
  id?: Id<"charge">
  shipment_id: Id<"shipment">
  code: string
  package_number?: number | null
  currency: string
  list_amount: string | number
  contract_amount: string | number
  why: string
  intent_id?: Id<"buy_intent"> | null
  reverses_id?: Id<"charge"> | null
}

export interface NewChargingRuleRow {
  id?: Id<"charging_rule">
  position: number
  name: string
  is_on?: Flag
  body: string
  version?: number
}

export interface NewClaimRow {
  id?: Id<"claim">
  warehouse_id: Id<"warehouse">
  number: number
  order_id: Id<"sales_order">
  unit_id: number
  units: string
  carrier_id?: Id<"carrier"> | null
  carrier: string
  kind: "loss" | "damage" | "shortage"
  state?: "draft" | "filed" | "acknowledged" | "paid" | "denied" | "withdrawn"
  happened?: string
  goods: string
  currency: string
  facts: string
  amounts: string
  total: string | number
  file_by: LocalDate | Date
  papers: string
  version?: number
  made_at: Date
  made_by: string
  filed_on?: LocalDate | Date | null
  filed_to?: string
  filed_by?: string
  document_id?: Id<"document"> | null
  reference?: string
  acknowledged_on?: LocalDate | Date | null
  settled_on?: LocalDate | Date | null
  paid?: string | number | null
  note?: string
  open_unit?: number | null
}

export interface NewClaimPhotoRow {
  id?: Id<"claim_photo">
  claim_id: Id<"claim">
  name: string
  media: string
  sha256: string
  bytes: Buffer
  added_at: Date
  added_by: string
}

export interface NewClosingAddressRow {
  id?: Id<"closing_address">
  warehouse_id: Id<"warehouse">
  carrier_id?: Id<"carrier"> | null
  email: string
  purpose?: "forms" | "collections"
}

export interface NewClosingFormRow {
  id?: Id<"closing_form">
  warehouse_id: Id<"warehouse">
  collection_id: Id<"collection">
  carrier_id: Id<"carrier">
  sequence: number
  way: "one-barcode" | "manifest" | "bill-of-lading" | "electronic" | "none"
  number: string
  account: string
  service?: string | null
  supplement?: Flag
  at_closing?: Flag
  packages: number
  weight_kg: string | number
  document_id?: Id<"document"> | string | null
  own_document?: Flag
  told?: Flag
  once_key: string
  asked?: number
  state?: "made" | "sending" | "done" | "refused" | "discarded"
  carrier_number?: string
  trouble?: string | null
  made_at: Date
  made_by: string
  ended_at?: Date | null
  ended_by?: string | null
}

export interface NewCollectionRow {
  id?: Id<"collection">
  warehouse_id: Id<"warehouse">
  carrier_id: Id<"carrier">
  door: string
  on_date: LocalDate | Date
  cut_off: Date
  services: string
  closed_at?: Date | null
  closed_by?: string | null
  final_at?: Date | null
  closings?: number
  on_call?: Flag
  cancelled_at?: Date | null
  arrived_at?: Date | null
  departed_at?: Date | null
  driver?: string | null
  round_km?: string | number | null
  drop_off?: string | null
}

export interface NewCollectionRuleRow {
  id?: Id<"collection_rule">
  warehouse_id: Id<"warehouse">
  carrier_id: Id<"carrier">
  door: string
  cut_off: LocalTime
  weekdays: string
  services: string
  on_call?: Flag
}

export interface NewCountTaskRow {
  id?: Id<"count_task">
  warehouse_id: Id<"warehouse">
  stock_id: Id<"stock">
  why: string
  order_id?: Id<"sales_order"> | null
  raised_at: Date
  raised_by: string
  expected?: number | null
  counted?: number | null
  done_at?: Date | null
  done_by?: string | null
}

export interface NewCustomerRow {
  id?: Id<"customer">
  code: string
  name: string
  credit_stop?: Flag
  credit_note?: string
  version?: number
  blind_ship?: Flag
  routing?: string
  slip?: string
  language?: string
}

export interface NewCustomerContactRow {
  id?: Id<"customer_contact">
  customer_id: Id<"customer">
  role: "receiving" | "purchasing" | "billing" | "sales"
  name?: string
  way: "mail" | "text"
  address: string
  language?: string
  topics: string
}

export interface NewCustomerMessageRow {
  id?: Id<"customer_message"> | string
  warehouse_id: Id<"warehouse">
  order_id: Id<"sales_order">
  topic: string
  once_key: string
  way: "mail" | "text"
  address: string
  name?: string
  language: string
  facts: string
  state?: "waiting" | "handed-on" | "sent" | "refused" | "bounced" | "blocked" | "off"
  subject?: string
  body?: string | null
  trouble?: string | null
  made_at: Date
  send_after: Date
  sent_at?: Date | null
  leased_until?: Date | null
  mail_id?: Id<"mail"> | null
}

export interface NewDayExceptionRow {
  warehouse_id: Id<"warehouse">
  on_date: LocalDate | Date
  closed?: Flag
  hands?: number | null
  name?: string
}

export interface NewDeliveryRow {
  id?: Id<"delivery"> | string
  tracking: string
  service_id: Id<"service">
  ship_date: LocalDate | Date
  promised_on: LocalDate | Date
  delivered_on: LocalDate | Date
  lane?: string
}

export interface NewDeliveryLegRow {
  service_id: Id<"service">
  lane: string
  state: string
  month: LocalDate | Date
  days: number
  packages?: number
}

export interface NewDocumentRow {
  id?: Id<"document"> | string
  warehouse_id: Id<"warehouse">
  kind: string
  name: string
  media: string
  sha256: string
  bytes: Buffer
  made_at: Date
  order_id?: Id<"sales_order"> | null
  collection_id?: Id<"collection"> | null
  intent_id?: Id<"buy_intent"> | null
  void_at?: Date | null
  model?: string | null
  own_paper_id?: Id<"own_paper"> | null
  return_intent_id?: Id<"return_intent"> | null
  electronic?: Flag
  language?: string
  copies?: number
}

export interface NewDropPlaceRow {
  warehouse_id: Id<"warehouse">
  carrier_id: Id<"carrier">
  code: string
}

export interface NewDutyRateRow {
  country: string
  prefix: string
  origin?: string
  valid_from: LocalDate | Date
  share: string | number
}

export interface NewEdiMessageRow {
  id?: Id<"edi_message">
  warehouse_id: Id<"warehouse">
  order_id: Id<"sales_order">
  customer_id: Id<"customer">
  collection_id?: Id<"collection"> | null
  document_id?: Id<"document"> | string | null
  kind: "desadv" | "iftmin" | "epcis"
  cancels?: Flag
  way: "mail" | "folder" | "http"
  send_to: string
  receiver: string
  once_key: string
  message_key: string
  packages: string
  bytes?: Buffer | null
  state?: "waiting" | "sent" | "acknowledged" | "refused"
  asked?: number
  trouble?: string | null
  made_at: Date
  sent_at?: Date | null
  answered_at?: Date | null
  answered_by?: string
}

export interface NewExchangeRateRow {
  from_currency: string
  to_currency: string
  on_date: LocalDate | Date
  rate: string | number
}

export interface NewGoodsReturnRow {
  id?: Id<"goods_return">
  warehouse_id: Id<"warehouse">
  name: string
  order_id?: Id<"sales_order"> | null
  number?: number
  kind: "label" | "undelivered" | "unannounced" | "unknown"
  return_intent_id?: Id<"return_intent"> | null
  state?: "awaited" | "arrived" | "inspected" | "done" | "declined" | "closed" | "void"
  valid_until?: LocalDate | Date | null
  made_at: Date
  arrived_at?: Date | null
  is_late?: Flag
  note?: string
  finishes?: number
  inspected_at?: Date | null
  told_by?: string
  press_key?: string | null
}

export interface NewGoodsReturnFindingRow {
  id?: Id<"goods_return_finding">
  goods_return_id: Id<"goods_return">
  item_id?: Id<"item"> | null
  lot_id?: Id<"lot"> | null
  goods?: string
  state: "sound" | "damaged" | "other"
  quantity: number
  note?: string
  in_inspection?: number
  in_repair?: number
  put_back?: number
  thrown_away?: number
  inspection_stock_id?: number | null
  repair_stock_id?: number | null
  press_key: string
  at: Date
  told_by: string
  undone_at?: Date | null
}

export interface NewGoodsReturnLineRow {
  goods_return_id: Id<"goods_return">
  item_id: Id<"item">
  announced: number
}

export interface NewGoodsReturnPackageRow {
  id?: Id<"goods_return_package">
  goods_return_id: Id<"goods_return">
  piece: number
  unit_id?: number | null
  tracking?: string
  arrived_at?: Date | null
  told_by?: string
}

export interface NewGroupChangeRow {
  id: string
  warehouse_id: Id<"warehouse">
  user_id?: Id<"user"> | null
  actor: string
  at: Date
  change_json: string
  content_hash: string
  undone_at?: Date | null
}

export interface NewGroupChangeOrderRow {
  change_id: string
  order_id: Id<"sales_order">
  before_json?: string | null
  refusals: string
  undone_at?: Date | null
}

export interface NewHandedOverRow {
  order_id: Id<"sales_order">
  warehouse_id: Id<"warehouse">
  way: "counter" | "in-person"
  name: string
  identity: "seen" | "known" | "none"
  on_paper: Flag
  strokes: string
  note: string
  document_id?: Id<"document"> | string | null
  handed_at: Date
  handed_by: string
}

export interface NewImportRuleRow {
  country: string
  valid_from: LocalDate | Date
  currency: string
  duty_free?: string | number | null
  tax_free?: string | number | null
  tax_share: string | number
  basis: "fob" | "cif"
  one_stop?: string | number | null
}

export interface NewIntakeFileRow {
  id?: Id<"intake_file">
  warehouse_id: Id<"warehouse">
  source_id: Id<"order_source">
  name: string
  sha256: string
  uploaded_at: Date
  user_id?: Id<"user"> | null
  taken_at?: Date | null
  row_count?: number
  taken?: string | null
  format?: "csv" | "edifact" | "json"
  state?: "reading" | "read" | "taking" | "taken"
  order_count?: number
  refused_count?: number
  taken_count?: number
}

export interface NewIntakeOrderRow {
  intake_id: Id<"intake_file">
  position: number
  order_number: string
  customer: string
  place: string
  good_rows: number
  refused_rows: number
  content_hash: string
  wish?: "ship" | "wait" | "cancel"
  fate?: string | null
  trouble?: string | null
}

export interface NewIntakeRefusalRow {
  id?: Id<"intake_refusal">
  source_id: Id<"order_source">
  warehouse_id: Id<"warehouse">
  name: string
  reason: string
  at: Date
  seen_at?: Date | null
}

export interface NewIntakeRowRow {
  intake_id: Id<"intake_file">
  line: number
  order_number: string
  raw: string
  refusals: string
  parsed?: string | null
  corrected_by?: string | null
  refused?: Flag | null
}

export interface NewItemRow {
  id?: Id<"item">
  sku: string
  description: string
  weight_kg?: string | number | null
  length_mm: string | number
  width_mm: string | number
  height_mm: string | number
  this_side_up?: Flag
  un_number?: string | null
  freight_only?: Flag
  hs_code?: string | null
  origin?: string | null
  value: string | number
  currency: string
  customs_description?: string
  freight_class?: string | null
  version?: number
  proper_shipping_name?: string
  hazard_class?: string
  packing_group?: string
  inner_quantity?: string | number | null
  inner_unit?: string
  limited_quantity?: Flag | null
  scan_steps?: string
  stackable?: Flag
  load_limit_kg?: string | number | null
  fragile?: Flag
  own_carton?: Flag
  goods_kind?: "general" | "food" | "chemical"
  most_on_hand?: number
  material?: string
  customs_use?: string
  customs_unit?: string
  net_kg?: string | number | null
  technical_name?: string
  subsidiary_hazard?: string
  inner_count?: number
  lithium?: string | null
  category?: string
  class_item?: string
}

export interface NewItemHsCodeRow {
  item_id: Id<"item">
  hs_code: string
  used_at: Date
}

export interface NewItemLevelRow {
  id?: Id<"item_level">
  item_id: Id<"item">
  name: string
  gtin?: string | null
  quantity: number
  weight_kg?: string | number | null
  length_mm?: string | number | null
  width_mm?: string | number | null
  height_mm?: string | number | null
}

export interface NewJobRow {
  id?: Id<"job"> | string
  kind: string
  once_key: string
  payload: string
  state?: "waiting" | "done" | "dead"
  tries?: number
  run_at: Date
  leased_until?: Date | null
  lease?: string | null
  trouble?: string | null
  created_at: Date
  done_at?: Date | null
  losses?: number
  warehouse_id?: Id<"warehouse"> | null
  order_id?: Id<"sales_order"> | null
}

export interface NewKnownDeviceRow {
  token_hash: string
  user_id: Id<"user">
  seen_at: Date
}

export interface NewLotRow {
  id?: Id<"lot">
  item_id: Id<"item">
  code: string
  received_on: LocalDate | Date
  expires_on?: LocalDate | Date | null
  state?: "released" | "unreleased" | "blocked"
}

export interface NewMailRow {
  id?: Id<"mail"> | string
  once_key: string
  warehouse_id: Id<"warehouse">
  recipient: string
  subject: string
  body: string
  attachment_name?: string | null
  attachment?: Buffer | null
  quote_id?: Id<"quote"> | null
  state?: "waiting" | "sent" | "refused" | "bounced"
  trouble?: string | null
  made_by: string
  made_at: Date
  sent_at?: Date | null
  html?: string | null
  documents?: string | null
  sender_name?: string
  unsubscribe_url?: string
  leased_until?: Date | null
  bounced_at?: Date | null
}

export interface NewMessageTemplateRow {
  topic: string
  way: "mail" | "text"
  language: string
  subject?: string
  body: string
  version?: number
}

export interface NewOrderChangeRow {
  id?: Id<"order_change">
  order_id: Id<"sales_order">
  kind: "changed" | "cancelled"
  content: string
  content_hash: string
  came_with: string
  intake_id?: Id<"intake_file"> | null
  came_at: Date
  state?: "open" | "taken" | "kept" | "overtaken"
  decided_at?: Date | null
  decided_by?: string | null
}

export interface NewOrderCustomsRow {
  order_id: Id<"sales_order">
  body: string
}

export interface NewOrderDraftRow {
  id: string
  warehouse_id: Id<"warehouse">
  user_id: Id<"user">
  title: string
  content: string
  updated_at: Date
  version?: number
  taken_as?: string | null
}

export interface NewOrderFreightRow {
  order_id: Id<"sales_order">
  intent_id: Id<"buy_intent">
  currency: string
  list_amount: string | number
  contract_amount: string | number
  weight_kg: string | number
  charged_amount?: string | number | null
}

export interface NewOrderInvoiceRow {
  order_id: Id<"sales_order">
  number: string
  freight: string | number
  currency: string
  total?: string | number | null
  at: Date
}

export interface NewOrderLineRow {
  id?: Id<"order_line">
  order_id: Id<"sales_order">
  line_number: number
  item_id: Id<"item">
  ordered: number
  unit: string
  unit_price?: string | number | null
  cancelled?: number
  customs?: string | null
}

export interface NewOrderNoteRow {
  id?: Id<"order_note">
  order_id: Id<"sales_order">
  text: string
  at: Date
  actor: string
  dropped_at?: Date | null
}

export interface NewOrderPartyRow {
  order_id: Id<"sales_order">
  role: "sender" | "return-to" | "notify"
  company: string
  attention: string
  street: string
  street2: string
  city: string
  state: string
  postal_code: string
  country: string
  phone: string
  email: string
}

export interface NewOrderReferenceRow {
  order_id: Id<"sales_order">
  name: string
  value: string
  printed: Flag
}

export interface NewOrderSourceRow {
  id?: Id<"order_source">
  code: string
  name: string
  report_url?: string | null
  pull_url?: string | null
  pull_warehouse_id?: Id<"warehouse"> | null
  pull_every_s?: number
  pull_cursor?: string
  kind?: "upload" | "folder" | "api" | "pull" | "typed"
  active?: Flag
  folder?: string | null
  ship_states?: string
  cancelled_states?: string
  record_url?: string | null
  mapping?: string | null
  sample?: string | null
  version?: number
  ran_at?: Date | null
  run_trouble?: string | null
  routing?: "own" | "nearest"
  report_cost?: Flag
  report_way?: "http" | "webhook" | "folder-json" | "folder-csv"
  report_folder?: string
  report_fields?: string | null
  report_names?: string | null
  report_by_hand?: Flag
  report_labels?: Flag
  report_delivery?: Flag
  report_secret?: Buffer | null
  report_secret_before?: Buffer | null
  report_returns?: Flag
}

export interface NewOrderStopRow {
  id?: Id<"order_stop">
  order_id: Id<"sales_order">
  code: string
  detail: string
  raised_at: Date
}

export interface NewOrderTagRow {
  order_id: Id<"sales_order">
  tag: string
}

export interface NewOrderTellingRow {
  order_id: Id<"sales_order">
  is_off?: Flag
  note?: string
  thanks?: Flag
  more: string
  attach: string
}

export interface NewOrderViewRow {
  id?: Id<"order_view">
  warehouse_id: Id<"warehouse">
  user_id: Id<"user">
  name: string
  filter: string
  shared?: Flag
}

export interface NewOrderWaiverRow {
  id?: Id<"order_waiver">
  order_id: Id<"sales_order">
  code: string
  detail_hash: string
  detail: string
  actor: string
  at: Date
}

export interface NewOrderWordRow {
  word: string
  order_id: Id<"sales_order">
}

export interface NewOutboxRow {
  id?: Id<"outbox"> | string
  message_id: string
  topic: string
  source_id: Id<"order_source">
  order_id: Id<"sales_order">
  payload: string
  created_at: Date
  sent_at?: Date | null
  state?: "waiting" | "sent" | "refused"
  trouble?: string | null
  asked?: number
  once_of?: string | null
}

export interface NewOutsideOrderRow {
  order_id: Id<"sales_order">
  outside_id?: Id<"outside_warehouse"> | null
  idempotency_key: string
  state?: "sending" | "taken" | "refused" | "shipped" | "recalling"
  trouble?: string | null
  reference?: string | null
  carrier?: string | null
  service?: string | null
  tracking?: string | null
  asked_at: Date
  shipped_at?: Date | null
  shipped_on?: LocalDate | Date | null
  cost?: string | number | null
  currency?: string | null
  recorded_by?: string | null
  delivered_at?: Date | null
}

export interface NewOutsideServiceRow {
  kind: "address" | "mail" | "text"
  name: string
  url: string
}

export interface NewOutsideWarehouseRow {
  id?: Id<"outside_warehouse">
  code: string
  name: string
  base_url: string
  active?: Flag
}

export interface NewOwnPaperRow {
  id?: Id<"own_paper">
  order_id?: Id<"sales_order"> | null
  customer_id?: Id<"customer"> | null
  item_id?: Id<"item"> | null
  name: string
  pages: number
  sha256: string
  bytes: Buffer
  added_at: Date
  added_by: string
  removed_at?: Date | null
}

export interface NewPackageRow {
  id?: Id<"package">
  shipment_id: Id<"shipment">
  number: number
  packaging_id?: Id<"packaging"> | null
  state?: "open" | "closed" | "labelled" | "on-truck" | "left-behind" | "gone" | "void"
  length_mm: string | number
  width_mm: string | number
  height_mm: string | number
  tare_kg: string | number
  measured_kg?: string | number | null
  size_by_hand?: Flag
  sscc?: string | null
  tracking?: string | null
  routing_code?: string | null
  label_document_id?: Id<"document"> | string | null
  collection_id?: Id<"collection"> | null
  loaded_at?: Date | null
  loaded_by?: string | null
  seen_at?: Date | null
  seen_where?: string | null
  parent_id?: Id<"package"> | null
  sent_kg?: string | number | null
  origin?: "catalogue" | "one-off" | "own"
  max_load_kg?: string | number | null
  overrides?: string
  used_packaging_id?: Id<"packaging"> | null
  planned?: string | null
  form_id?: Id<"closing_form"> | null
  missed_id?: Id<"collection"> | null
  noticed_at?: Date | null
  delivered_at?: Date | null
}

export interface NewPackageContentRow {
  package_id: Id<"package">
  order_line_id: Id<"order_line">
  quantity: number
  unverified?: number
}

export interface NewPackageLotRow {
  package_id: Id<"package">
  order_line_id: Id<"order_line">
  lot_id: Id<"lot">
  quantity: number
}

export interface NewPackagingRow {
  id?: Id<"packaging">
  code: string
  name: string
  inner_length_mm: string | number
  inner_width_mm: string | number
  inner_height_mm: string | number
  outer_length_mm: string | number
  outer_width_mm: string | number
  outer_height_mm: string | number
  tare_kg: string | number
  max_load_kg: string | number
  kind?: "carton" | "pallet" | "carrier-box"
  carrier_id?: Id<"carrier"> | null
  active?: Flag
  version?: number
  price?: string | number
}

export interface NewPackagingStockRow {
  warehouse_id: Id<"warehouse">
  packaging_id: Id<"packaging">
  on_hand?: number
  low_at?: number
  version?: number
}

export interface NewPickRunRow {
  id?: Id<"pick_run">
  warehouse_id: Id<"warehouse">
  number: number
  kind?: "orders" | "single"
  label: string
  zone?: string | null
  cart_id?: Id<"cart"> | null
  state?: "ready" | "picking" | "left" | "done" | "dropped"
  holder_id?: Id<"user"> | null
  metres?: string | number | null
  apart_metres?: string | number | null
  made_at: Date
  made_by: string
  begun_at?: Date | null
  ended_at?: Date | null
  made_key: string
}

export interface NewPickRunOrderRow {
  run_id: Id<"pick_run">
  order_id: Id<"sales_order">
  position: number
}

export interface NewPickRunPersonRow {
  run_id: Id<"pick_run">
  user_id: Id<"user">
  since: Date
  left_at?: Date | null
}

export interface NewPickShortRow {
  scan_id: string
  order_id: Id<"sales_order">
  order_line_id: Id<"order_line">
  stock_id: Id<"stock">
  quantity: number
  why: "empty" | "too-few" | "damaged" | "wrong-goods" | "lot-bad"
  way: "elsewhere" | "warehouse" | "back-order" | "wait" | "cancel"
  at: Date
  user_id?: Id<"user"> | null
  actor: string
}

export interface NewPickTakeRow {
  id?: Id<"pick_take"> | string
  scan_id: string
  order_id: Id<"sales_order">
  order_line_id: Id<"order_line">
  allocation_id: Id<"allocation">
  stock_id: Id<"stock">
  run_id?: Id<"pick_run"> | null
  quantity: number
  unverified: number
  user_id?: Id<"user"> | null
  at: Date
  undone_at?: Date | null
}

export interface NewPreferenceRow {
  warehouse_id: Id<"warehouse">
  bench?: number
  person?: number
  body: string
}

export interface NewPresenceRow {
  id: string
  user_id: Id<"user">
  name: string
  warehouse_id: Id<"warehouse">
  order_id: Id<"sales_order">
  seen_at: Date
}

export interface NewPrinterRow {
  id?: Id<"printer">
  warehouse_id: Id<"warehouse">
  name: string
  uri: string
  tray_url?: string | null
  media: string
  active?: Flag
  form?: string
  dpi?: number
  held?: Flag
  half_free?: Flag
  fallback_id?: Id<"printer"> | null
  state?: string | null
  reasons?: string
  media_found?: string
  model?: string
  looked_at?: Date | null
  trouble_since?: Date | null
  lease?: string | null
  leased_until?: Date | null
  version?: number
}

export interface NewPrinterUseRow {
  id?: Id<"printer_use">
  warehouse_id: Id<"warehouse">
  bench_id?: Id<"bench"> | null
  user_id?: Id<"user"> | null
  kind: string
  printer_id: Id<"printer">
}

export interface NewPrintJobRow {
  id?: Id<"print_job"> | string
  document_id: Id<"document"> | string
  printer_id: Id<"printer">
  name: string
  state?: "waiting" | "sent" | "printed" | "cancelled"
  tries?: number
  trouble?: string | null
  created_at: Date
  printed_at?: Date | null
  copies?: number
  ipp_job?: number | null
  sheet?: string | null
  form?: string
}

export interface NewQuoteRow {
  id?: Id<"quote">
  warehouse_id: Id<"warehouse">
  once_key: string
  number?: string | null
  state?: "open" | "shipped" | "withdrawn"
  valid_until: LocalDate | Date
  order_id?: Id<"sales_order"> | null
  customer_code?: string
  customer_name?: string
  asked: string
  offers: string
  currency: string
  note?: string
  chosen?: string | null
  made_by: string
  made_at: Date
  shipped_order_id?: Id<"sales_order"> | null
  version?: number
}

export interface NewRateLimitRow {
  key: string
  points?: number
  expire?: number | string | null
}

export interface NewReceiverLinkRow {
  token: string
  order_id: Id<"sales_order">
  warehouse_id: Id<"warehouse">
  language: string
  made_at: Date
  expires_at: Date
}

export interface NewRemoteAreaRow {
  id?: Id<"remote_area">
  name: string
  country: string
  from_code: string
  to_code: string
}

export interface NewReturnIntentRow {
  id?: Id<"return_intent">
  warehouse_id: Id<"warehouse">
  order_id: Id<"sales_order">
  number: number
  intent_id?: Id<"buy_intent"> | null
  service_id: Id<"service">
  tariff_version_id: Id<"tariff_version">
  once_key: string
  idempotency_key: string
  state?: "open" | "booked" | "refused" | "differs" | "voiding" | "void"
  expected_amount: string | number
  currency: string
  paid: "at-once" | "when-scanned"
  valid_until: LocalDate | Date
  request: string
  charges: string
  models: string
  goods: string
  answer?: string | null
  trouble?: string | null
  prints: Flag
  mail_to?: string
  master_tracking?: string | null
  created_at: Date
  answered_at?: Date | null
  scanned_at?: Date | null
  asked_at?: Date | null
  user_id?: Id<"user"> | null
  bench_id?: Id<"bench"> | null
  actor: string
}

export interface NewRoundStopRow {
  id?: Id<"round_stop">
  warehouse_id: Id<"warehouse">
  collection_id: Id<"collection">
  order_id: Id<"sales_order">
  position: number
  state?: "planned" | "delivered" | "not-delivered"
  name?: string
  reason?: string
  strokes?: string | null
  told_at?: Date | null
  told_by?: string
}

export interface NewRuleRow {
  id?: Id<"rule">
  name: string
  position: number
  is_on?: Flag
  body: string
  version?: number
}

export interface NewSalesOrderRow {
  id?: Id<"sales_order">
  warehouse_id: Id<"warehouse">
  source_id: Id<"order_source">
  source_number: string
  order_number: string
  customer_id?: Id<"customer"> | null
  customer_name: string
  po_number: string
  ordered_on: LocalDate | Date
  promised_on?: LocalDate | Date | null
  company: string
  attention: string
  street: string
  street2: string
  city: string
  state: string
  postal_code: string
  country: string
  phone: string
  address_kind: "unknown" | "business" | "residential"
  notes: string
  content_hash: string
  received_at: Date
  refused_rows: string
  held_by_hand?: Flag
  collection_id?: Id<"collection"> | null
  planned_service_id?: Id<"service"> | null
  next_package?: number
  version?: number
  incoterm?: string
  incoterm_place?: string
  currency?: string
  left_line_at?: Date | null
  intake_id?: Id<"intake_file"> | null
  ship_on?: LocalDate | Date | null
  source_state?: string
  record_url?: string
  source_waits?: Flag
  cancelled_at?: Date | null
  kind_confirmed?: Flag
  building?: string
  instructions?: string
  opening_hours?: string
  dock?: "unknown" | "yes" | "no"
  forklift?: "unknown" | "yes" | "no"
  words_of?: number
  must_collection_id?: Id<"collection"> | null
  chosen_collection_id?: Id<"collection"> | null
  chosen_service_id?: Id<"service"> | null
  planned_packages?: number
  settings?: string | null
  pattern_id?: Id<"shipping_pattern"> | null
  joined_to_id?: Id<"sales_order"> | null
  ship_to_key?: string | null
  part?: number
  split_from_id?: Id<"sales_order"> | null
  came_to_id?: Id<"warehouse"> | null
  priority?: number
  service_asked?: string
  freight_paid?: string | number | null
  chosen_ship_on?: LocalDate | Date | null
  lines_changed_at?: Date | null
  joined_for?: string | null
  by_hand?: string | null
  message?: string
  advice_taken?: string | null
}

export interface NewScaleRow {
  id?: Id<"scale">
  warehouse_id: Id<"warehouse">
  name: string
  host: string
  port: number
  active?: Flag
}

export interface NewScanRow {
  id: string
  at: Date
  user_id: Id<"user">
  place: string
  text: string
  outcome: string
}

export interface NewScreeningEntryRow {
  id?: Id<"screening_entry">
  list: string
  reference: string
  name: string
  street: string
  city: string
  country: string
}

export interface NewServiceRow {
  id?: Id<"service">
  carrier_id: Id<"carrier">
  code: string
  name: string
  mode?: "parcel" | "post" | "freight" | "air" | "groupage" | "own"
  returns?: Flag
}

export interface NewSessionRow {
  token_hash: string
  user_id: Id<"user">
  created_at: Date
  seen_at: Date
  expires_at: Date
  warehouse_id?: Id<"warehouse"> | null
}

export interface NewShipmentRow {
  id?: Id<"shipment">
  order_id: Id<"sales_order">
  warehouse_id: Id<"warehouse">
  state?: "open" | "buying" | "bought" | "voiding" | "void"
  version?: number
  service_id?: Id<"service"> | null
  collection_id?: Id<"collection"> | null
  ship_date?: LocalDate | Date | null
  master_tracking?: string | null
  currency?: string | null
  list_amount?: string | number | null
  contract_amount?: string | number | null
  arrives_on?: LocalDate | Date | null
  bought_at?: Date | null
  trouble?: string | null
  wishes?: string
  tariff_version_id?: Id<"tariff_version"> | null
  charged_by_hand?: string | null
  charged_amount?: string | number | null
  charged_why?: string | null
  lading?: string
  exchange?: string | null
}

export interface NewShippingPatternRow {
  id?: Id<"shipping_pattern">
  name: string
  body: string
  version?: number
}

export interface NewShippingRunRow {
  id?: Id<"shipping_run">
  warehouse_id: Id<"warehouse">
  once_key: string
  rule: string
  state?: "open" | "buying" | "paused"
  made_by: string
  made_at: Date
  name?: string
  origin?: string
  prints?: "after" | "each" | "later"
  print_order?: "packing" | "doors"
  parts?: number
  bought_by_id?: Id<"user"> | null
  bought_by?: string | null
  bought_at?: Date | null
  ended_at?: Date | null
  seen_at?: Date | null
  put_away_at?: Date | null
  bench_id?: Id<"bench"> | null
}

export interface NewShippingRunOrderRow {
  run_id: Id<"shipping_run">
  order_id: Id<"sales_order">
  state?: "waiting" | "rated" | "refused" | "failed" | "asked" | "buying" | "bought"
  chosen?: string | null
  offers?: string
  reasons?: string
  position?: number
  pack?: Flag
  rated_version?: number | null
  rated_at?: Date | null
  intent_id?: Id<"buy_intent"> | null
  collection_id?: Id<"collection"> | null
}

export interface NewSignInSettingRow {
  id: Id<"sign_in_setting">
  idle_minutes?: number
  longest_hours?: number
}

export interface NewStockRow {
  id?: Id<"stock">
  warehouse_id: Id<"warehouse">
  bin_id: Id<"bin">
  item_id: Id<"item">
  lot_id?: Id<"lot"> | null
  on_hand: number
  allocated?: number
  to_count?: Flag
}

export interface NewStockMovementRow {
  id?: Id<"stock_movement"> | string
  stock_id: Id<"stock">
  quantity: number
  cause: "opening" | "receipt" | "pick" | "put-back" | "transfer" | "adjustment" | "count" | "return" | "scrap"
  at: Date
  user_id?: Id<"user"> | null
  order_id?: Id<"sales_order"> | null
  note?: string
  move_key?: string | null
}

export interface NewTariffRow {
  id?: Id<"tariff">
  service_id: Id<"service">
  valid_from: LocalDate | Date
  body: string
  revision?: number
}

export interface NewTariffVersionRow {
  id?: Id<"tariff_version">
  carrier_id: Id<"carrier">
  number: number
  state?: "draft" | "released" | "withdrawn"
  valid_from: LocalDate | Date
  valid_to?: LocalDate | Date | null
  body: string
  revision?: number
  made_by: string
  made_at: Date
  released_by?: string | null
  released_at?: Date | null
}

export interface NewTellingBlockRow {
  address_hash: string
  why: "unsubscribed" | "bounced" | "erased"
  at: Date
}

export interface NewTellingTopicRow {
  topic: string
  is_on: Flag
}

export interface NewToteRow {
  id?: Id<"tote">
  warehouse_id: Id<"warehouse">
  code: string
  cart_id?: Id<"cart"> | null
  position?: number
  litres?: string | number
  order_id?: Id<"sales_order"> | null
  run_id?: Id<"pick_run"> | null
}

export interface NewTrackedUnitRow {
  id?: Id<"tracked_unit">
  warehouse_id: Id<"warehouse">
  order_id: Id<"sales_order">
  kind: "package" | "elsewhere" | "return"
  package_id?: Id<"package"> | null
  return_id?: number | null
  piece: number
  carrier_id?: Id<"carrier"> | null
  service_id?: Id<"service"> | null
  carrier?: string
  tracking: string
  master?: string
  name: string
  zone: string
  lane?: string
  shipped_on?: LocalDate | Date | null
  arrives_on?: LocalDate | Date | null
  due_on?: LocalDate | Date | null
  left_at?: Date | null
  state?:
    | "announced"
    | "accepted"
    | "in-transit"
    | "in-customs"
    | "out-for-delivery"
    | "attempted"
    | "ready"
    | "held"
    | "returning"
    | "returned"
    | "lost"
    | "delivered"
  since?: Date | null
  seen_at?: Date | null
  place?: string
  estimated_on?: LocalDate | Date | null
  delivered_at?: Date | null
  delivered_to?: string
  void_at?: Date | null
  measured?: Flag
  look_at?: Date | null
}

export interface NewTrackingCaseRow {
  id?: Id<"tracking_case">
  warehouse_id: Id<"warehouse">
  order_id: Id<"sales_order">
  unit_id: Id<"tracked_unit">
  kind: string
  since_key: string
  figures: string
  opened_at: Date
  state?: "open" | "watched" | "let-go" | "over"
  watch_until?: Date | null
  note?: string
  told_by?: string
  told_at?: Date | null
}

export interface NewTrackingCodeRow {
  carrier_id: Id<"carrier">
  code: string
  kind?: string | null
  text?: string
  first_at: Date
}

export interface NewTrackingEventRow {
  id?: Id<"tracking_event"> | string
  once_key: string
  carrier_id?: Id<"carrier"> | null
  unit_id?: number | null
  way: "pulled" | "pushed" | "own" | "typed"
  tracking?: string
  master?: string
  code: string
  kind?: string | null
  at: Date
  zone_offset?: number
  place?: string
  postal_code?: string
  country?: string
  text?: string
  estimated_on?: LocalDate | Date | null
  name?: string
  strokes?: string | null
  picture?: Buffer | null
  picture_media?: string | null
  taken_at: Date
  known?: Flag
}

export interface NewTrackingFileRow {
  id?: Id<"tracking_file">
  warehouse_id: Id<"warehouse">
  name: string
  state?: "preview" | "taking" | "done"
  made_at: Date
  made_by: string
  user_id?: Id<"user"> | null
}

export interface NewTrackingReaddressRow {
  id?: Id<"tracking_readdress">
  unit_id: Id<"tracked_unit">
  once_key: string
  address: string
  state?: "waiting" | "taken" | "refused"
  trouble?: string | null
  asked_at: Date
  asked_by: string
  answered_at?: Date | null
}

export interface NewTrackingRowRow {
  id?: Id<"tracking_row">
  file_id: Id<"tracking_file">
  line: number
  order_number: string
  order_id?: Id<"sales_order"> | null
  body: string
  state: "good" | "refused" | "taken"
  why?: string | null
}

export interface NewUserRow {
  id?: Id<"user">
  username: string
  name: string
  role: "clerk" | "lead" | "sales" | "administrator"
  password_hash: string
  warehouse_id: Id<"warehouse">
  active?: Flag
  language?: string
  clock?: string
}

export interface NewUserWarehouseRow {
  user_id: Id<"user">
  warehouse_id: Id<"warehouse">
}

export interface NewVagueWordRow {
  word: string
  added_by: string
  added_at: Date
}

export interface NewWarehouseRow {
  id: Id<"warehouse">
  code: string
  name: string
  zone: string
  company: string
  street: string
  city: string
  state: string
  postal_code: string
  country: string
  phone: string
  hands?: number
  at_work?: Flag
  gln: string
  gs1_prefix: string
  sscc_extension?: number
  sscc_serial?: number | string
  order_serial?: number
  work_per_order: string | number
  work_per_bin: string | number
  work_per_line: string | number
  work_per_package: string | number
  work_source: string
  work_per_paper?: string | number
  hand_hour?: string | number
  currency?: string
  leave_policy?: "soonest" | "latest"
  version?: number
  floor_plan?: string | null
  plan_version?: number
  scan_steps?: string
  slip?: string
  weight_tolerance?: string | number
  email?: string
  pack_in_runs?: Flag
  weigh_all?: Flag
  fill_share?: string | number
  keep_together?: "no" | "lines" | "lots"
  heavy_first?: Flag
  cold_last?: Flag
  shipper?: string
  signature?: Buffer | null
  closing_wait?: number
  quiet_from?: string
  quiet_to?: string
  quiet_mail?: Flag
}

export interface NewWorkDoneRow {
  order_id: Id<"sales_order">
  warehouse_id: Id<"warehouse">
  at: Date
  bins: number
  order_lines: number
  packages: number
  papers: number
  predicted_pick: string | number
  predicted_pack: string | number
  predicted_papers: string | number
}

export interface NewWorkMeasureRow {
  order_id: Id<"sales_order">
  kind: "pick" | "pack" | "papers"
  user_id: Id<"user">
  began_at: Date
  last_at: Date
  active_s?: string | number
  acts?: number
}

export interface NewWorkPeriodRow {
  id?: Id<"work_period">
  warehouse_id: Id<"warehouse">
  kind: "shift" | "break"
  starts: LocalTime
  ends: LocalTime
  hands?: number | null
}

export interface NewZoneChartRow {
  id?: Id<"zone_chart">
  carrier_id: Id<"carrier">
  origin: string
  body: string
  revision?: number
}

declare module "knex/types/tables.js" {
  interface Tables {
    address_book: Knex.CompositeTableType<AddressBookRow, NewAddressBookRow, Changed<NewAddressBookRow>>
    address_word: Knex.CompositeTableType<AddressWordRow, NewAddressWordRow, Changed<NewAddressWordRow>>
    allocation: Knex.CompositeTableType<AllocationRow, NewAllocationRow, Changed<NewAllocationRow>>
    api_request: Knex.CompositeTableType<ApiRequestRow, NewApiRequestRow, Changed<NewApiRequestRow>>
    api_token: Knex.CompositeTableType<ApiTokenRow, NewApiTokenRow, Changed<NewApiTokenRow>>
    audit: Knex.CompositeTableType<AuditRow, NewAuditRow, Changed<NewAuditRow>>
    bench: Knex.CompositeTableType<BenchRow, NewBenchRow, Changed<NewBenchRow>>
    bin: Knex.CompositeTableType<BinRow, NewBinRow, Changed<NewBinRow>>
    booked_collection: Knex.CompositeTableType<
      BookedCollectionRow,
      NewBookedCollectionRow,
      Changed<NewBookedCollectionRow>
    >
    business_clock: Knex.CompositeTableType<BusinessClockRow, NewBusinessClockRow, Changed<NewBusinessClockRow>>
    buy_intent: Knex.CompositeTableType<BuyIntentRow, NewBuyIntentRow, Changed<NewBuyIntentRow>>
    carrier: Knex.CompositeTableType<CarrierRow, NewCarrierRow, Changed<NewCarrierRow>>
    cart: Knex.CompositeTableType<CartRow, NewCartRow, Changed<NewCartRow>>
    change_notice: Knex.CompositeTableType<ChangeNoticeRow, NewChangeNoticeRow, Changed<NewChangeNoticeRow>>
    charge: Knex.CompositeTableType<ChargeRow, NewChargeRow, Changed<NewChargeRow>>
    charging_rule: Knex.CompositeTableType<ChargingRuleRow, NewChargingRuleRow, Changed<NewChargingRuleRow>>
    claim: Knex.CompositeTableType<ClaimRow, NewClaimRow, Changed<NewClaimRow>>
    claim_photo: Knex.CompositeTableType<ClaimPhotoRow, NewClaimPhotoRow, Changed<NewClaimPhotoRow>>
    closing_address: Knex.CompositeTableType<ClosingAddressRow, NewClosingAddressRow, Changed<NewClosingAddressRow>>
    closing_form: Knex.CompositeTableType<ClosingFormRow, NewClosingFormRow, Changed<NewClosingFormRow>>
    collection: Knex.CompositeTableType<CollectionRow, NewCollectionRow, Changed<NewCollectionRow>>
    collection_rule: Knex.CompositeTableType<CollectionRuleRow, NewCollectionRuleRow, Changed<NewCollectionRuleRow>>
    count_task: Knex.CompositeTableType<CountTaskRow, NewCountTaskRow, Changed<NewCountTaskRow>>
    customer: Knex.CompositeTableType<CustomerRow, NewCustomerRow, Changed<NewCustomerRow>>
    customer_contact: Knex.CompositeTableType<CustomerContactRow, NewCustomerContactRow, Changed<NewCustomerContactRow>>
    customer_message: Knex.CompositeTableType<CustomerMessageRow, NewCustomerMessageRow, Changed<NewCustomerMessageRow>>
    day_exception: Knex.CompositeTableType<DayExceptionRow, NewDayExceptionRow, Changed<NewDayExceptionRow>>
    delivery: Knex.CompositeTableType<DeliveryRow, NewDeliveryRow, Changed<NewDeliveryRow>>
    delivery_leg: Knex.CompositeTableType<DeliveryLegRow, NewDeliveryLegRow, Changed<NewDeliveryLegRow>>
    document: Knex.CompositeTableType<DocumentRow, NewDocumentRow, Changed<NewDocumentRow>>
    drop_place: Knex.CompositeTableType<DropPlaceRow, NewDropPlaceRow, Changed<NewDropPlaceRow>>
    duty_rate: Knex.CompositeTableType<DutyRateRow, NewDutyRateRow, Changed<NewDutyRateRow>>
    edi_message: Knex.CompositeTableType<EdiMessageRow, NewEdiMessageRow, Changed<NewEdiMessageRow>>
    exchange_rate: Knex.CompositeTableType<ExchangeRateRow, NewExchangeRateRow, Changed<NewExchangeRateRow>>
    goods_return: Knex.CompositeTableType<GoodsReturnRow, NewGoodsReturnRow, Changed<NewGoodsReturnRow>>
    goods_return_finding: Knex.CompositeTableType<
      GoodsReturnFindingRow,
      NewGoodsReturnFindingRow,
      Changed<NewGoodsReturnFindingRow>
    >
    goods_return_line: Knex.CompositeTableType<
      GoodsReturnLineRow,
      NewGoodsReturnLineRow,
      Changed<NewGoodsReturnLineRow>
    >
    goods_return_package: Knex.CompositeTableType<
      GoodsReturnPackageRow,
      NewGoodsReturnPackageRow,
      Changed<NewGoodsReturnPackageRow>
    >
    group_change: Knex.CompositeTableType<GroupChangeRow, NewGroupChangeRow, Changed<NewGroupChangeRow>>
    group_change_order: Knex.CompositeTableType<
      GroupChangeOrderRow,
      NewGroupChangeOrderRow,
      Changed<NewGroupChangeOrderRow>
    >
    handed_over: Knex.CompositeTableType<HandedOverRow, NewHandedOverRow, Changed<NewHandedOverRow>>
    import_rule: Knex.CompositeTableType<ImportRuleRow, NewImportRuleRow, Changed<NewImportRuleRow>>
    intake_file: Knex.CompositeTableType<IntakeFileRow, NewIntakeFileRow, Changed<NewIntakeFileRow>>
    intake_order: Knex.CompositeTableType<IntakeOrderRow, NewIntakeOrderRow, Changed<NewIntakeOrderRow>>
    intake_refusal: Knex.CompositeTableType<IntakeRefusalRow, NewIntakeRefusalRow, Changed<NewIntakeRefusalRow>>
    intake_row: Knex.CompositeTableType<IntakeRowRow, NewIntakeRowRow, Changed<NewIntakeRowRow>>
    item: Knex.CompositeTableType<ItemRow, NewItemRow, Changed<NewItemRow>>
    item_hs_code: Knex.CompositeTableType<ItemHsCodeRow, NewItemHsCodeRow, Changed<NewItemHsCodeRow>>
    item_level: Knex.CompositeTableType<ItemLevelRow, NewItemLevelRow, Changed<NewItemLevelRow>>
    job: Knex.CompositeTableType<JobRow, NewJobRow, Changed<NewJobRow>>
    known_device: Knex.CompositeTableType<KnownDeviceRow, NewKnownDeviceRow, Changed<NewKnownDeviceRow>>
    lot: Knex.CompositeTableType<LotRow, NewLotRow, Changed<NewLotRow>>
    mail: Knex.CompositeTableType<MailRow, NewMailRow, Changed<NewMailRow>>
    message_template: Knex.CompositeTableType<MessageTemplateRow, NewMessageTemplateRow, Changed<NewMessageTemplateRow>>
    order_change: Knex.CompositeTableType<OrderChangeRow, NewOrderChangeRow, Changed<NewOrderChangeRow>>
    order_customs: Knex.CompositeTableType<OrderCustomsRow, NewOrderCustomsRow, Changed<NewOrderCustomsRow>>
    order_draft: Knex.CompositeTableType<OrderDraftRow, NewOrderDraftRow, Changed<NewOrderDraftRow>>
    order_freight: Knex.CompositeTableType<OrderFreightRow, NewOrderFreightRow, Changed<NewOrderFreightRow>>
    order_invoice: Knex.CompositeTableType<OrderInvoiceRow, NewOrderInvoiceRow, Changed<NewOrderInvoiceRow>>
    order_line: Knex.CompositeTableType<OrderLineRow, NewOrderLineRow, Changed<NewOrderLineRow>>
    order_note: Knex.CompositeTableType<OrderNoteRow, NewOrderNoteRow, Changed<NewOrderNoteRow>>
    order_party: Knex.CompositeTableType<OrderPartyRow, NewOrderPartyRow, Changed<NewOrderPartyRow>>
    order_reference: Knex.CompositeTableType<OrderReferenceRow, NewOrderReferenceRow, Changed<NewOrderReferenceRow>>
    order_source: Knex.CompositeTableType<OrderSourceRow, NewOrderSourceRow, Changed<NewOrderSourceRow>>
    order_stop: Knex.CompositeTableType<OrderStopRow, NewOrderStopRow, Changed<NewOrderStopRow>>
    order_tag: Knex.CompositeTableType<OrderTagRow, NewOrderTagRow, Changed<NewOrderTagRow>>
    order_telling: Knex.CompositeTableType<OrderTellingRow, NewOrderTellingRow, Changed<NewOrderTellingRow>>
    order_view: Knex.CompositeTableType<OrderViewRow, NewOrderViewRow, Changed<NewOrderViewRow>>
    order_waiver: Knex.CompositeTableType<OrderWaiverRow, NewOrderWaiverRow, Changed<NewOrderWaiverRow>>
    order_word: Knex.CompositeTableType<OrderWordRow, NewOrderWordRow, Changed<NewOrderWordRow>>
    outbox: Knex.CompositeTableType<OutboxRow, NewOutboxRow, Changed<NewOutboxRow>>
    outside_order: Knex.CompositeTableType<OutsideOrderRow, NewOutsideOrderRow, Changed<NewOutsideOrderRow>>
    outside_service: Knex.CompositeTableType<OutsideServiceRow, NewOutsideServiceRow, Changed<NewOutsideServiceRow>>
    outside_warehouse: Knex.CompositeTableType<
      OutsideWarehouseRow,
      NewOutsideWarehouseRow,
      Changed<NewOutsideWarehouseRow>
    >
    own_paper: Knex.CompositeTableType<OwnPaperRow, NewOwnPaperRow, Changed<NewOwnPaperRow>>
    package: Knex.CompositeTableType<PackageRow, NewPackageRow, Changed<NewPackageRow>>
    package_content: Knex.CompositeTableType<PackageContentRow, NewPackageContentRow, Changed<NewPackageContentRow>>
    package_lot: Knex.CompositeTableType<PackageLotRow, NewPackageLotRow, Changed<NewPackageLotRow>>
    packaging: Knex.CompositeTableType<PackagingRow, NewPackagingRow, Changed<NewPackagingRow>>
    packaging_stock: Knex.CompositeTableType<PackagingStockRow, NewPackagingStockRow, Changed<NewPackagingStockRow>>
    pick_run: Knex.CompositeTableType<PickRunRow, NewPickRunRow, Changed<NewPickRunRow>>
    pick_run_order: Knex.CompositeTableType<PickRunOrderRow, NewPickRunOrderRow, Changed<NewPickRunOrderRow>>
    pick_run_person: Knex.CompositeTableType<PickRunPersonRow, NewPickRunPersonRow, Changed<NewPickRunPersonRow>>
    pick_short: Knex.CompositeTableType<PickShortRow, NewPickShortRow, Changed<NewPickShortRow>>
    pick_take: Knex.CompositeTableType<PickTakeRow, NewPickTakeRow, Changed<NewPickTakeRow>>
    preference: Knex.CompositeTableType<PreferenceRow, NewPreferenceRow, Changed<NewPreferenceRow>>
    presence: Knex.CompositeTableType<PresenceRow, NewPresenceRow, Changed<NewPresenceRow>>
    printer: Knex.CompositeTableType<PrinterRow, NewPrinterRow, Changed<NewPrinterRow>>
    printer_use: Knex.CompositeTableType<PrinterUseRow, NewPrinterUseRow, Changed<NewPrinterUseRow>>
    print_job: Knex.CompositeTableType<PrintJobRow, NewPrintJobRow, Changed<NewPrintJobRow>>
    quote: Knex.CompositeTableType<QuoteRow, NewQuoteRow, Changed<NewQuoteRow>>
    rate_limit: Knex.CompositeTableType<RateLimitRow, NewRateLimitRow, Changed<NewRateLimitRow>>
    receiver_link: Knex.CompositeTableType<ReceiverLinkRow, NewReceiverLinkRow, Changed<NewReceiverLinkRow>>
    remote_area: Knex.CompositeTableType<RemoteAreaRow, NewRemoteAreaRow, Changed<NewRemoteAreaRow>>
    return_intent: Knex.CompositeTableType<ReturnIntentRow, NewReturnIntentRow, Changed<NewReturnIntentRow>>
    round_stop: Knex.CompositeTableType<RoundStopRow, NewRoundStopRow, Changed<NewRoundStopRow>>
    rule: Knex.CompositeTableType<RuleRow, NewRuleRow, Changed<NewRuleRow>>
    sales_order: Knex.CompositeTableType<SalesOrderRow, NewSalesOrderRow, Changed<NewSalesOrderRow>>
    scale: Knex.CompositeTableType<ScaleRow, NewScaleRow, Changed<NewScaleRow>>
    scan: Knex.CompositeTableType<ScanRow, NewScanRow, Changed<NewScanRow>>
    screening_entry: Knex.CompositeTableType<ScreeningEntryRow, NewScreeningEntryRow, Changed<NewScreeningEntryRow>>
    service: Knex.CompositeTableType<ServiceRow, NewServiceRow, Changed<NewServiceRow>>
    session: Knex.CompositeTableType<SessionRow, NewSessionRow, Changed<NewSessionRow>>
    shipment: Knex.CompositeTableType<ShipmentRow, NewShipmentRow, Changed<NewShipmentRow>>
    shipping_pattern: Knex.CompositeTableType<ShippingPatternRow, NewShippingPatternRow, Changed<NewShippingPatternRow>>
    shipping_run: Knex.CompositeTableType<ShippingRunRow, NewShippingRunRow, Changed<NewShippingRunRow>>
    shipping_run_order: Knex.CompositeTableType<
      ShippingRunOrderRow,
      NewShippingRunOrderRow,
      Changed<NewShippingRunOrderRow>
    >
    sign_in_setting: Knex.CompositeTableType<SignInSettingRow, NewSignInSettingRow, Changed<NewSignInSettingRow>>
    stock: Knex.CompositeTableType<StockRow, NewStockRow, Changed<NewStockRow>>
    stock_movement: Knex.CompositeTableType<StockMovementRow, NewStockMovementRow, Changed<NewStockMovementRow>>
    tariff: Knex.CompositeTableType<TariffRow, NewTariffRow, Changed<NewTariffRow>>
    tariff_version: Knex.CompositeTableType<TariffVersionRow, NewTariffVersionRow, Changed<NewTariffVersionRow>>
    telling_block: Knex.CompositeTableType<TellingBlockRow, NewTellingBlockRow, Changed<NewTellingBlockRow>>
    telling_topic: Knex.CompositeTableType<TellingTopicRow, NewTellingTopicRow, Changed<NewTellingTopicRow>>
    tote: Knex.CompositeTableType<ToteRow, NewToteRow, Changed<NewToteRow>>
    tracked_unit: Knex.CompositeTableType<TrackedUnitRow, NewTrackedUnitRow, Changed<NewTrackedUnitRow>>
    tracking_case: Knex.CompositeTableType<TrackingCaseRow, NewTrackingCaseRow, Changed<NewTrackingCaseRow>>
    tracking_code: Knex.CompositeTableType<TrackingCodeRow, NewTrackingCodeRow, Changed<NewTrackingCodeRow>>
    tracking_event: Knex.CompositeTableType<TrackingEventRow, NewTrackingEventRow, Changed<NewTrackingEventRow>>
    tracking_file: Knex.CompositeTableType<TrackingFileRow, NewTrackingFileRow, Changed<NewTrackingFileRow>>
    tracking_readdress: Knex.CompositeTableType<
      TrackingReaddressRow,
      NewTrackingReaddressRow,
      Changed<NewTrackingReaddressRow>
    >
    tracking_row: Knex.CompositeTableType<TrackingRowRow, NewTrackingRowRow, Changed<NewTrackingRowRow>>
    user: Knex.CompositeTableType<UserRow, NewUserRow, Changed<NewUserRow>>
    user_warehouse: Knex.CompositeTableType<UserWarehouseRow, NewUserWarehouseRow, Changed<NewUserWarehouseRow>>
    vague_word: Knex.CompositeTableType<VagueWordRow, NewVagueWordRow, Changed<NewVagueWordRow>>
    warehouse: Knex.CompositeTableType<WarehouseRow, NewWarehouseRow, Changed<NewWarehouseRow>>
    work_done: Knex.CompositeTableType<WorkDoneRow, NewWorkDoneRow, Changed<NewWorkDoneRow>>
    work_measure: Knex.CompositeTableType<WorkMeasureRow, NewWorkMeasureRow, Changed<NewWorkMeasureRow>>
    work_period: Knex.CompositeTableType<WorkPeriodRow, NewWorkPeriodRow, Changed<NewWorkPeriodRow>>
    zone_chart: Knex.CompositeTableType<ZoneChartRow, NewZoneChartRow, Changed<NewZoneChartRow>>
  }
}
