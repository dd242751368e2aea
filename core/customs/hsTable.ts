/**
 * What codes of the harmonized system stand for: the chapters, and the headings that goods of this trade need, each with
 * further words by which it is found. Wording shortened from the titles of the Harmonized System (World Customs
 * Organization), from memory: a proposal, not an opinion on classification.
 */
export const hsChapters: readonly (readonly [code: string, title: string])[] = (
  `01 Live animals|02 Meat|03 Fish, crustaceans|04 Dairy produce, eggs, honey|05 Other products of animal origin|` +
  `06 Live plants, cut flowers|07 Vegetables|08 Fruit and nuts|09 Coffee, tea, spices|10 Cereals|` +
  `11 Milling products, malt, starches|12 Oil seeds, hop cones, medicinal plants|13 Gums, resins, vegetable saps|` +
  `14 Vegetable plaiting materials|15 Fats and oils|16 Preparations of meat or fish|17 Sugars|18 Cocoa|` +
  `19 Preparations of cereals, bakers' wares|20 Preparations of vegetables or fruit|` +
  `21 Miscellaneous edible preparations, yeast|22 Beverages, spirits, vinegar|23 Residues of food, animal feed|24 Tobacco|` +
  `25 Salt, sulfur, earths, stone, cement|26 Ores, slag|27 Mineral fuels and oils|28 Inorganic chemicals, acids|` +
  `29 Organic chemicals|30 Pharmaceutical products|31 Fertilizers|32 Tanning extracts, dyes, paints, inks|` +
  `33 Essential oils, cosmetics|34 Soap, washing and cleaning preparations|35 Albumins, glues, enzymes|` +
  `36 Explosives, matches|37 Photographic goods|38 Miscellaneous chemical products|39 Plastics and articles of plastics|` +
  `40 Rubber and articles of rubber|41 Hides and skins|42 Articles of leather|43 Furskins|44 Wood and articles of wood|` +
  `45 Cork and articles of cork|46 Basketware|47 Pulp of wood|48 Paper and paperboard|49 Printed books, pictures|50 Silk|` +
  `51 Wool|52 Cotton|53 Other vegetable textile fibers|54 Man-made filaments|55 Man-made staple fibers|` +
  `56 Wadding, felt, twine, rope|57 Carpets|58 Special woven fabrics|59 Coated textile fabrics|60 Knitted fabrics|` +
  `61 Apparel, knitted|62 Apparel, not knitted|63 Other made-up textile articles|64 Footwear|65 Headgear|66 Umbrellas|` +
  `67 Feathers, artificial flowers|68 Articles of stone, plaster, cement|69 Ceramic products|70 Glass and glassware|` +
  `71 Precious stones and metals|72 Iron and steel|73 Articles of iron or steel|74 Copper|75 Nickel|76 Aluminum|78 Lead|` +
  `79 Zinc|80 Tin|81 Other base metals|82 Tools, cutlery|83 Miscellaneous articles of base metal|` +
  `84 Machinery, pumps, tanks with equipment|85 Electrical machinery, batteries|86 Railway equipment|87 Vehicles|88 Aircraft|` +
  `89 Ships|90 Optical and measuring instruments|91 Clocks|92 Musical instruments|93 Arms|94 Furniture, lamps|95 Toys, games|` +
  `96 Miscellaneous manufactured articles|97 Works of art`
)
  .split("|")
  .map((row) => [row.slice(0, 2), row.slice(3)] as const)

