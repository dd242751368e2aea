import { execFileSync } from "node:child_process"
import { mkdtempSync, rmSync, writeFileSync } from "node:fs"
import { tmpdir } from "node:os"
import { join } from "node:path"
import { manifest } from "core/documents/index.ts"
import { mass } from "core/units/index.ts"
import { describe, expect, it } from "vitest"
import { notPrintable, whyNotMade } from "../papers/unprintable.ts"
import { manifestPdf } from "./manifest.ts"
import { finished, line, NotPrintable, newDocument, unprintable } from "./page.ts"
import { pickListPdf } from "./pickList.ts"

const at = new Date("2026-11-24T16:42:00Z")
const drawn = (text: string, how: "refuse" | "mark" = "refuse") => {
  const page = newDocument(300, 300, "x", at, how)
  line(page, text, { x: 10, y: 10, width: 280, size: 10 })
  return finished(page)
}

describe("a text in a script that the papers' faces do not have", () => {
  it("is told sign by sign", () => {
    expect(unprintable("Ærøskøbing, Łódź, Ñuñoa – 14½")).toBe("")
    expect(unprintable("東京 Brewing")).toBe("東京")
    // Greek and Cyrillic have a face of their own; what is written from the right has none
    expect(unprintable("Пивоварня «Ёлка», Ζυθοποιία Αθηνών")).toBe("")
    expect(unprintable("Brauerei מבשלה")).toBe("מבשלה")
    expect(unprintable("مصنع")).toBe("مصنع")
    // signs without a shape are none that is missing
    expect(unprintable("a\u200bb\u00adc\td")).toBe("")
  })
  it("is never left out: the paper is refused, with the text by name", async () => {
    await expect(drawn("Elk Run")).resolves.toBeInstanceOf(Buffer)
    const error = await drawn("東京 Brewing").catch((one: unknown) => one)
    expect(error).toBeInstanceOf(NotPrintable)
    expect(whyNotMade(error)).toEqual([
      { code: "paper.not-printable", values: { text: "東京 Brewing", signs: "東京" } },
    ])
    expect(whyNotMade(new Error("x"))).toBeNull()
  })
  it("is marked on what must be made, since what it tells of has happened", async () => {
    await expect(drawn("東京 Brewing", "mark")).resolves.toBeInstanceOf(Buffer)
    const model = manifest(
      {
        number: "M-1",
        one: false,
        service: null,
        supplement: false,
        booking: "",
        driver: null,
        carrier: "Larkspur",
        account: "A",
        door: "3",
        sender: ["Northlake"],
        closedAt: "2026-11-24 10:42",
        closedBy: "Maren",
      },
      [
        {
          package: "48217-1",
          order: "A-1",
          trackingNumber: "LA1",
          service: "Ground",
          receiver: "東京 Brewing",
          place: "Denver CO",
          weight: mass("12", "lb"),
        },
      ],
    )
    await expect(manifestPdf(model, at)).resolves.toBeInstanceOf(Buffer)
  })
  it("is refused on a pick list, wherever it stands on it", async () => {
    const model = { number: "48217", title: "Pick list", facts: ["Elk Run"], stops: [], totals: [], rows: [] }
    await expect(pickListPdf({ ...model, facts: ["東京"] } as never, at)).rejects.toThrow(NotPrintable)
  })
  it("is told before anything is bought, of the goods that papers over a border name", () => {
    expect(notPrintable(["Yeast", "酵母", "酵母"])).toEqual([
      { code: "paper.not-printable", values: { text: "酵母", signs: "酵母" } },
    ])
  })
})

it("copies Cyrillic and Greek names out of a paper as they were written, beside Latin ones", async () => {
  const name = "Пивоварня Ёлка – Elk Run – Ζυθοποιία"
  const folder = mkdtempSync(join(tmpdir(), "varnok-"))
  try {
    writeFileSync(join(folder, "one.pdf"), await drawn(name))
    // pdftotext is an independent reader
    expect(execFileSync("pdftotext", ["-layout", join(folder, "one.pdf"), "-"]).toString()).toContain(name)
  } finally {
    rmSync(folder, { recursive: true })
  }
})
