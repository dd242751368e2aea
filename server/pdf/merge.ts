import { PDFDocument } from "@cantoo/pdf-lib"

/** Several PDFs as one, their pages in that order. Runs in a thread: hundreds of labels take seconds. */
export async function mergePdfs({
  title,
  files,
}: {
  readonly title: string
  readonly files: readonly Uint8Array[]
}): Promise<Uint8Array> {
  const all = await PDFDocument.create()
  all.setTitle(title)
  all.setProducer("Varnok")
  for (const file of files) {
    const one = await PDFDocument.load(file, { updateMetadata: false })
    for (const page of await all.copyPages(one, one.getPageIndices())) all.addPage(page)
  }
  return all.save()
}
