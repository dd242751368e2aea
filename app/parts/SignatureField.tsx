import { Button } from "@chakra-ui/react"
import { type Strokes, signatureSize, strokePath } from "core/signature/index.ts"
import { useCallback, useEffect, useRef, useState } from "react"
import type SignaturePad from "signature_pad"
import { say } from "words/index.ts"
import { FieldError } from "./ActForm.tsx"

/**
 * A field that is signed with a finger, a pen or the mouse. What is sent are the points of the lines; what was signed
 * before shows until somebody signs again.
 */
export function SignatureField({ name, before }: { name: string; before: Strokes }) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const pad = useRef<SignaturePad | null>(null)
  const [again, setAgain] = useState(before.length === 0)
  const field = useRef<HTMLInputElement>(null)
  const [written, setWritten] = useState(false)
  const keep = useCallback((points: string) => {
    if (field.current) field.current.value = points
    setWritten(points !== "")
  }, [])
  useEffect(() => {
    const own = canvas.current
    if (!again || !own) return
    let here = true
    // it may be out of sight at first, and has no size then; what is written stays as it is
    const size = () => {
      if (own.offsetWidth === 0 || own.width === own.offsetWidth || pad.current?.isEmpty() === false) return
      // a line is drawn where the finger is: one unit of the canvas for each pixel that it takes
      own.width = own.offsetWidth
      own.height = own.offsetHeight
      pad.current?.clear()
    }
    const sizes = new ResizeObserver(size)
    sizes.observe(own)
    // only whoever signs loads what draws it
    void import("signature_pad").then(({ default: Pad }) => {
      if (!here) return
      pad.current = new Pad(own, { minWidth: 1.5, maxWidth: 3, penColor: "#1c1914" })
      pad.current.addEventListener("endStroke", () =>
        keep(JSON.stringify(strokesOf(pad.current, signatureSize.width / own.width))),
      )
      size()
    })
    return () => {
      here = false
      sizes.disconnect()
      pad.current?.off()
      pad.current = null
    }
  }, [again, keep])
  const clear = () => {
    pad.current?.clear()
    keep("")
  }
  return (
    <div className="field signature">
      <span className="label">{say("driver.signature")}</span>
      {again ? (
        <canvas
          ref={canvas}
          width={signatureSize.width}
          height={signatureSize.height}
          className="signature-pad"
          aria-label={say("driver.signature")}
        />
      ) : (
        <SignaturePicture strokes={before} />
      )}
      {/* no field of type hidden, whose value would count as shown and not as changed */}
      <input type="text" hidden name={name} defaultValue="" ref={field} />
      <FieldError name={name} />
      {again ? (
        <Button type="button" variant="ghost" onClick={clear} disabled={!written}>
          {say("driver.clear")}
        </Button>
      ) : (
        <Button type="button" variant="ghost" onClick={() => setAgain(true)}>
          {say("driver.write-again")}
        </Button>
      )}
    </div>
  )
}

/** The lines of a pad in whole units of the field. */
const strokesOf = (pad: SignaturePad | null, scale: number): number[][][] =>
  (pad?.toData() ?? []).map((group) =>
    group.points.map(({ x, y }) => [within(x * scale, signatureSize.width), within(y * scale, signatureSize.height)]),
  )
const within = (at: number, most: number): number => Math.max(0, Math.min(most, Math.round(at)))

/** A signature as it was written. */
export function SignaturePicture({ strokes }: { strokes: Strokes }) {
  return (
    <svg
      viewBox={`0 0 ${signatureSize.width} ${signatureSize.height}`}
      className="signature-pad"
      role="img"
      aria-label={say("driver.signature")}
    >
      <path
        d={strokes.map(strokePath).join("")}
        fill="none"
        stroke="currentColor"
        strokeWidth="4"
        strokeLinecap="round"
        strokeLinejoin="round"
      />
    </svg>
  )
}
