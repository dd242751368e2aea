import { execFileSync } from "node:child_process"
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs"
import { createRequire } from "node:module"
import { tmpdir } from "node:os"
import { join } from "node:path"
import { prepareZXingModule, readBarcodes } from "zxing-wasm/reader"

/**
 * PDFs as a printer sees them: rasterised by poppler, their symbols read by an independent decoder, their words taken
 * out. Loads the decoder from its file, since there is no network; `end` clears up.
 */
export function readBack() {
  const folder = mkdtempSync(join(tmpdir(), "varnok-papers-"))
  prepareZXingModule({
    overrides: {
      wasmBinary: readFileSync(createRequire(import.meta.url).resolve("zxing-wasm/reader/zxing_reader.wasm"))
        .buffer as ArrayBuffer,
    },
  })
  return {
    folder,
    end: () => rmSync(folder, { recursive: true, force: true }),
    /** The number of pages, and every symbol read from them. */
    symbols: async (pdf: Buffer, dpi: number) => {
      const base = join(folder, `${dpi}-${Math.random()}`)
      writeFileSync(`${base}.pdf`, pdf)
      execFileSync("pdftoppm", ["-r", String(dpi), "-gray", "-png", `${base}.pdf`, base])
      const pages = readdirSync(folder).filter(
        (name) => join(folder, name).startsWith(`${base}-`) && name.endsWith(".png"),
      )
      const results = []
      for (const page of pages)
        results.push(
          ...(await readBarcodes(new Uint8Array(readFileSync(join(folder, page))), {
            formats: ["Code128"],
            tryHarder: true,
          })),
        )
      return { pages: pages.length, results }
    },
    words: (pdf: Buffer): string => {
      writeFileSync(join(folder, "text.pdf"), pdf)
      return execFileSync("pdftotext", ["-layout", join(folder, "text.pdf"), "-"]).toString()
    },
  }
}
