/** The invented goods of a distributor of fermentation and cellar supplies; weights in lb, edges in inches. */
export interface DemoItem {
  sku: string
  description: string
  weight: string
  size: [string, string, string]
  /** Pieces in a case, its weight and outer edges. */
  case?: { count: number; weight: string; size: [string, string, string] }
  bin: string
  stock: number
  lots?: [code: string, receivedOn: string, expiresOn: string | null][]
  value: string
  hs: string
  origin: string
  upright?: boolean
  unNumber?: string
  freight?: boolean
}

export const items: DemoItem[] = [
  { sku: "HOP-SAA-5", description: "Hop pellets Saazer, 11 lb foil", weight: "11.2", size: ["14", "9", "6"], case: { count: 4, weight: "46", size: ["19", "15", "13"] }, bin: "C-14-2", stock: 90, lots: [["H26-0917", "2026-10-02", "2028-09-01"], ["H25-0811", "2025-10-10", "2027-09-01"]], value: "96.00", hs: "1210.20", origin: "DE", },
  { sku: "HOP-CAS-1", description: "Hop pellets Cascade, 1 lb foil", weight: "1.05", size: ["8", "5", "3"], case: { count: 20, weight: "22.4", size: ["17", "13", "13"] }, bin: "C-12-1", stock: 400, lots: [["H26-0402", "2026-09-20", "2028-08-01"]], value: "12.80", hs: "1210.20", origin: "US" },
  { sku: "YST-LAG-500", description: "Dry lager yeast, 500 g brick", weight: "1.15", size: ["6", "4", "2.5"], case: { count: 20, weight: "24", size: ["14", "12", "9"] }, bin: "D-03-2", stock: 300, lots: [["Y26-114", "2026-08-11", "2028-08-01"], ["Y26-071", "2026-05-04", "2028-05-01"]], value: "78.00", hs: "2102.10", origin: "BE" },
  { sku: "YST-ALE-500", description: "Dry ale yeast, 500 g brick", weight: "1.15", size: ["6", "4", "2.5"], case: { count: 20, weight: "24", size: ["14", "12", "9"] }, bin: "D-04-1", stock: 260, lots: [["Y26-120", "2026-08-18", "2028-08-01"]], value: "74.00", hs: "2102.10", origin: "BE" },
  { sku: "YST-CID-500", description: "Dry cider yeast, 500 g brick", weight: "1.15", size: ["6", "4", "2.5"], case: { count: 20, weight: "24", size: ["14", "12", "9"] }, bin: "D-05-1", stock: 160, lots: [["Y26-133", "2026-09-01", "2028-09-01"]], value: "81.00", hs: "2102.10", origin: "FR" },
  { sku: "NUT-FER-1", description: "Yeast nutrient, 1 kg jar", weight: "2.4", size: ["5", "5", "7"], case: { count: 12, weight: "30", size: ["20.5", "15.5", "8"] }, bin: "D-11-3", stock: 220, lots: [["N-552", "2026-06-30", "2029-06-01"]], value: "24.50", hs: "2102.20", origin: "US", upright: true },
  { sku: "ENZ-AMY-250", description: "Amylase, 250 g tin", weight: "0.72", size: ["3.5", "3.5", "4.5"], bin: "D-12-1", stock: 140, lots: [["E26-31", "2026-07-15", "2028-01-01"]], value: "19.00", hs: "3507.90", origin: "DK" },
  { sku: "PEC-ENZ-500", description: "Pectic enzyme, 500 g tin", weight: "1.4", size: ["4.5", "4.5", "5.5"], bin: "D-12-3", stock: 90, lots: [["E26-44", "2026-07-20", "2028-01-01"]], value: "33.00", hs: "3507.90", origin: "DK" },
  { sku: "BOT-AMB-500", description: "Amber bottle 500 mL, case of 12", weight: "12.6", size: ["12.5", "9.5", "10.5"], bin: "A-03-1", stock: 260, value: "13.20", hs: "7010.90", origin: "US", upright: true },
  { sku: "BOT-CHA-750", description: "Sparkling bottle 750 mL, case of 12", weight: "24.5", size: ["14.5", "11", "12.5"], bin: "A-04-1", stock: 150, value: "21.60", hs: "7010.90", origin: "US", upright: true },
  { sku: "CAP-26-1000", description: "Crown caps 26 mm, bag of 1000", weight: "4.9", size: ["11", "8", "6"], case: { count: 5, weight: "25.6", size: ["17", "12", "13"] }, bin: "A-08-6", stock: 180, value: "16.00", hs: "8309.10", origin: "DE" },
  { sku: "COR-45-1000", description: "Agglomerated corks 45 mm, bag of 1000", weight: "9.1", size: ["19", "14", "12"], bin: "A-09-2", stock: 60, value: "118.00", hs: "4504.10", origin: "PT" },
  { sku: "WIR-HOOD-500", description: "Wire hoods, bag of 500", weight: "4.2", size: ["13", "10", "7"], bin: "A-09-4", stock: 80, value: "27.00", hs: "8309.90", origin: "IT" },
  { sku: "REF-BRIX-32", description: "Refractometer 0–32 Brix", weight: "0.62", size: ["8", "3", "2.5"], bin: "K-07-2", stock: 70, value: "58.00", hs: "9027.50", origin: "TW" },
  { sku: "HYD-TRI", description: "Triple-scale hydrometer with jar", weight: "0.55", size: ["14", "3", "3"], bin: "K-07-4", stock: 120, value: "17.50", hs: "9025.80", origin: "CZ" },
  { sku: "PH-METER", description: "Pocket pH meter, mains charged", weight: "0.7", size: ["9", "4", "2.5"], bin: "K-08-1", stock: 45, value: "92.00", hs: "9027.80", origin: "TW" },
  { sku: "THM-DIG-12", description: "Probe thermometer, 12 in stem", weight: "0.4", size: ["13", "3", "1.5"], bin: "K-08-3", stock: 110, value: "26.00", hs: "9025.19", origin: "US" },
  { sku: "HOS-SIL-19", description: "Silicone hose 3/4 in, 33 ft coil", weight: "7.4", size: ["15", "15", "4.5"], bin: "B-20-1", stock: 70, value: "64.00", hs: "4009.11", origin: "US" },
  { sku: "HOS-VIN-12", description: "Transfer hose 1/2 in, 50 ft coil", weight: "5.3", size: ["13", "13", "4"], bin: "B-20-3", stock: 95, value: "31.00", hs: "3917.33", origin: "US" },
  { sku: "CLA-15-EPDM", description: "Sanitary clamp 1.5 in with gasket", weight: "0.66", size: ["4", "3", "2"], case: { count: 24, weight: "17", size: ["13", "9.5", "8.5"] }, bin: "B-14-2", stock: 360, value: "8.40", hs: "7326.90", origin: "US" },
  { sku: "VAL-BFY-15", description: "Butterfly valve 1.5 in", weight: "2.3", size: ["7", "5", "4"], bin: "B-15-1", stock: 64, value: "47.00", hs: "8481.80", origin: "US" },
  { sku: "PMP-TRF-40", description: "Transfer pump, 10 gal/min", weight: "21.5", size: ["15", "9", "10"], bin: "E-02-1", stock: 18, value: "389.00", hs: "8413.70", origin: "IT", upright: true },
  { sku: "FLT-PAD-040", description: "Filter sheets 16 in, pack of 25", weight: "6.8", size: ["16.5", "16.5", "4"], bin: "E-06-2", stock: 84, value: "44.00", hs: "4812.00", origin: "DE" },
  { sku: "FLT-CART-5", description: "Filter cartridge 10 in, 5 micron", weight: "0.5", size: ["10.5", "3", "3"], case: { count: 12, weight: "6.9", size: ["13", "10", "11"] }, bin: "E-07-1", stock: 200, value: "9.80", hs: "8421.99", origin: "US" },
  { sku: "BUN-10", description: "Drilled bung no. 10, bag of 10", weight: "1.1", size: ["7", "5", "3"], bin: "B-02-4", stock: 130, value: "14.00", hs: "4016.93", origin: "US" },
  { sku: "AIR-LOCK-50", description: "Airlocks, bag of 50", weight: "2.2", size: ["12", "10", "6"], bin: "B-03-1", stock: 75, value: "29.00", hs: "3926.90", origin: "IT" },
  { sku: "OAK-CHIP-10", description: "Toasted oak chips, 10 lb bag", weight: "10.3", size: ["20", "14", "6"], bin: "F-01-2", stock: 66, value: "41.00", hs: "4409.29", origin: "US" },
  { sku: "MALT-PIL-50", description: "Pilsner malt, 50 lb sack", weight: "50.4", size: ["28", "17", "6"], bin: "F-05-1", stock: 120, value: "39.00", hs: "1107.10", origin: "CA" },
  { sku: "CLN-PHOS-5", description: "Phosphoric cleaner, 5 L jug", weight: "14.1", size: ["8", "6", "12"], bin: "Q-01-4", stock: 60, value: "36.00", hs: "3402.90", origin: "US", upright: true, unNumber: "UN1805" },
  { sku: "TANK-105", description: "Conical tank, 105 gal", weight: "186", size: ["44", "36", "80"], bin: "Z-01-1", stock: 5, value: "2450.00", hs: "7309.00", origin: "US", upright: true, freight: true },
]

