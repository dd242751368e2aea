import { inflateSync } from "node:zlib"
import { PDFDict, PDFDocument, PDFName } from "@cantoo/pdf-lib"
import { ownPaperLimits } from "core/documents/ownPaper.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"

/** Most bytes that anything compressed in a file may become. */
const mostUnpacked = 96 * 1024 * 1024

/**
 * A PDF from outside as we print it: its pages alone, with what is filled in or drawn on them; scripts, actions, links
 * and files inside it are left behind, and nothing of it is ever run. Refused with why where it can't be read, is locked,
 * or has too many or too large pages. Runs in a thread.
 */
export async function cleanPdf(
  file: Uint8Array,
): Promise<Outcome<{ readonly bytes: Uint8Array; readonly pages: number }>> {
  if (Buffer.from(file.subarray(0, 1024)).indexOf("%PDF-") < 0) return refused(reason("own-paper.no-pdf"))
  if (unpacksTooFar(Buffer.from(file))) return refused(reason("own-paper.too-dense"))
  let read: PDFDocument
  try {
    read = await PDFDocument.load(file, { updateMetadata: false, ignoreEncryption: true, throwOnInvalidObject: true })
    if (read.isEncrypted) return refused(reason("own-paper.locked"))
    const pages = read.getPageCount()
    const { pages: most, longSide } = ownPaperLimits
    if (pages === 0) return refused(reason("own-paper.no-pdf"))
    if (pages > most) return refused(reason("own-paper.too-many-pages", { n: pages, most }))
    const large = read.getPages().findIndex((page) => Math.max(page.getWidth(), page.getHeight()) > longSide + 1)
    if (large >= 0) return refused(reason("own-paper.too-large-page", { page: large + 1 }))
    // what is filled in becomes part of its page
    read.getForm().flatten()
    const clean = await PDFDocument.create()
    clean.setProducer("Varnok")
    for (const page of await clean.copyPages(read, read.getPageIndices())) {
      for (const active of ["Annots", "AA", "PieceInfo", "Metadata", "Thumb", "B", "StructParents", "Tabs"])
        page.node.delete(PDFName.of(active))
      clean.addPage(page)
    }
    for (const [, object] of clean.context.enumerateIndirectObjects())
      if (object instanceof PDFDict)
        for (const active of ["A", "AA", "JS", "OpenAction"]) object.delete(PDFName.of(active))
    return accepted({ bytes: await clean.save(), pages })
  } catch {
    const locked = Buffer.from(file).includes("/Encrypt")
    return refused(reason(locked ? "own-paper.locked" : "own-paper.no-pdf"))
  }
}

/** Whether a name is that of a filter that packs, in any spelling (ISO 32000-1, 7.3.5 and 7.4: `Fl#61teDecode` is one). */
const packs = (name: string): boolean =>
  /^(FlateDecode|Fl|LZWDecode|LZW|RunLengthDecode|RL)$/.test(
    name.replace(/#([0-9A-Fa-f]{2})/g, (_, code: string) => String.fromCharCode(Number.parseInt(code, 16))),
  )

/**
 * Whether something in a file unpacks to more than is held, or is packed several times over. The reader itself unpacks
 * streams of objects only, and knows no bound; here nothing is held beyond it.
 */
function unpacksTooFar(file: Buffer): boolean {
  const text = file.toString("latin1")
  // each list by itself, from its last bracket on: every sign is looked at once, however many are opened
  for (const [, list = ""] of text.matchAll(/\[([^[\]]*)\]/g))
    if (list.includes("/") && [...list.matchAll(/\/([^\s/<>()%]+)/g)].filter(([, name = ""]) => packs(name)).length > 1)
      return true
  let left = mostUnpacked
  for (let at = file.indexOf("stream"); at >= 0; at = file.indexOf("stream", at + 6)) {
    if (at >= 3 && file.subarray(at - 3, at).toString("latin1") === "end") continue
    const begin = at + 6 + (file[at + 6] === 0x0d ? 2 : 1)
    // the first byte of what zlib packs, with its usual window
    if (file[begin] !== 0x78) continue
    try {
      left -= inflateSync(file.subarray(begin), { maxOutputLength: left }).length
    } catch (error) {
      if ((error as { code?: string }).code === "ERR_BUFFER_TOO_LARGE") return true
    }
    if (left <= 0) return true
  }
  return false
}
