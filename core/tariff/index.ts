export { comparable, inRange, type Place, type PostalRange } from "./atoms.ts"
export * from "./categories.ts"
export { type Condition, type Fact, factsIn } from "./conditions.ts"
export { type FuelShare, type FuelTable, fuelOn } from "./fuel.ts"
export * from "./handover.ts"
export { type Finding, lintTariff, type Path } from "./lint/index.ts"
export * from "./options.ts"
export { type ComparablePlace, comparablePlace, type PostalIndex, postalIndex } from "./postalIndex.ts"
export {
  type Amount,
  amountBases,
  type FigureByZone,
  figureFor,
  type Price,
  type PriceBy,
  type Surcharge,
} from "./prices.ts"
export { type Flaw, type ReadTariff, readTariff, tariffText } from "./read.ts"
export * from "./schema.ts"
export { type CellError, type TableAnswer, type TariffTable, tariffTables, withTable } from "./tables/index.ts"
export { distanceIn, type Way, type ZoneChart, zoneOf, zonesOf } from "./zones.ts"