/** Headings and subheadings with their words and synonyms. */
export const hsHeadings: readonly (readonly [code: string, title: string, words: string])[] = [
  ["1107.10", "Malt, not roasted", "malt pilsner wheat barley grain"],
  ["1107.20", "Malt, roasted", "malt roasted caramel chocolate black"],
  ["1210.10", "Hop cones, not ground", "hops hop cone whole"],
  ["1210.20", "Hop cones, ground, powdered or in pellets", "hops hop pellets lupulin powder"],
  ["1302.13", "Vegetable extracts of hops", "hop extract oil"],
  ["2102.10", "Active yeasts", "yeast dry lager ale cider wine bread culture"],
  ["2102.20", "Inactive yeasts and other single-cell micro-organisms", "yeast nutrient inactive hulls"],
  ["2203.00", "Beer made from malt", "beer ale lager"],
  ["2204.10", "Sparkling wine", "wine sparkling"],
  ["2204.21", "Wine in containers of 2 L or less", "wine grape bottle"],
  ["2206.00", "Other fermented beverages, cider, mead", "cider perry mead"],
  ["2208.90", "Spirits and other spirituous beverages", "spirit liquor tincture"],
  ["2809.20", "Phosphoric acid", "acid phosphoric"],
  ["2811.21", "Carbon dioxide, also solid", "dry ice carbon dioxide co2"],
  ["2832.20", "Sulfites", "sulfite metabisulfite potassium sodium"],
  ["2815.12", "Sodium hydroxide in aqueous solution", "caustic soda lye sodium hydroxide"],
  ["2918.14", "Citric acid", "acid citric"],
  ["2918.12", "Tartaric acid", "acid tartaric"],
  ["2918.11", "Lactic acid", "acid lactic"],
  ["3201.90", "Vegetable tanning extracts, tannins", "tannin grape oak"],
  ["3402.50", "Washing and cleaning preparations for retail sale", "cleaner detergent wash"],
  ["3402.90", "Other washing and cleaning preparations", "cleaner detergent acid caustic phosphoric sanitizer"],
  ["3503.00", "Gelatin, isinglass", "gelatin isinglass fining"],
  ["3507.90", "Enzymes, prepared enzymes", "enzyme amylase pectic pectinase"],
  ["3822.90", "Laboratory reagents", "reagent buffer test kit"],
  ["3917.39", "Flexible tubes of plastics", "tube hose plastic silicone"],
  ["3923.30", "Bottles and flasks of plastics", "bottle plastic pet jug"],
  ["3923.50", "Stoppers, lids and caps of plastics", "stopper lid cap closure plastic"],
  ["4009.11", "Tubes of vulcanized rubber", "hose rubber"],
  ["4016.93", "Gaskets and seals of rubber", "gasket seal washer epdm rubber o-ring"],
  ["4416.00", "Casks and barrels of wood", "barrel cask oak wood"],
  ["4503.10", "Corks and stoppers of natural cork", "cork stopper natural"],
  ["4504.10", "Articles of agglomerated cork", "cork agglomerated stopper"],
  ["4819.10", "Cartons of corrugated paper", "carton box corrugated"],
  ["4821.10", "Printed labels of paper", "label printed paper"],
  ["4901.99", "Printed books and brochures", "book brochure manual printed"],
  ["4911.10", "Trade advertising material, catalogs", "catalog advertising flyer price list"],
  ["7010.90", "Bottles and jars of glass", "bottle glass jar amber carboy"],
  ["7017.90", "Laboratory glassware", "beaker cylinder flask glass laboratory"],
  ["7307.29", "Tube or pipe fittings of stainless steel", "clamp fitting ferrule elbow tee stainless"],
  ["7309.00", "Tanks of iron or steel over 300 L", "tank vessel fermenter steel"],
  ["7310.10", "Tanks and casks of iron or steel of 50 L to 300 L", "keg tank drum steel"],
  ["7310.29", "Cans and casks of iron or steel under 50 L", "keg can steel"],
  ["8309.10", "Crown corks", "crown cap bottle"],
  ["8309.90", "Stoppers, caps, lids of base metal", "wire hood cap lid"],
  ["8413.60", "Rotary displacement pumps", "pump lobe impeller transfer"],
  ["8413.70", "Centrifugal pumps", "pump centrifugal"],
  ["8421.22", "Machinery for filtering beverages", "filter plate beverage"],
  ["8422.30", "Machinery for filling and closing bottles", "filler capper corker bottling"],
  ["8422.40", "Packing machinery", "packing wrapping machine"],
  ["8438.40", "Brewery machinery", "brewery kettle mash"],
  ["8479.89", "Other machines with individual functions", "machine mixer"],
  ["8481.80", "Taps, cocks and valves", "valve tap cock butterfly sample"],
  ["8506.50", "Lithium cells and batteries, not rechargeable", "battery lithium metal primary cell coin"],
  ["8507.60", "Lithium-ion accumulators", "battery lithium ion rechargeable pack"],
  ["8543.70", "Electrical machines with individual functions", "electrical"],
  ["9025.19", "Thermometers", "thermometer temperature probe"],
  ["9025.80", "Hydrometers and similar floating instruments", "hydrometer saccharometer"],
  ["9026.20", "Instruments for measuring pressure", "gauge manometer pressure"],
  ["9027.50", "Instruments using optical radiation", "refractometer spectrophotometer optical"],
  ["9027.89", "Instruments for physical or chemical analysis", "ph meter oxygen analyzer"],
]
