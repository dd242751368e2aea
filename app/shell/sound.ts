let audio: AudioContext | undefined

/** Two low tones for a refused scan, to be heard from a meter away; silent where the browser gives no sound. */
export function refusalSound(): void {
  try {
    audio ??= new AudioContext()
    for (const [at, pitch] of [
      [0, 220],
      [0.16, 165],
    ] as const) {
      const tone = audio.createOscillator()
      const loud = audio.createGain()
      tone.type = "square"
      tone.frequency.value = pitch
      loud.gain.value = 0.08
      tone.connect(loud).connect(audio.destination)
      tone.start(audio.currentTime + at)
      tone.stop(audio.currentTime + at + 0.13)
    }
  } catch {
    // no sound device; the flash and the words say it too
  }
}
