export * from "./billedWeight.ts"
export {
  type Charge,
  type Rate,
  type RatedPackage,
  type RateRequest,
  ratedAsResidential,
} from "./charge.ts"
export * from "./compare.ts"
export * from "./density.ts"
export { type ClassRating, type ClassWeight, palletClass, rateByClass } from "./freight.ts"
export { type RateAnswer, rateShipment } from "./rate.ts"
export * from "./tariff.ts"
