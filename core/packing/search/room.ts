/**
 * The free room of one box while pieces are put in: maximal empty spaces (Lai and Chan, "Developing a simulated
 * annealing algorithm for the cutting stock problem", 1997), the largest blocks that are still free, which may overlap.
 * A piece goes into a corner of one of them. Lengths are whole numbers of any one unit.
 */

/** A way in which a piece may be turned: its edges along the box. */
export type Turn = readonly [length: number, width: number, height: number]

/** A kind of piece as it is put in. */
export interface Shape {
  /** Each way once. */
  readonly turns: readonly Turn[]
  readonly volume: number
  readonly weight: number
  /** What may stand on one; without end where there is no limit. */
  readonly limit: number
  /** Which goods these are among those that may not lie together. */
  readonly company: number
}

export interface Inside {
  readonly length: number
  readonly width: number
  readonly height: number
}

/** Where a piece lies. */
export interface Lying {
  readonly shape: number
  readonly x: number
  readonly y: number
  readonly z: number
  readonly length: number
  readonly width: number
  readonly height: number
}

/** How the place for a piece is chosen among those that are free. */
export type Rule = "low" | "corner" | "tight" | "middle" | "column"

/** What must hold besides that pieces do not overlap. */
export interface Holding {
  /** How much of a piece's base must stand on something; 0: it may hang. */
  readonly support: number
  /** Whether any piece has a limit on what may stand on it. */
  readonly limited: boolean
}

const spaceParts = 6

export interface Saved {
  readonly spaces: Int32Array
  readonly count: number
  readonly carried: readonly number[]
  readonly volume: number
  readonly weight: number
}

export class Room {
  /** Free spaces: six bounds of each, lower ones first. */
  #spaces = new Int32Array(spaceParts * 64)
  #spaceCount = 0
  #next = new Int32Array(spaceParts * 64)
  /** Pieces: shape, and six bounds of each. */
  #pieces: number[] = []
  #count = 0
  #length = 0
  #width = 0
  #height = 0
  /** What each piece carries, where anything is limited. */
  #carried: number[] = []
  #weighed: number[] | null = null
  volume = 0
  weight = 0
  /** How many spaces were looked at in all: the work done, whatever the machine. */
  looks = 0

  constructor(
    readonly shapes: readonly Shape[],
    readonly holding: Holding,
  ) {}

  get count(): number {
    return this.#count
  }

  /** Empties the room and gives it other walls. */
  open({ length, width, height }: Inside): void {
    this.#length = length
    this.#width = width
    this.#height = height
    this.#count = 0
    this.volume = 0
    this.weight = 0
    this.#carried = []
    this.#spaceCount = 1
    this.#spaces.set([0, 0, 0, length, width, height])
  }

  /** The pieces that lie in it. */
  lying(): Lying[] {
    const all: Lying[] = []
    for (let at = 0; at < this.#count; at += 1) {
      const [shape = 0, x = 0, y = 0, z = 0, x2 = 0, y2 = 0, z2 = 0] = this.#pieces.slice(at * 7, at * 7 + 7)
      all.push({ shape, x, y, z, length: x2 - x, width: y2 - y, height: z2 - z })
    }
    return all
  }

