/** Figures between 0 and 1 that look random and are the same for a seed: xorshift32 (Marsaglia, 2003). */
export function randomFrom(seed: number): () => number {
  let state = (Math.imul(seed | 0, 2_654_435_761) ^ 0x9e3779b9) | 0 || 1
  return () => {
    state ^= state << 13
    state ^= state >>> 17
    state ^= state << 5
    return (state >>> 0) / 4_294_967_296
  }
}
