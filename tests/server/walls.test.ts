import { randomUUID } from "node:crypto"
import { readFileSync } from "node:fs"
import { dirname, join } from "node:path"
import { RouterContextProvider } from "react-router"
import { type Role, roles } from "server/actors/index.ts"
import { changeGroup } from "server/decisions/group.ts"
import { type Work, workContext } from "server/http/context.ts"
import { previewFile } from "server/intake/read.ts"
import { makeRuns } from "server/picking/buildRuns.ts"
import { quoteAsked } from "server/quotes/asked.ts"
import { makeQuote } from "server/quotes/index.ts"
import { setReturnBin } from "server/returns/onward.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { makeRun } from "server/shippingRuns/make.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { newId, there } from "../../server/db/there.ts"
import { actsIn } from "../acts.ts"
import { as, askForLabels, file, openRig, type Rig, readyToBuy, row, takeFile, value, workAll } from "./rig.ts"

/**
 * Every route of the application with every role, and with the numbers of a warehouse that is not one's own. A route or
 * an act of a route that is not listed here fails: whoever adds one says who may do it.
 */
type Fields = Readonly<Record<string, string | number>>
interface Act {
  readonly does: string
  readonly fields?: Fields | (() => Fields)
  /** Roles that may; all who are signed in where it is not said. */
  readonly may?: readonly Role[]
  /** Done by somebody who may, at the warehouse where it is, this changes something: then the walls hold something up. */
  readonly moves?: true
  /** Nobody who may not gets as far as a refusal for another reason. */
  readonly strict?: true
}
interface Listed {
  readonly params?: () => Record<string, string>
  /** Roles that may look; all who are signed in where it is not said, nobody for a route without a page. */
  readonly see?: readonly Role[]
  /** What it shows is one thing of a warehouse: to others it is not there. */
  readonly own?: true
  readonly acts?: readonly Act[]
  /** Where the acts of the route are written, beside the route itself. */
  readonly actsIn?: string
}

const floorRoles: readonly Role[] = ["clerk", "lead", "administrator"]
const leads: readonly Role[] = ["lead", "administrator"]
const admin: readonly Role[] = ["administrator"]
const everybody = roles
const acts = (may: readonly Role[], ...names: string[]): Act[] => names.map((does) => ({ does, may }))

/** Acts on a form of a truck. */
const formActs: Act[] = [
  { does: "form-send", fields: () => ({ formId: at.form }), may: floorRoles, moves: true },
  { does: "form-again", fields: () => ({ formId: at.refused }), may: floorRoles, moves: true },
  { does: "form-settle", fields: () => ({ formId: at.settling, note: "by telephone" }), may: leads, moves: true },
  { does: "form-discard", fields: () => ({ formId: at.discarding }), may: leads, moves: true },
  { does: "form-print", fields: () => ({ document: at.document, name: "x" }), may: floorRoles, moves: true },
]

/** A collection as it is asked for. */
const ask = {
  door: "4",
  day: "2026-11-25",
  ready: "09:00",
  latest: "15:00",
  pieces: 1,
  weight: "12",
  contact: "Maren",
  fee: "12.50",
}

/** What the test stands on: things of Duluth, and somebody who works at Reno alone. */
const at = {
  tracking: 0,
  booking: 0,
  case: 0,
  told: 0,
  report: 0,
  goes: 0,
  unit: 0,
  event: 0,
  comes: 0,
  photo: 0,
  comesLate: 0,
  finding: 0,
  message: 0,
  van: 0,
  acknowledging: 0,
  form: 0,
  refused: 0,
  settling: 0,
  discarding: 0,
  closed: 0,
  sent: 0,
  final: 0,
  supplement: 0,
  empty: 0,
  waiting: { collection: 0, package: 0 },
  order: { id: 0, orderNumber: "" },
  packed: { id: 0, orderNumber: "", version: 0 },
  labelled: { id: 0, orderNumber: "", package: 0, name: "" },
  collection: 0,
  run: 0,
  runOrder: 0,
  day: 0,
  quote: "",
  quoteId: 0,
  shippingRun: 0,
  intake: 0,
  document: 0,
  ownPaper: 0,
  back: 0,
  count: 0,
  view: 0,
  note: 0,
  stock: { id: 0, bin: "" },
  group: "",
  draft: "",
  job: 0,
}
const rig = () => ({ orderNumber: at.order.orderNumber })

