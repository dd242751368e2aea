/** The palette: seven neutrals of one warm family and one hot hue in two weights. Hot means: a person must act. */
export const palette = {
  paper: "#E7E3DA",
  hi: "#F7F4EE",
  lo: "#D8D3C7",
  rule: "#BDB6A7",
  ink: "#1A1814",
  ink2: "#48433A",
  ink3: "#625C50",
  bone: "#EFEBE2",
  ash: "#A9A193",
  gone: "#8A8272",
  gonePlate: "#3A362E",
  hot: "#FF4E14",
  ember: "#B02F00",
} as const

export const faces = {
  sign: "'Sofia Sans Extra Condensed Variable', 'Arial Narrow', sans-serif",
  read: "'Atkinson Hyperlegible Next Variable', Verdana, sans-serif",
  code: "'Atkinson Hyperlegible Mono Variable', 'DejaVu Sans Mono', monospace",
} as const