export const packaging: { code: string; name: string; inner: [string, string, string]; outer: [string, string, string]; tare: string; maxLoad: string }[] = [
  { code: "K02", name: "Small carton", inner: ["9", "6", "4"], outer: ["9.3", "6.3", "4.6"], tare: "0.35", maxLoad: "20" },
  { code: "K03", name: "Flat carton", inner: ["15.5", "15.5", "5"], outer: ["15.8", "15.8", "5.6"], tare: "0.9", maxLoad: "30" },
  { code: "K05", name: "Instrument carton", inner: ["14.5", "8", "6"], outer: ["14.8", "8.3", "6.6"], tare: "0.6", maxLoad: "30" },
  { code: "K07", name: "Cube carton", inner: ["12", "12", "12"], outer: ["12.4", "12.4", "12.8"], tare: "1.1", maxLoad: "50" },
  { code: "K09", name: "Bottle carton", inner: ["15", "11.5", "13"], outer: ["15.4", "11.9", "13.8"], tare: "1.3", maxLoad: "65" },
  { code: "K10", name: "Half carton", inner: ["18", "14", "12"], outer: ["18.4", "14.4", "12.8"], tare: "1.6", maxLoad: "65" },
  { code: "K12", name: "Large carton", inner: ["23", "15.5", "16"], outer: ["23.5", "16", "16.9"], tare: "2.4", maxLoad: "75" },
  { code: "K14", name: "Sack carton", inner: ["28.5", "18", "13"], outer: ["29", "18.5", "13.9"], tare: "3.1", maxLoad: "120" },
]