const listed: Readonly<Record<string, Listed>> = {
  "sign-in.tsx": {},
  "sign-out.ts": {},
  "layout.tsx": {},
  "active.ts": { acts: [{ does: "" }] },
  "account.tsx": {
    acts: [
      ...acts(everybody, "password", "reader"),
      { does: "bench", fields: { bench: 1 }, may: floorRoles },
      ...acts(floorRoles, "own-printers", "preferences"),
    ],
  },
  "day.tsx": {
    acts: [
      { does: "hands", fields: { hands: 3 }, may: floorRoles, moves: true },
      { does: "hold", fields: () => ({ order: at.day }), may: floorRoles, moves: true },
      ...acts(floorRoles, "advice", "undo"),
    ],
  },
  "scan.ts": { acts: [{ does: "", fields: { text: "zzz" } }] },
  "live.ts": {},
  "warehouse.ts": { acts: [{ does: "", fields: { warehouse: 999 }, may: [] }] },
  "orders.tsx": {
    acts: [
      { does: "keep-view", fields: { name: "mine", filter: "" } },
      { does: "drop-view", fields: () => ({ id: at.view, view: at.view }) },
      {
        does: "group",
        fields: () => ({ key: randomUUID(), what: "tag", tag: "walls", order: at.order.id }),
        may: floorRoles,
      },
      { does: "undo", fields: () => ({ group: at.group }), may: floorRoles },
    ],
  },
  "orders-csv.ts": {},
  "cheaper.tsx": {
    acts: [
      {
        does: "advice",
        fields: () => ({ order: at.order.id, ask: JSON.stringify({ kind: "payer" }), words: "x", key: "walls advice" }),
        may: floorRoles,
        moves: true,
        strict: true,
      },
      { does: "advice-back", fields: () => ({ order: at.order.id, key: "walls back" }), may: floorRoles, moves: true },
    ],
    actsIn: "app/parts/adviceActs.server.ts",
    see: everybody,
  },
  "joining.tsx": { acts: acts(floorRoles, "join", "part"), see: everybody },
  // an empty run of the own warehouse names nothing of another: it is asked for without its key here
  "shipping-runs.tsx": {
    see: floorRoles,
    acts: [
      { does: "start", fields: { key: "" }, may: floorRoles },
      { does: "from", fields: () => ({ pickRun: at.run }), may: floorRoles },
    ],
  },
  "run-papers.ts": { params: () => ({ run: String(at.shippingRun), paper: "slips" }), see: floorRoles, own: true },
  "shipping-run.tsx": {
    params: () => ({ run: String(at.shippingRun) }),
    see: floorRoles,
    own: true,
    actsIn: "app/shippingRuns/runActions.server.ts",
    acts: [
      {
        does: "group",
        fields: () => ({ key: randomUUID(), what: "tag", tag: "walls", order: at.order.id }),
        may: floorRoles,
      },
      { does: "undo", fields: () => ({ group: at.group }), may: floorRoles },
      ...acts(
        floorRoles,
        "prepare",
        "weigh",
        "scale",
        "save",
        "buy",
        "print",
        "print-paper",
        "pause",
        "resume",
        "stop",
        "give-up",
      ),
      ...acts(floorRoles, "seen", "put-away", "take-out"),
    ],
  },
  "quotes.tsx": { acts: [{ does: "", fields: { text: "zzz" } }] },
  "quote-new.tsx": { acts: acts(everybody, "quote") },
  "quote.tsx": {
    params: () => ({ number: at.quote }),
    own: true,
    acts: [
      { does: "mail", fields: { to: "x@example.com" } },
      { does: "ship", fields: { orderNumber: "00000", service: "LKG" }, may: floorRoles },
      { does: "withdraw", moves: true },
    ],
  },
  "quote-pdf.ts": { params: () => ({ number: at.quote }), own: true },
  "order-new.tsx": { see: floorRoles, acts: acts(floorRoles, "save", "take", "drop") },
  "look-up-items.ts": {},
  "hs-codes.ts": { see: floorRoles },
  "look-up-addresses.ts": {},
  "intake.tsx": { see: floorRoles, acts: [...acts(floorRoles, "ask", "seen")] },
  "intake-file.tsx": {
    params: () => ({ id: String(at.intake) }),
    see: floorRoles,
    own: true,
    acts: [
      ...acts(floorRoles, "retry"),
      { does: "correct", fields: { line: 2 }, may: floorRoles },
      { does: "take-in", may: floorRoles, moves: true },
    ],
  },
  "intake-refused.ts": { params: () => ({ id: String(at.intake) }), see: floorRoles },
  "order.tsx": {
    params: rig,
    own: true,
    actsIn: "app/orders/orderActions.server.ts",
    acts: [
      { does: "tag", fields: { tag: "walls" }, may: floorRoles, moves: true },
      { does: "note", fields: { note: "seen by nobody" }, may: floorRoles, moves: true },
      { does: "hold", may: floorRoles, moves: true },
      { does: "return-void", fields: () => ({ back: at.back, number: 1 }), may: floorRoles, moves: true },
      { does: "claim", fields: () => ({ unit: at.unit, kind: "loss" }), may: floorRoles, moves: true },
      { does: "freight-line", fields: { amount: "5.00", why: "walls" }, may: leads, strict: true },
      { does: "return-price", fields: { what: "whole", prints: "on" }, may: floorRoles },
      {
        does: "return-buy",
        fields: { asked: JSON.stringify({ ask: {}, handing: { prints: true, mailTo: "" } }), service: "LKR", key: "w" },
        may: floorRoles,
        strict: true,
      },
      { does: "drop-paper", fields: () => ({ paper: at.ownPaper }), may: floorRoles, moves: true },
      { does: "priority", fields: { priority: 1 }, may: floorRoles, moves: true },
      { does: "promise", fields: { promised_on: "2026-12-18" }, may: floorRoles, moves: true },
      { does: "address", fields: { street: "1 Other Street" }, may: floorRoles },
      { does: "release", may: leads, moves: true },
      { does: "cancel", may: leads },
      { does: "lines", fields: { version: 1, why: "walls", sku: "BUN-10", added: 1 }, may: leads },
      ...acts(
        floorRoles,
        "hand-over",
        "elsewhere",
        "tracked",
        "telling",
        "tell-ready",
        "party",
        "confirm",
        "to-book",
        "take-change",
        "keep-change",
        "untag",
        "void-cancel",
        "drop-note",
        "reroute",
        "split",
        "whole",
        "outside",
        "recall",
        "join",
        "part",
        "pattern",
        "check",
      ),
      ...acts(everybody, "propose", "pass"),
    ],
  },
  "runs.tsx": { see: floorRoles, acts: acts(floorRoles, "make") },
  "counts.tsx": {
    see: floorRoles,
    acts: [{ does: "count", fields: () => ({ task: at.count, counted: 1 }), may: floorRoles }],
  },
  "run.tsx": {
    params: () => ({ number: String(at.run) }),
    see: floorRoles,
    own: true,
    acts: [
      { does: "enter", may: floorRoles, moves: true },
      ...acts(floorRoles, "leave", "hand", "print", "pack", "break-up"),
    ],
  },
  "run-paper.ts": { params: () => ({ number: String(at.run), paper: "list" }), see: floorRoles, own: true },
  "pick.tsx": {
    params: rig,
    see: floorRoles,
    own: true,
    actsIn: "app/pick/pickActions.server.ts",
    acts: acts(floorRoles, "undo", "by-hand", "skip", "short"),
  },
  "pick-paper.ts": { params: rig, see: floorRoles, own: true },
  "shipment.tsx": {
    params: () => ({ orderNumber: at.packed.orderNumber }),
    see: floorRoles,
    own: true,
    actsIn: "app/shipment/shipmentActions.server.ts",
    acts: [
      { does: "reopen", fields: { number: 1 }, may: floorRoles, moves: true },
      { does: "add", fields: { packaging: "K12" }, may: floorRoles },
      { does: "charge", fields: { amount: "5.00", why: "walls" }, may: leads },
      { does: "void", may: floorRoles },
      {
        does: "customs",
        fields: { incoterm: "DAP", incoterm_place: "Walls", purpose: "gift" },
        may: floorRoles,
        moves: true,
      },
      ...acts(
        floorRoles,
        "customs-party",
        "line-customs",
        "lading",
        "lading-collected",
        "ask-declared",
        "ask-dry-ice",
        "ask-duties",
        "ask-hold",
        "ask-option",
        "ask-payer",
        "ask-return",
        "ask-stackable",
        "buy",
        "close",
        "copy",
        "empty",
        "fill-plan",
        "give-up",
        "print-labels",
        "mail-labels",
        "test-label",
        "return-price",
        "return-buy",
        "return-void",
        "merge",
        "move",
        "one-off",
        "override",
        "own-cartons",
        "palletise",
        "partial",
        "print",
        "put",
        "put-again",
        "recount",
        "remove",
        "advice",
        "advice-back",
        "resize",
        "scale",
        "ship-date",
        "split",
        "split-off",
        "stand-on",
        "suggested",
        "take-apart",
        "whole",
        "weigh",
      ),
    ],
  },
  "shipment-paper.ts": {
    params: () => ({ orderNumber: at.packed.orderNumber, paper: "slips" }),
    see: floorRoles,
    own: true,
  },
  "master-bill.ts": { params: () => ({ collection: String(at.collection) }), see: floorRoles, own: true },
  "messages.tsx": {
    see: floorRoles,
    acts: [
      { does: "again", fields: () => ({ message: at.message }), may: floorRoles, moves: true },
      { does: "acknowledge", fields: () => ({ message: at.acknowledging }), may: floorRoles, moves: true },
    ],
  },
  "follow.tsx": {},
  "unsubscribe.tsx": {},
  "reports.tsx": {
    see: floorRoles,
    acts: [
      { does: "chosen", fields: () => ({ report: at.report }), may: floorRoles, moves: true },
      { does: "all", fields: { source: 1 }, may: floorRoles },
    ],
  },
  "customer-messages.tsx": {
    acts: [{ does: "again", fields: () => ({ message: at.told }), may: floorRoles, moves: true }],
  },
  "attention.tsx": {
    acts: [
      { does: "watch", fields: () => ({ case: at.case, until: "1d" }), may: floorRoles, moves: true },
      { does: "let-go", fields: () => ({ case: at.goes, note: "seen to" }), may: floorRoles, moves: true },
      { does: "address", fields: () => ({ unit: at.unit }), may: floorRoles },
      { does: "claim", fields: () => ({ unit: at.unit, kind: "shortage" }), may: floorRoles, moves: true },
    ],
  },
  "claims.tsx": { see: floorRoles },
  "claim.tsx": {
    params: () => ({ number: "9" }),
    see: floorRoles,
    own: true,
    acts: [
      { does: "save", fields: { kind: "damage", happened: "It is wet.", version: 1 }, may: floorRoles, moves: true },
      ...acts(floorRoles, "file", "drop-photo"),
      { does: "answer", fields: { to: "withdrawn", note: "walls" }, may: floorRoles, moves: true },
    ],
  },
  "claim-pdf.ts": { params: () => ({ number: "9" }), see: floorRoles, own: true },
  "claim-photo.ts": { params: () => ({ number: "9", photo: String(at.photo) }), see: floorRoles, own: true },
  "returns.tsx": {
    see: floorRoles,
    acts: [
      { does: "arrived", fields: () => ({ package: at.comes }), may: floorRoles, moves: true },
      ...acts(floorRoles, "unlabeled"),
    ],
  },
  "return.tsx": {
    params: () => ({ name: "W-R9" }),
    see: floorRoles,
    own: true,
    acts: [
      { does: "arrived", fields: () => ({ package: at.comesLate }), may: floorRoles, moves: true },
      {
        does: "count",
        fields: { found: JSON.stringify([{ goods: "a lamp", state: "other", quantity: 1 }]) },
        may: floorRoles,
        moves: true,
      },
      { does: "undo", fields: () => ({ finding: at.finding }), may: floorRoles, moves: true },
      { does: "onward", fields: () => ({ finding: at.finding, to: "back", quantity: 1 }), may: floorRoles },
      ...acts(floorRoles, "match", "close"),
      { does: "decline", fields: { why: "too late" }, may: leads, strict: true },
      { does: "finish", may: floorRoles, moves: true },
    ],
  },
  "picture.ts": {
    params: () => ({ orderNumber: at.labelled.orderNumber, event: String(at.event) }),
    own: true,
  },
  "templates.tsx": {
    see: leads,
    acts: acts(leads, "settings", "save", "reset", "preview", "test", "allow", "erase"),
  },
  "tracking.tsx": { see: admin, acts: acts(admin, "code", "secret", "end-pushes", "terms") },
  "message-file.ts": { params: () => ({ id: String(at.message) }), see: floorRoles, own: true },
  "rounds.tsx": { see: floorRoles },
  "round.tsx": {
    params: () => ({ collection: String(at.van) }),
    see: floorRoles,
    own: true,
    acts: [
      { does: "plan", may: floorRoles },
      { does: "sheet", may: floorRoles },
      { does: "note", fields: () => ({ outcome: "delivered", order: at.order.id }), may: floorRoles, moves: true },
    ],
  },
  "round-sheet.ts": { params: () => ({ collection: String(at.van) }), see: floorRoles, own: true },
  "staging.tsx": { see: floorRoles },
  "tracking-files.tsx": { see: floorRoles },
  "tracking-file.tsx": {
    params: () => ({ id: String(at.tracking) }),
    see: floorRoles,
    own: true,
    acts: [{ does: "take", may: floorRoles, moves: true }],
  },
  "tracking-refused.ts": { params: () => ({ id: String(at.tracking) }), see: floorRoles, own: true },
  "forms.tsx": {
    see: floorRoles,
    actsIn: "app/dock/formActs.server.ts",
    acts: formActs.map(({ moves: _, ...one }) => one),
  },
  "book.tsx": {
    see: floorRoles,
    acts: [
      { does: "book", fields: () => ({ carrier: "MERI", collection: at.collection, ...ask }), may: floorRoles },
      { does: "change", fields: () => ({ booking: at.booking, revision: 1, ...ask }), may: floorRoles, moves: true },
      { does: "cancel", fields: () => ({ booking: at.booking }), may: floorRoles, moves: true },
    ],
  },
  "booking-ics.ts": { params: () => ({ id: String(at.booking) }), see: floorRoles, own: true },
  "handover.tsx": {
    see: admin,
    acts: [...acts(admin, "wait", "remove"), { does: "add", fields: { purpose: "forms" }, may: admin }],
  },
  "dock.tsx": {
    params: () => ({ collection: String(at.collection) }),
    see: floorRoles,
    own: true,
    actsIn: "app/dock/dockActs.server.ts",
    acts: [
      ...formActs,
      { does: "driver", fields: () => ({ collection: at.collection, name: "Otis" }), may: floorRoles, moves: true },
      { does: "reopen", fields: () => ({ collection: at.closed }), may: leads, moves: true },
      { does: "send-now", fields: () => ({ collection: at.sent }), may: floorRoles, moves: true },
      { does: "supplement", fields: () => ({ collection: at.final }), may: floorRoles, moves: true },
      { does: "supplement-end", fields: () => ({ collection: at.supplement }), may: floorRoles, moves: true },
      { does: "close-all", fields: () => ({ collection: at.empty, expected: 0 }), may: floorRoles, moves: true },
      { does: "master-bill", may: floorRoles },
      {
        does: "by-hand",
        fields: () => ({ collection: at.collection, name: at.labelled.name }),
        may: floorRoles,
        moves: true,
      },
      {
        does: "take-off",
        fields: () => ({ collection: at.collection, package: at.labelled.package }),
        may: floorRoles,
        moves: true,
      },
      {
        does: "drop-place",
        fields: () => ({ collection: at.collection, place: "DLH1" }),
        may: floorRoles,
      },
      {
        does: "stay",
        fields: () => ({ collection: at.collection, package: at.labelled.package }),
        may: floorRoles,
        moves: true,
      },
      {
        does: "come",
        fields: () => ({ collection: at.collection, package: at.labelled.package }),
        may: floorRoles,
        moves: true,
      },
      {
        does: "stay",
        fields: () => ({ collection: at.collection, package: at.labelled.package }),
        may: floorRoles,
        moves: true,
      },
      { does: "close", fields: () => ({ collection: at.collection, expected: 0 }), may: floorRoles, moves: true },
      {
        does: "make-form",
        fields: () => ({ collection: at.waiting.collection, package: at.waiting.package }),
        may: floorRoles,
        moves: true,
      },
    ],
  },
  "papers.tsx": {
    see: floorRoles,
    acts: [
      { does: "reprint", fields: () => ({ document: at.document }), may: floorRoles, moves: true },
      { does: "retry", fields: () => ({ job: at.job }), may: floorRoles, moves: true },
    ],
  },
  "change-fields.ts": { see: floorRoles },
  "own-paper.ts": { params: () => ({ id: String(at.ownPaper) }), see: floorRoles, own: true },
  "document.ts": { params: () => ({ id: String(at.document) }), see: floorRoles, own: true },
  "set-up.tsx": {},
  "items.tsx": { acts: acts(floorRoles, "packing", "complete", "drop-paper") },
  "stock.tsx": {
    see: floorRoles,
    acts: [
      { does: "doubt", fields: () => ({ stock: at.stock.id }), may: floorRoles },
      { does: "block", fields: () => ({ bin: at.stock.bin, why: "walls" }), may: leads },
      { does: "transfer", may: floorRoles },
      { does: "receive", may: floorRoles },
      ...acts(leads, "free", "lot"),
      { does: "return-bin", fields: { purpose: "repair", bin: "A-02-1" }, may: leads, moves: true },
    ],
  },
  "packaging.tsx": {
    see: floorRoles,
    acts: [...acts(floorRoles, "count"), ...acts(admin, "add", "on", "off", "price", "slip")],
  },
  "floor-plan.tsx": { see: admin, acts: acts(admin, "steps", "item-steps", "cart") },
  "floor-plan-file.ts": { params: () => ({ file: "bins.csv" }), see: admin },
  "addresses.tsx": { acts: acts(floorRoles, "save", "drop") },
  "addresses-csv.ts": {},
  "sources.tsx": { see: admin, acts: acts(admin, "add") },
  "source.tsx": {
    params: () => ({ code: "file" }),
    see: admin,
    acts: [
      { does: "try", may: admin, strict: true },
      { does: "map", may: admin, strict: true },
      ...acts(admin, "save", "unmap", "reporting", "report-secret", "report-test"),
    ],
  },
  "customers.tsx": {
    see: leads,
    acts: [...acts(leads, "save", "drop-paper", "contact", "contact-remove"), ...acts(admin, "routing", "slip")],
  },
  "screening.tsx": { see: admin },
  "border.tsx": {
    see: admin,
    acts: [
      ...acts(admin, "shipper", "unsign", "vague-remove"),
      { does: "vague-add", fields: { word: "bricabrac" }, may: admin, strict: true },
    ],
  },
  "border-csv.ts": { params: () => ({ table: "exchange" }), see: admin },
  "rules.tsx": {
    see: admin,
    acts: acts(admin, "save", "try", "effect", "on", "off", "up", "down", "drop"),
  },
  "patterns.tsx": { see: admin, acts: acts(admin, "save", "drop") },
  "defaults.tsx": { see: leads, acts: [...acts(leads, "save"), { does: "ways", may: admin, strict: true }] },
  "printers.tsx": {
    see: floorRoles,
    acts: [
      {
        does: "save",
        fields: { id: 1, name: "Walls", uri: "ipp://127.0.0.1:9/x", label_form: "4x6", dpi: 203 },
        may: leads,
        strict: true,
      },
      ...["check", "test", "hold", "let-go", "on", "half", "whole", "move"].map((does) => ({
        does,
        fields: { printer: 1, to: 2 },
        may: floorRoles,
      })),
      { does: "off", fields: { printer: 1 }, may: leads, strict: true },
      ...acts(floorRoles, "drop"),
      { does: "uses", fields: { "use-labels-0": 1 }, may: leads, strict: true },
      { does: "add-bench", fields: { name: "" }, may: leads },
      { does: "remove-bench", fields: { bench: 1 }, may: leads, strict: true },
    ],
  },
  "outside.tsx": { see: admin, acts: acts(admin, "save", "on", "off") },
  "charging.tsx": { see: admin, acts: acts(admin, "save", "up", "down", "drop") },
  "carriers.tsx": { see: admin, acts: acts(admin, "carrier") },
  "tariff-schema.ts": { see: admin },
  "tariff.tsx": {
    params: () => ({ code: "LARK", number: "1" }),
    see: admin,
    acts: acts(admin, "save", "release", "withdraw", "drop", "copy", "try"),
  },
  "tariff-file.ts": { params: () => ({ code: "LARK", number: "1", file: "tariff.json" }), see: admin },
  "shifts.tsx": { see: admin, acts: acts(admin, "save", "close", "open") },
  "users.tsx": { see: admin, acts: acts(admin, "add", "times", "change") },
  "api.tsx": { see: admin, acts: acts(admin, "add", "revoke") },
  "changes.tsx": { see: leads },
}

