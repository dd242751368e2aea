import { PNG } from "pngjs"

const width = 520
const height = 150

/** The shipping lead's signature as a scanner would give it: an invented hand, drawn with a pen of even width. */
export function signaturePicture(): Buffer {
  const picture = new PNG({ width, height })
  picture.data.fill(255)
  // loops that grow smaller along the line, and a stroke under them
  for (let t = 0; t <= 1; t += 0.0004)
    dot(picture, 30 + 380 * t + 26 * Math.sin(31 * t), 74 + (46 - 30 * t) * Math.sin(29 * t + 0.9) - 10 * t)
  for (let t = 0; t <= 1; t += 0.001) dot(picture, 60 + 430 * t, 126 - 40 * t * t)
  return PNG.sync.write(picture, { colorType: 2, inputHasAlpha: true })
}

/** One dot of the pen. */
function dot(picture: PNG, x: number, y: number): void {
  for (let down = -2; down <= 2; down += 1)
    for (let right = -2; right <= 2; right += 1) {
      if (down * down + right * right > 5) continue
      const at = 4 * (Math.round(y + down) * width + Math.round(x + right))
      picture.data.set([24, 28, 60], at)
    }
}