  /**
   * Puts a piece of a shape in where the rule says; false where it goes nowhere. Spaces in which nothing of the least
   * edge and volume of what is still to come would fit are forgotten.
   */
  put(shape: number, rule: Rule, leastEdge: number, leastVolume: number): boolean {
    const { turns, weight } = this.shapes[shape] as Shape
    this.looks += this.#spaceCount
    const spaces = this.#spaces
    const centered = rule === "middle" || rule === "column"
    let [best, bx, by, bz, bl, bw, bh] = [Number.POSITIVE_INFINITY, 0, 0, 0, 0, 0, 0]
    for (let at = 0, end = this.#spaceCount * spaceParts; at < end; at += spaceParts) {
      const x = spaces[at] as number
      const y = spaces[at + 1] as number
      const z = spaces[at + 2] as number
      const long = (spaces[at + 3] as number) - x
      const wide = (spaces[at + 4] as number) - y
      const high = (spaces[at + 5] as number) - z
      for (let turn = 0; turn < turns.length; turn += 1) {
        const [l, w, h] = turns[turn] as Turn
        if (l > long || w > wide || h > high) continue
        // as near to the middle of the floor as the space lets it
        const mx = centered ? Math.min(Math.max(Math.floor((this.#length - l) / 2), x), x + long - l) : x
        const my = centered ? Math.min(Math.max(Math.floor((this.#width - w) / 2), y), y + wide - w) : y
        const value =
          rule === "middle" || rule === "column"
            ? this.#away(rule, mx, my, z, l, w)
            : this.#value(rule, x, y, z, l, w, h, long, wide, high)
        if (value >= best) continue
        // a space may reach beyond what stands under it: any of its corners may be the one that holds
        const corners = centered || this.holding.support === 0 || z === 0 ? 1 : 4
        for (let corner = 0; corner < corners; corner += 1) {
          if ((corner & 1 && long === l) || (corner & 2 && wide === w)) continue
          const px = corner & 1 ? x + long - l : mx
          const py = corner & 2 ? y + wide - w : my
          if (z > 0 && this.holding.support > 0 && !this.#supported(px, py, z, l, w)) continue
          if (!this.#bears(shape, px, py, z, l, w, h)) continue
          best = value
          bx = px
          by = py
          bz = z
          bl = l
          bw = w
          bh = h
          break
        }
      }
    }
    if (best === Number.POSITIVE_INFINITY) return false
    if (this.holding.limited) this.#carry(shape, bx, by, bz, bl, bw, bh)
    this.#lay(shape, bx, by, bz, bl, bw, bh, leastEdge, leastVolume)
    this.weight += weight
    return true
  }

  /** The free space whose corner is lowest, then nearest; -1 where there is none. */
  lowest(): number {
    const spaces = this.#spaces
    this.looks += this.#spaceCount
    let best = -1
    for (let at = 0, end = this.#spaceCount * spaceParts; at < end; at += spaceParts) {
      const than = best * spaceParts
      if (
        best < 0 ||
        (spaces[at + 2] as number) < (spaces[than + 2] as number) ||
        (spaces[at + 2] === spaces[than + 2] &&
          ((spaces[at + 1] as number) < (spaces[than + 1] as number) ||
            (spaces[at + 1] === spaces[than + 1] && (spaces[at] as number) < (spaces[than] as number))))
      )
        best = at / spaceParts
    }
    return best
  }

  /** Puts a piece into the corner of a space in one of its turns; false where it does not go there. */
  putAt(space: number, shape: number, turn: number, leastEdge: number, leastVolume: number): boolean {
    const { turns, weight } = this.shapes[shape] as Shape
    const [l, w, h] = turns[turn] as Turn
    const at = space * spaceParts
    const [x, y, z] = [this.#spaces[at] as number, this.#spaces[at + 1] as number, this.#spaces[at + 2] as number]
    if (
      x + l > (this.#spaces[at + 3] as number) ||
      y + w > (this.#spaces[at + 4] as number) ||
      z + h > (this.#spaces[at + 5] as number)
    )
      return false
    if (z > 0 && this.holding.support > 0 && !this.#supported(x, y, z, l, w)) return false
    if (!this.#bears(shape, x, y, z, l, w, h)) return false
    if (this.holding.limited) this.#carry(shape, x, y, z, l, w, h)
    this.#lay(shape, x, y, z, l, w, h, leastEdge, leastVolume)
    this.weight += weight
    return true
  }

  /** Leaves the corner of a space empty: what lies in no other space is given up. */
  leave(space: number): void {
    const last = (this.#spaceCount - 1) * spaceParts
    const at = space * spaceParts
    for (let part = 0; part < spaceParts; part += 1) this.#spaces[at + part] = this.#spaces[last + part] as number
    this.#spaceCount -= 1
  }

  /** The room as it is, to come back to. */
  save(): Saved {
    return {
      spaces: this.#spaces.slice(0, this.#spaceCount * spaceParts),
      count: this.#count,
      carried: this.holding.limited ? [...this.#carried] : [],
      volume: this.volume,
      weight: this.weight,
    }
  }

  /** Back to a room that was saved: pieces that were put in since are out again. */
  restore({ spaces, count, carried, volume, weight }: Saved): void {
    this.#spaces.set(spaces)
    this.#spaceCount = spaces.length / spaceParts
    this.#count = count
    if (this.holding.limited) this.#carried = [...carried]
    this.volume = volume
    this.weight = weight
  }

  /** How far a place is from the middle: the lowest first, or the nearest. */
  #away(rule: "middle" | "column", x: number, y: number, z: number, l: number, w: number): number {
    const [dx, dy] = [2 * x + l - this.#length, 2 * y + w - this.#width]
    const away = Math.sqrt(dx * dx + dy * dy)
    return rule === "middle" ? z * 1e6 + away : away * 1e6 + z
  }

  /** What a place is worth by a rule: the least is taken. */
  #value(
    rule: Exclude<Rule, "middle" | "column">,
    x: number,
    y: number,
    z: number,
    l: number,
    w: number,
    h: number,
    long: number,
    wide: number,
    high: number,
  ): number {
    if (rule === "low") return z * 1e6 + (z + h) * 1e3 + y + x * 1e-3
    if (rule === "corner") {
      // as far as can be from the corner opposite (Gonçalves and Resende, 2013)
      const [dx, dy, dz] = [this.#length - x - l, this.#width - y - w, this.#height - z - h]
      return -(dx * dx + dy * dy + dz * dz)
    }
    const [a, b, c] = [long - l, wide - w, high - h]
    const least = Math.min(a, b, c)
    return least * 1e6 + Math.min(Math.max(a, b), Math.max(b, c), Math.max(a, c)) + z * 1e-3
  }

  #supported(x: number, y: number, z: number, l: number, w: number): boolean {
    const needed = this.holding.support * l * w
    let area = 0
    const pieces = this.#pieces
    for (let at = 0, end = this.#count * 7; at < end; at += 7) {
      if (pieces[at + 6] !== z) continue
      const along = Math.min(pieces[at + 4] as number, x + l) - Math.max(pieces[at + 1] as number, x)
      if (along <= 0) continue
      const across = Math.min(pieces[at + 5] as number, y + w) - Math.max(pieces[at + 2] as number, y)
      if (across <= 0) continue
      area += along * across
      if (area >= needed) return true
    }
    return area >= needed
  }

  /** Whether no piece carries more than it may with this one put on. */
  #bears(shape: number, x: number, y: number, z: number, l: number, w: number, h: number): boolean {
    if (!this.holding.limited) return true
    // what comes under something that stands there already takes load off its neighbors: all is weighed again
    if (this.#carriesAbove(x, y, z + h, l, w)) return this.#bearsAll(shape, x, y, z, l, w, h)
    return z === 0 || this.#carryMore(x, y, z, l, w, (this.shapes[shape] as Shape).weight)
  }

  /** Keeps what each carries once a piece is put in. */
  #carry(shape: number, x: number, y: number, z: number, l: number, w: number, h: number): void {
    if (this.#carriesAbove(x, y, z + h, l, w)) {
      this.#weighed = null
      this.#bearsAll(shape, x, y, z, l, w, h)
      if (this.#weighed) this.#carried = this.#weighed
      return
    }
    this.#carried[this.#count] = 0
    if (z > 0) this.#handOn(x, y, z, l, w, (this.shapes[shape] as Shape).weight, [])
  }

  #carriesAbove(x: number, y: number, top: number, l: number, w: number): boolean {
    const pieces = this.#pieces
    for (let at = 0, end = this.#count * 7; at < end; at += 7)
      if (
        pieces[at + 3] === top &&
        (pieces[at + 1] as number) < x + l &&
        x < (pieces[at + 4] as number) &&
        (pieces[at + 2] as number) < y + w &&
        y < (pieces[at + 5] as number)
      )
        return true
    return false
  }

  /** Hands a weight on to what stands under a base, by the areas of contact; what was carried before is noted. */
  #handOn(x: number, y: number, z: number, l: number, w: number, weight: number, before: number[]): void {
    const pieces = this.#pieces
    const under: number[] = []
    let whole = 0
    for (let index = 0, at = 0; index < this.#count; index += 1, at += 7) {
      if (pieces[at + 6] !== z) continue
      const along = Math.min(pieces[at + 4] as number, x + l) - Math.max(pieces[at + 1] as number, x)
      const across = Math.min(pieces[at + 5] as number, y + w) - Math.max(pieces[at + 2] as number, y)
      if (along <= 0 || across <= 0) continue
      under.push(index, along * across)
      whole += along * across
    }
    for (let at = 0; at < under.length; at += 2) {
      const index = under[at] as number
      const share = (weight * (under[at + 1] as number)) / whole
      const own = index * 7
      before.push(index, this.#carried[index] as number)
      this.#carried[index] = (this.#carried[index] as number) + share
      const base = pieces[own + 3] as number
      if (base === 0) continue
      const [px, py] = [pieces[own + 1] as number, pieces[own + 2] as number]
      this.#handOn(px, py, base, (pieces[own + 4] as number) - px, (pieces[own + 5] as number) - py, share, before)
    }
  }

  /** Whether what stands under a base can carry a weight more; what it carries is left as it was. */
  #carryMore(x: number, y: number, z: number, l: number, w: number, weight: number): boolean {
    const before: number[] = []
    this.#handOn(x, y, z, l, w, weight, before)
    let holds = true
    for (let at = 0; at < before.length; at += 2) {
      const index = before[at] as number
      const { limit } = this.shapes[this.#pieces[index * 7] as number] as Shape
      if ((this.#carried[index] as number) > limit + 1e-9) holds = false
    }
    for (let at = before.length - 2; at >= 0; at -= 2) this.#carried[before[at] as number] = before[at + 1] as number
    return holds
  }

  /** The same with every load reckoned from the top down; keeps what each carries where it holds. */
  #bearsAll(shape: number, x: number, y: number, z: number, l: number, w: number, h: number): boolean {
    const count = this.#count
    const all = [...this.#pieces.slice(0, count * 7), shape, x, y, z, x + l, y + w, z + h]
    const part = (index: number, which: number) => all[index * 7 + which] as number
    const order = Array.from({ length: count + 1 }, (_, index) => index).sort((a, b) => part(b, 3) - part(a, 3))
    const carried = new Array<number>(count + 1).fill(0)
    for (const one of order) {
      const own = carried[one] as number
      const { limit, weight } = this.shapes[part(one, 0)] as Shape
      if (own > limit + 1e-9) return false
      const base = part(one, 3)
      if (base === 0) continue
      const under: [number, number][] = []
      let whole = 0
      for (let other = 0; other <= count; other += 1) {
        if (part(other, 6) !== base) continue
        const along = Math.min(part(other, 4), part(one, 4)) - Math.max(part(other, 1), part(one, 1))
        const across = Math.min(part(other, 5), part(one, 5)) - Math.max(part(other, 2), part(one, 2))
        if (along <= 0 || across <= 0) continue
        under.push([other, along * across])
        whole += along * across
      }
      for (const [other, area] of under) carried[other] = (carried[other] as number) + ((own + weight) * area) / whole
    }
    this.#weighed = carried
    return true
  }

  #lay(
    shape: number,
    x: number,
    y: number,
    z: number,
    l: number,
    w: number,
    h: number,
    leastEdge: number,
    leastVolume: number,
  ): void {
    const [x2, y2, z2] = [x + l, y + w, z + h]
    const pieces = this.#pieces
    const own = this.#count * 7
    pieces[own] = shape
    pieces[own + 1] = x
    pieces[own + 2] = y
    pieces[own + 3] = z
    pieces[own + 4] = x2
    pieces[own + 5] = y2
    pieces[own + 6] = z2
    this.#count += 1
    this.volume += l * w * h
    const spaces = this.#spaces
    const total = this.#spaceCount * spaceParts
    // room for what may come: each space that is cut leaves up to six
    if (this.#next.length < total * 7) this.#next = new Int32Array(total * 7)
    const next = this.#next
    let kept = 0
    for (let at = 0; at < total; at += spaceParts) {
      if (
        (spaces[at] as number) < x2 &&
        x < (spaces[at + 3] as number) &&
        (spaces[at + 1] as number) < y2 &&
        y < (spaces[at + 4] as number) &&
        (spaces[at + 2] as number) < z2 &&
        z < (spaces[at + 5] as number)
      )
        continue
      for (let part = 0; part < spaceParts; part += 1) next[kept + part] = spaces[at + part] as number
      kept += spaceParts
    }
    let end = kept
    for (let at = 0; at < total; at += spaceParts) {
      const sx = spaces[at] as number
      const sy = spaces[at + 1] as number
      const sz = spaces[at + 2] as number
      const sx2 = spaces[at + 3] as number
      const sy2 = spaces[at + 4] as number
      const sz2 = spaces[at + 5] as number
      if (!(sx < x2 && x < sx2 && sy < y2 && y < sy2 && sz < z2 && z < sz2)) continue
      if (x > sx) end = this.#add(next, end, sx, sy, sz, x, sy2, sz2, leastEdge, leastVolume)
      if (x2 < sx2) end = this.#add(next, end, x2, sy, sz, sx2, sy2, sz2, leastEdge, leastVolume)
      if (y > sy) end = this.#add(next, end, sx, sy, sz, sx2, y, sz2, leastEdge, leastVolume)
      if (y2 < sy2) end = this.#add(next, end, sx, y2, sz, sx2, sy2, sz2, leastEdge, leastVolume)
      if (z > sz) end = this.#add(next, end, sx, sy, sz, sx2, sy2, z, leastEdge, leastVolume)
      if (z2 < sz2) end = this.#add(next, end, sx, sy, z2, sx2, sy2, sz2, leastEdge, leastVolume)
    }
    this.looks += (end - kept) / spaceParts
    this.#next = spaces
    this.#spaces = next
    this.#spaceCount = end / spaceParts
  }

  /** Adds a space unless it is too small or lies in another; those that lie in it go. */
  #add(
    list: Int32Array,
    end: number,
    x: number,
    y: number,
    z: number,
    x2: number,
    y2: number,
    z2: number,
    leastEdge: number,
    leastVolume: number,
  ): number {
    const [l, w, h] = [x2 - x, y2 - y, z2 - z]
    if (l < leastEdge || w < leastEdge || h < leastEdge || l * w * h < leastVolume) return end
    for (let at = 0; at < end; at += spaceParts) {
      if (
        (list[at] as number) <= x &&
        x2 <= (list[at + 3] as number) &&
        (list[at + 1] as number) <= y &&
        y2 <= (list[at + 4] as number) &&
        (list[at + 2] as number) <= z &&
        z2 <= (list[at + 5] as number)
      )
        return end
    }
    list[end] = x
    list[end + 1] = y
    list[end + 2] = z
    list[end + 3] = x2
    list[end + 4] = y2
    list[end + 5] = z2
    return end + spaceParts
  }
}