let b: Rig
const work = new Map<Role, Work>()
let outsider: Work

beforeAll(async () => {
  b = await openRig()
  const { context, db } = b
  const idOf = async (number: string) =>
    there(await db("sales_order").where({ source_number: number }).first("id", "order_number"))
  await takeFile(context, row({ order_number: "W-1" }), row({ order_number: "W-2" }))
  const one = await idOf("W-1")
  at.order = { id: one.id, orderNumber: one.order_number }
  const { orderId, shipment } = await readyToBuy(context, "W-3")
  at.packed = { id: orderId, orderNumber: shipment.orderNumber, version: shipment.version }
  const labelled = await readyToBuy(context, "W-4")
  await askForLabels(context, labelled.orderId, labelled.shipment)
  await workAll(db)
  const pack = await db("package as p")
    .join("shipment as h", "h.id", "p.shipment_id")
    .where({ order_id: labelled.orderId })
    .first("p.id", "p.number", "p.collection_id")
  at.labelled = {
    id: labelled.orderId,
    orderNumber: labelled.shipment.orderNumber,
    package: pack.id,
    name: `${labelled.shipment.orderNumber}-${pack.number}`,
  }
  at.collection = pack.collection_id
  const ready = await readyToBuy(context, "W-9")
  await askForLabels(context, ready.orderId, ready.shipment, "MDN")
  await workAll(db)
  const loaded = await db("package as p")
    .join("shipment as h", "h.id", "p.shipment_id")
    .where({ order_id: ready.orderId })
    .first("p.id", "p.collection_id")
  await db("package").where({ id: loaded.id }).update({ state: "on-truck" })
  at.waiting = { collection: loaded.collection_id, package: loaded.id }
  at.document = there(await db("document").where({ kind: "label" }).first("id")).id
  at.ownPaper = newId(
    await db("own_paper").insert({
      order_id: at.order.id,
      name: "walls",
      pages: 1,
      sha256: "0".repeat(64),
      bytes: Buffer.from("%PDF-"),
      added_at: new Date(),
      added_by: "walls",
    }),
  )
  const returning = there(await db("service").where({ returns: true }).first("id", "carrier_id"))
  const version = there(await db("tariff_version").where({ carrier_id: returning.carrier_id }).first("id"))
  at.back = newId(
    await db("return_intent").insert({
      warehouse_id: context.actor.warehouseId,
      order_id: at.order.id,
      number: 1,
      service_id: returning.id,
      tariff_version_id: version.id,
      once_key: "walls",
      idempotency_key: randomUUID(),
      state: "booked",
      expected_amount: "9.00",
      currency: "USD",
      paid: "at-once",
      valid_until: "2027-01-01",
      request: "{}",
      charges: "[]",
      models: "[]",
      goods: "[]",
      prints: true,
      created_at: new Date(),
      actor: "walls",
    }),
  )
  const doors = await db("collection")
    .where({ warehouse_id: 1, on_date: "2026-11-24" })
    .whereNotIn("carrier_id", db("collection").where({ id: at.collection }).select("carrier_id"))
    .orderBy("id")
    .select("id", "carrier_id")
  const [closed, sent, final, supplement, empty] = doors.map((door) => door.id)
  Object.assign(at, { closed, sent, final, supplement, empty })
  await db("collection")
    .whereIn("id", [at.closed, at.sent, at.final])
    .update({ closed_at: context.now, closed_by: "walls", closings: 1 })
  await db("collection").whereIn("id", [at.final, at.supplement]).update({ final_at: context.now })
  const form = async (state: "made" | "refused", sequence: number) =>
    newId(
      await db("closing_form").insert({
        warehouse_id: 1,
        collection_id: at.collection,
        carrier_id: there(doors[0]).carrier_id,
        sequence,
        way: "manifest",
        number: `W-${sequence}`,
        account: "",
        packages: 0,
        weight_kg: "0",
        once_key: randomUUID(),
        state,
        made_at: context.now,
        made_by: "walls",
      }),
    )
  at.tracking = newId(
    await db("tracking_file").insert({ warehouse_id: 1, name: "x", made_at: context.now, made_by: "walls" }),
  )
  await db("tracking_row").insert({ file_id: at.tracking, line: 2, order_number: "x", body: "{}", state: "good" })
  at.booking = newId(
    await db("booked_collection").insert({
      warehouse_id: 1,
      carrier_id: there(await db("carrier").where({ code: "MERI" }).first("id")).id,
      press_key: "walls",
      once_key: randomUUID(),
      state: "booked",
      ask: JSON.stringify({ ...ask, pallets: 0, latest: "16:00" }),
      fee: "12.50",
      currency: "USD",
      on_date: "2026-11-25",
      asked_at: context.now,
      asked_by: "walls",
    }),
  )
  const message = async (bytes: Buffer) =>
    newId(
      await db("edi_message").insert({
        warehouse_id: 1,
        order_id: one.id,
        customer_id: newId(await db("customer").insert({ code: randomUUID().slice(0, 12), name: "Walls" })),
        kind: "desadv",
        way: "folder",
        send_to: "walls",
        receiver: "",
        once_key: randomUUID(),
        message_key: randomUUID(),
        packages: "[]",
        bytes,
        state: "sent",
        made_at: context.now,
      }),
    )
  const own = there(await db("carrier").where({ code: "VANS" }).first("id"))
  at.van = newId(
    await db("collection").insert({
      warehouse_id: 1,
      carrier_id: own.id,
      door: "19",
      on_date: "2026-11-24",
      cut_off: new Date("2026-11-24T20:00:00Z"),
      services: '["VAN"]',
      closed_at: context.now,
    }),
  )
  await db("round_stop").insert({ warehouse_id: 1, collection_id: at.van, order_id: one.id, position: 1 })
  at.unit = there(await db("tracked_unit").where({ order_id: at.labelled.id }).first("id")).id
  at.event = newId(
    await db("tracking_event").insert({
      once_key: "walls",
      unit_id: at.unit,
      way: "own",
      code: "DEL",
      kind: "note",
      at: context.now,
      picture: Buffer.from("x"),
      picture_media: "image/png",
      taken_at: context.now,
    }),
  )
  const trouble = async (kind: string) =>
    newId(
      await db("tracking_case").insert({
        warehouse_id: 1,
        order_id: at.labelled.id,
        unit_id: at.unit,
        kind,
        since_key: "walls",
        figures: "{}",
        opened_at: context.now,
      }),
    )
  at.case = await trouble("address")
  at.goes = await trouble("damaged")
  await db("tracked_unit").where({ id: at.unit }).update({ left_at: context.now })
  const claim = newId(
    await db("claim").insert({
      warehouse_id: 1,
      number: 9,
      order_id: at.labelled.id,
      unit_id: at.unit,
      units: JSON.stringify([at.unit]),
      carrier: "Walls",
      kind: "damage",
      goods: "[]",
      currency: "USD",
      facts: JSON.stringify({ lines: [], tracking: [], names: [], master: "", shippedOn: "2026-11-24" }),
      amounts: JSON.stringify({
        ...Object.fromEntries(
          ["goods", "freight", "total", "expected"].map((name) => [name, { amount: "0", currency: "USD" }]),
        ),
        limit: null,
      }),
      total: "0",
      file_by: "2027-01-01",
      papers: "[]",
      made_at: context.now,
      made_by: "walls",
    }),
  )
  at.photo = newId(
    await db("claim_photo").insert({
      claim_id: claim,
      name: "x",
      media: "image/png",
      sha256: "0".repeat(64),
      bytes: Buffer.from("x"),
      added_at: context.now,
      added_by: "walls",
    }),
  )
  const back = newId(
    await db("goods_return").insert({
      warehouse_id: 1,
      name: "W-R9",
      order_id: at.labelled.id,
      number: 9,
      kind: "unannounced",
      state: "arrived",
      made_at: context.now,
    }),
  )
  const comes = async (goods_return_id: number, piece: number) =>
    newId(await db("goods_return_package").insert({ goods_return_id, piece }))
  at.comesLate = await comes(back, 1)
  at.finding = newId(
    await db("goods_return_finding").insert({
      goods_return_id: back,
      goods: "a lamp",
      state: "other",
      quantity: 1,
      press_key: "walls",
      at: context.now,
      told_by: "walls",
    }),
  )
  const other = await db("goods_return").insert({
    warehouse_id: 1,
    name: "U9",
    kind: "unknown",
    made_at: context.now,
  })
  at.comes = await comes(newId(other), 1)
  value(await setReturnBin(as(context, { role: "lead" }), "inspection", "A-01-1"))
  at.report = newId(
    await db("outbox").insert({
      message_id: randomUUID(),
      topic: "order.gone",
      source_id: 1,
      order_id: at.labelled.id,
      payload: "{}",
      created_at: context.now,
      state: "refused",
    }),
  )
  at.told = newId(
    await db("customer_message").insert({
      warehouse_id: 1,
      order_id: at.labelled.id,
      topic: "left",
      once_key: "walls",
      way: "mail",
      address: "anna@example.com",
      language: "en",
      facts: "{}",
      state: "refused",
      made_at: context.now,
      send_after: context.now,
    }),
  )
  at.message = await message(Buffer.from("x"))
  at.acknowledging = await message(Buffer.from("x"))
  at.form = await form("made", 1)
  at.discarding = await form("made", 2)
  at.refused = await form("refused", 3)
  at.settling = await form("refused", 4)
  at.job = newId(
    await db("job").insert({
      kind: "print",
      once_key: "walls",
      payload: JSON.stringify({ warehouseId: context.actor.warehouseId }),
      warehouse_id: context.actor.warehouseId,
      state: "dead",
      trouble: "no paper",
      run_at: new Date(),
      created_at: new Date(),
    }),
  )
  await takeFile(context, row({ order_number: "W-5" }), row({ order_number: "W-6" }))
  const five = await idOf("W-5")
  at.runOrder = five.id
  at.day = (await idOf("W-6")).id
  value(await makeRuns(context, { by: "hand", value: "", orderIds: [five.id], cartId: null, atMost: 10 }, randomUUID()))
  at.run = there(await db("pick_run").first("number")).number
  at.quote = value(await makeQuote(context, { asked }, "walls")).number
  at.shippingRun = value(await makeRun(context, [one.id], { rule: "cheapest" }, "walls")).id
  await workAll(db)
  at.intake = await previewFile(
    context,
    "file",
    "walls.csv",
    file(row({ order_number: "W-7" }), row({ order_number: "W-8", quantity: "x" })),
  )
  const stock = await db("stock as s")
    .join("bin as n", "n.id", "s.bin_id")
    .where({ "s.warehouse_id": 1 })
    .first("s.id", "n.code")
  at.stock = { id: stock.id, bin: stock.code }
  at.count = newId(
    await db("count_task").insert({
      warehouse_id: 1,
      stock_id: stock.id,
      why: "doubt",
      raised_at: context.now,
      raised_by: "x",
    }),
  )
  at.group = randomUUID()
  const here = await warehouseById(db, 1)
  value(await changeGroup(context, here, at.group, [(await idOf("W-2")).id], { what: "tag", tag: "before" }))
  for (const role of roles) work.set(role, { ...as(context, { role }), warehouse: here })
  const id = newId(
    await db("user").insert({
      username: "rene",
      name: "Rene Roy",
      role: "administrator",
      password_hash: "x",
      warehouse_id: 2,
    }),
  )
  outsider = {
    ...as(context, { role: "administrator", userId: id, name: "Rene Roy", warehouseId: 2 }),
    warehouse: await warehouseById(db, 2),
  }
})
afterAll(() => b.drop())

