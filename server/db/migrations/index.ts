import type { Migration } from "../migrate.ts"
import { peopleAndPlaces } from "./0001-people-and-places.ts"
import { goods } from "./0002-goods.ts"
import { orders } from "./0003-orders.ts"
import { shipping } from "./0004-shipping.ts"
import { jobsAndOutbox } from "./0005-jobs-and-outbox.ts"
import { wider } from "./0006-wider.ts"
import { intake } from "./0007-intake.ts"
import { addresses } from "./0008-addresses.ts"
import { list } from "./0009-list.ts"
import { plan } from "./0010-plan.ts"
import { routes } from "./0011-routes.ts"
import { floor } from "./0012-floor.ts"
import { bench } from "./0013-bench.ts"
import { tariffs } from "./0014-tariffs.ts"
import { quotes } from "./0015-quotes.ts"
import { defence } from "./0016-defence.ts"
import { oneAnswer } from "./0017-one-answer.ts"
import { words } from "./0018-words.ts"
import { cheapPages } from "./0019-cheap-pages.ts"
import { shippingRuns } from "./0020-shipping-runs.ts"
import { printers } from "./0021-printers.ts"
import { ownPapers } from "./0022-own-papers.ts"
import { returns } from "./0023-returns.ts"
import { preferences } from "./0024-preferences.ts"
import { runTrucks } from "./0025-run-trucks.ts"
import { packing } from "./0026-packing.ts"
import { lots } from "./0027-lots.ts"
import { advice } from "./0028-advice.ts"
import { papers } from "./0029-papers.ts"
import { closing } from "./0030-closing.ts"
import { booked } from "./0031-booked.ts"
import { driver } from "./0032-driver.ts"
import { elsewhere } from "./0033-elsewhere.ts"
import { handed } from "./0034-handed.ts"
import { edi } from "./0035-edi.ts"
import { rounds } from "./0036-rounds.ts"
import { dropOff } from "./0037-drop-off.ts"
import { tracking } from "./0038-tracking.ts"
import { telling } from "./0039-telling.ts"
import { reports } from "./0040-reports.ts"
import { goodsReturned } from "./0041-goods-returned.ts"
import { claims } from "./0042-claims.ts"

/** All migrations in their order. They go forward only; a released one is never changed. */
export const migrations: readonly Migration[] = [
  peopleAndPlaces,
  goods,
  orders,
  shipping,
  jobsAndOutbox,
  wider,
  intake,
  addresses,
  list,
  plan,
  routes,
  floor,
  bench,
  tariffs,
  quotes,
  defence,
  oneAnswer,
  words,
  cheapPages,
  shippingRuns,
  printers,
  ownPapers,
  returns,
  preferences,
  runTrucks,
  packing,
  lots,
  advice,
  papers,
  closing,
  booked,
  driver,
  elsewhere,
  handed,
  edi,
  rounds,
  dropOff,
  tracking,
  telling,
  reports,
  goodsReturned,
  claims,
]
