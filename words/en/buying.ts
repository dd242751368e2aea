export const buying = {
  "paper.no-printer":
    "This warehouse has no printer for this kind of paper ({kind}). Choose one under Setup → Printers, or open the paper and print it from there.",
  "paper.not-printable":
    "“{text}” can't be printed: the papers' fonts don't have {signs}. Use Latin letters and print again.",
  "paper.does-not-fit": "“{text}” doesn't fit its place on the paper. Shorten it and print again.",
  "variant.as-packed": "as packed",
  "variant.pallet": "on a pallet",
  "variant.loose": "as loose cartons",
  "variant.joined": "combined with {other}",
  "variant.two": "as two, {packages} separate",
  "variant.otherwise": "Repacked",
  "otherwise.costs": "Packed in {boxes}, {service} costs {cost}, {less} less.",
  "otherwise.do": "Repack this way",
  "otherwise.plate": "Repacked: {cost}, see the table.",
  "buy.balance-short": "The prepaid balance is {left} {currency}, {lacks} short. Top it up or choose another carrier.",
  "buy.truck-changed": "The shipment would leave {now}, not {seen}. Check the rates again.",
  "buy.not-closed": "Close the cartons first.",
  "buy.service-cannot": "This service can't take the shipment any more.",
  "buy.price-changed": "The price changed from {seen} to {now}. Check it and decide again.",
  "buy.no-answer": "{carrier} is not answering. Varnok keeps asking, and it is booked only once.",
  "buy.refused": "{carrier} refused: {why}. Nothing was bought.",
  "buy.differs":
    "{carrier} charged {answered} {currency} instead of {expected}. The booking was canceled there. Decide again.",
  "buy.pieces-differ": "{carrier} answered for different packages. The booking was canceled there. Decide again.",
  "buy.given-up": "The booking was canceled at {carrier}. Nothing was bought.",
  "buy.number-wrong":
    "{carrier} sent an item number with a wrong check digit. The booking was canceled there. Decide again.",
  "buy.build-pallet": "Build a pallet first: this service takes pallets.",
  "buy.take-apart": "Break down the pallet first: this service takes single cartons.",
  "label.does-not-fit": "“{text}” doesn't fit the label's {field} field. Shorten it on the order and try again.",
  "void.nothing-bought": "No label is bought here.",
  "void.on-truck": "Package {package} is on the truck. Take it off at the dock first.",
  "void.gone": "Package {package} has left.",
  "void.window-over":
    "{carrier} voids labels within {hours, plural, one {# hour} other {# hours}} of buying. That time is over.",
  "void.refused": "{carrier} refused to void it: {why}. The labels stay valid.",
} as const