const asked = quoteAsked.parse({
  shipTo: { street: "1 Any Street", city: "Denver", state: "CO", postalCode: "80205", kind: "business" },
  packages: [{ count: 1, weight: "22", length: "20", width: "15", height: "13" }],
})

/** The files of the routes, by their names without the place. */
const fileOf = new Map(
  [...readFileSync("app/routes.ts", "utf8").matchAll(/"([\w-]+\/([\w-]+\.tsx?))"/g)].map((one) => [
    one[2] as string,
    one[1] as string,
  ]),
)

/** Files of `parts`, or of its own place, whose acts a route spreads among its own, such as `...returnActs(work, order.id)`. */
const sharedActs = (text: string, place: string): string[] =>
  [...text.matchAll(/\.\.\.(\w+)Acts[(,]/g)].flatMap((one) => {
    const from = new RegExp(`import \\{[^}]*\\b${one[1]}Acts\\b[^}]*\\} from "(?:(\\.\\./parts)|\\.)/([\\w.]+)"`).exec(
      text,
    )
    if (!from?.[2] || !(from[1] || from[2].endsWith("Acts.server.ts"))) return []
    return [readFileSync(join("app", from[1] ? "parts" : place, from[2]), "utf8")]
  })

it("lists every route that there is, and every act of each", () => {
  const files = [...fileOf.keys()]
  expect(files.filter((name) => !(name in listed))).toEqual([])
  expect(Object.keys(listed).filter((name) => !files.includes(name))).toEqual([])
  for (const name of files) {
    const own = readFileSync(join("app", fileOf.get(name) as string), "utf8")
    const beside = listed[name]?.actsIn ? readFileSync(listed[name].actsIn, "utf8") : ""
    const text = [own, beside, ...sharedActs(own + beside, dirname(fileOf.get(name) as string))].join("\n")
    const named = actsIn(text)
    const known = new Set((listed[name]?.acts ?? []).map((act) => act.does))
    // what is listed is there: else the reading of names has lost sight of it
    const unseen = [...known].filter((act) => act !== "" && !named.includes(act))
    expect([name, shared.includes(name) ? [] : unseen]).toEqual([name, []])
    expect([name, [...new Set(named)].filter((act) => !known.has(act))]).toEqual([name, []])
  }
})

// biome-ignore lint/suspicious/noExplicitAny: the router's generated types differ from route to route
type Module = { loader?: (args: any) => unknown; action?: (args: any) => unknown }
const moduleOf = (name: string): Promise<Module> => import(`../../app/${fileOf.get(name)}`)

/** What a page or an act answers: a status where it threw one, else what it returned. */
async function answerOf(run: () => unknown): Promise<{ status: number; body: unknown }> {
  try {
    const body = await run()
    return { status: body instanceof Response ? body.status : 200, body }
  } catch (thrown) {
    if (thrown instanceof Response) return { status: thrown.status, body: null }
    const { init } = thrown as { init?: { status?: number } }
    if (init?.status) return { status: init.status, body: null }
    throw thrown
  }
}

function argsOf(name: string, who: Work, form: Fields | null) {
  const context = new RouterContextProvider()
  context.set(workContext, who)
  const body = form ? new URLSearchParams(Object.entries(form).map(([key, field]) => [key, String(field)])) : undefined
  const request = new Request("http://varnok.test/", form ? { method: "POST", body } : {})
  return { request, params: listed[name]?.params?.() ?? {}, context }
}

const look = async (name: string, who: Work) => {
  const { loader } = await moduleOf(name)
  return loader ? answerOf(() => loader(argsOf(name, who, null))) : null
}
const act = async (name: string, one: Act, who: Work) => {
  const { action } = await moduleOf(name)
  const fields = typeof one.fields === "function" ? one.fields() : (one.fields ?? {})
  const form = { key: randomUUID(), scanId: randomUUID(), ...fields, intent: one.does }
  return action ? answerOf(() => action(argsOf(name, who, form))) : null
}

/** All that is in the database, but for what notes who was there. */
async function everything(): Promise<string> {
  const [tables] = await b.db.raw("SHOW TABLES")
  const names = (tables as Record<string, string>[])
    .map((one) => Object.values(one)[0] as string)
    .filter((name) => !["session", "presence", "rate_limit", "business_clock"].includes(name))
  const [sums] = await b.db.raw(`CHECKSUM TABLE ${names.map((name) => `\`${name}\``).join(", ")}`)
  return (sums as { Table: string; Checksum: number }[])
    .map((one) => `${one.Table.replace(/^.*\./, "")} ${one.Checksum}`)
    .join("\n")
}
/** Tables whose rows changed. */
const changed = (before: string, after: string): string[] => {
  const was = new Set(before.split("\n"))
  return after
    .split("\n")
    .filter((one) => !was.has(one))
    .map((one) => one.split(" ")[0] as string)
}
/** Rows of a warehouse and of its orders; what is set up for all warehouses is not among them. */
const ofAll = [
  "user",
  "user_warehouse",
  "known_device",
  "sign_in_setting",
  "audit",
  "order_view",
  "order_source",
  "rule",
  "charging_rule",
  "shipping_pattern",
  "api_token",
  "customer",
  "address_book",
  "address_word",
  "order_draft",
  "quote",
  "group_change",
  "group_change_order",
  "packaging",
  "packaging_stock",
  "item",
  "warehouse",
  "work_period",
  "day_exception",
  "cart",
  "tote",
  "change_notice",
  "carrier",
  "tariff_version",
  "outside_warehouse",
  "preference",
  "vague_word",
]

const shared: readonly string[] = [
  "follow.tsx",
  "unsubscribe.tsx",
  "sign-in.tsx",
  "sign-out.ts",
  "layout.tsx",
  "live.ts",
]
const pages = Object.keys(listed).filter((name) => !shared.includes(name))

describe("a role that may not", () => {
  it.each(pages)("%s", async (name) => {
    const { see = roles, acts: all = [] } = listed[name] as Listed
    const before = await everything()
    for (const role of roles) {
      const who = work.get(role) as Work
      const seen = see.includes(role) ? null : await look(name, who)
      if (seen) expect([role, seen.status]).toEqual([role, 403])
      for (const one of all.filter(({ may = roles }) => !may.includes(role))) {
        const answer = await act(name, one, who)
        // one that would change something is told that it is not his; others may be refused for another reason first
        if (one.moves || one.strict) expect([role, one.does, answer?.status]).toEqual([role, one.does, 403])
      }
    }
    expect(changed(before, await everything())).toEqual([])
  })
})

describe("somebody of another warehouse, whatever his role, finds and changes nothing by a number of this one", () => {
  it.each(pages)("%s", async (name) => {
    const { own, acts: all = [] } = listed[name] as Listed
    const before = await everything()
    const seen = await look(name, outsider)
    if (own) expect(seen === null ? 404 : seen.status).toBe(404)
    for (const one of all) await act(name, one, outsider)
    const touched = changed(before, await everything()).filter((table) => !ofAll.includes(table))
    expect(touched).toEqual([])
  })
})

describe("somebody who may, at the warehouse where it is, does what the walls keep others from", () => {
  const moving = pages.flatMap((name) =>
    (listed[name]?.acts ?? []).flatMap((one, index) => (one.moves ? [[name, one.does, index] as const] : [])),
  )
  it("is tried with something to hold up on most places", () => expect(moving.length).toBeGreaterThan(18))
  it.each(moving)("%s %s", async (name, _does, index) => {
    const one = listed[name]?.acts?.[index] as Act
    const before = await everything()
    // at the very moment when it could be done
    await act(name, one, outsider)
    expect(changed(before, await everything()).filter((table) => !ofAll.includes(table))).toEqual([])
    const between = await everything()
    const who = work.get((one.may ?? roles).includes("clerk") ? "clerk" : "lead") as Work
    const answer = await act(name, one, who)
    expect([changed(between, await everything()).length > 0, answer?.body]).toEqual([true, answer?.body])
  })
})
