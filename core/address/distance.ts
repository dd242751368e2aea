/** A place on the earth, in degrees; south and west are negative. */
export interface Place {
  readonly latitude: number
  readonly longitude: number
}

const radians = Math.PI / 180
/** Mean radius of the earth in kilometres. */
export const earthRadius = 6371

/**
 * The angle of the great circle between two places, in radians, by the haversine formula, which is exact enough for
 * near places too. Source of the formula: Williams, Aviation Formulary.
 */
export function greatCircle(a: Place, b: Place): number {
  const half = (from: number, to: number) => Math.sin(((to - from) * radians) / 2) ** 2
  const h =
    half(a.latitude, b.latitude) +
    Math.cos(a.latitude * radians) * Math.cos(b.latitude * radians) * half(a.longitude, b.longitude)
  return 2 * Math.asin(Math.min(1, Math.sqrt(h)))
}

/** Kilometres between two places along the great circle. */
export const kilometres = (a: Place, b: Place): number => greatCircle(a, b) * earthRadius
