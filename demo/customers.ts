/** Invented customers in real cities; streets are invented, mail would be under .example, telephones 555-01xx. */
export interface DemoCustomer {
  code: string
  name: string
  attention: string
  street: string
  street2?: string
  city: string
  state: string
  postal: string
  country?: string
  kind: "unknown" | "business" | "residential"
}

export const customers: DemoCustomer[] = [
  { code: "BARFIN", name: "Barrow & Finch Brewing", attention: "Cellar", street: "118 Mashtun Way", city: "Minneapolis", state: "MN", postal: "55413", kind: "business" },
  { code: "SAWALE", name: "Sawbuck Ales", attention: "Receiving", street: "2204 Grainhopper Road", city: "Milwaukee", state: "WI", postal: "53204", kind: "business" },
  { code: "TERNLK", name: "Tern Lake Winery", attention: "A. Lindqvist", street: "77 Vinegate Lane", city: "Traverse City", state: "MI", postal: "49684", kind: "business" },
  { code: "MINLAB", name: "Minnow Creek Lab", attention: "Dr. R. Osei", street: "9 Petridish Court", street2: "Suite 210", city: "Madison", state: "WI", postal: "53703", kind: "business" },
  { code: "HALVRD", name: "Halvard Brewing", attention: "Dock B", street: "4410 Wortline Avenue", city: "Fargo", state: "ND", postal: "58102", kind: "business" },
  { code: "PINANV", name: "Pine & Anvil", attention: "J. Tollefson", street: "615 Sparkarrester Street", city: "Bozeman", state: "MT", postal: "59715", kind: "business" },
  { code: "GOOSEB", name: "Gooseberry Works", attention: "Receiving", street: "31 Tannin Terrace", city: "Des Moines", state: "IA", postal: "50309", kind: "business" },
  { code: "DRYFRK", name: "Dry Fork Ciderhouse", attention: "M. Abara", street: "508 Pomacea Street", city: "Yakima", state: "WA", postal: "98901", kind: "unknown" },
  { code: "LANHIL", name: "Lantern Hill Brewing", attention: "Brewer on shift", street: "1290 Kettlestone Drive", city: "Sioux Falls", state: "SD", postal: "57104", kind: "business" },
  { code: "ELKRUN", name: "Elk Run Taproom", attention: "Back door", street: "14 Growler Row", city: "Denver", state: "CO", postal: "80205", kind: "business" },
  { code: "NORMED", name: "Northreach Mead", attention: "S. Vantongeren", street: "202 Hivekeeper Lane", city: "Marquette", state: "MI", postal: "49855", kind: "residential" },
  { code: "QUAROA", name: "Quarry Ledge Ferments", attention: "Receiving", street: "3300 Crockside Road", city: "Cedar Rapids", state: "IA", postal: "52401", kind: "business" },
  { code: "OTTALE", name: "Little Otter Alehouse", attention: "P. Ngata", street: "88 Racking Street", city: "Portland", state: "OR", postal: "97214", kind: "business" },
  { code: "WRNLAB", name: "Wrenvale Analytics", attention: "Sample room", street: "450 Titration Parkway", city: "Davis", state: "CA", postal: "95616", kind: "business" },
  { code: "ASHCEL", name: "Ashfall Cellars", attention: "Cellar door", street: "1701 Barrelvault Road", city: "Walla Walla", state: "WA", postal: "99362", kind: "business" },
  { code: "TRESTL", name: "Trestle Yard Brewing", attention: "Receiving", street: "6 Switchman Alley", city: "Chicago", state: "IL", postal: "60608", kind: "business" },
  { code: "BENSPO", name: "Bentspoon Kitchens", attention: "T. Okonjo", street: "92 Whiskwright Street", city: "Saint Paul", state: "MN", postal: "55104", kind: "unknown" },
  { code: "LOONBA", name: "Loon Bay Brewery", attention: "Dock", street: "3 Peatwater Drive", city: "Thief River Falls", state: "MN", postal: "56701", kind: "business" },
  { code: "MOONHM", name: "Moonhollow Homebrew Circle", attention: "K. Dressler", street: "27 Lauterbridge Lane", city: "Nashville", state: "TN", postal: "37206", kind: "residential" },
  { code: "HARBCO", name: "Harborlight Kombucha", attention: "Receiving", street: "705 Scobyfield Street", city: "Boston", state: "MA", postal: "02127", kind: "business" },
]
