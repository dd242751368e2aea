/**
 * What an ICU message needs, read from its text by the type checker: `{name}` takes a text or a number,
 * `{n, plural, …}` a number, `{kind, select, …}` a text. A key, placeholder or figure that does not belong together
 * is then an error of types where the message is used, not a hole on the screen.
 *
 * @example Figures<"{n, plural, one {# order} other {# orders}} for {name}"> // { n: number; name: string | number }
 */
export type Figures<Message extends string> = Flat<Read<Message, ["message"], unknown>>

type Flat<T> = { readonly [Name in keyof T]: T[Name] }

/**
 * Reads on from one brace to the next. `Inside` says where the reading stands, innermost first: in a message, or among
 * the options of a plural or select.
 */
type Read<Text extends string, Inside extends readonly Place[], Found> = Text extends `${infer Before}{${infer After}`
  ? Before extends `${string}}${string}`
    ? Text extends `${string}}${infer Rest}`
      ? Read<Rest, Out<Inside>, Found>
      : Found
    : Inside extends readonly ["options", ...Place[]]
      ? Read<After, ["message", ...Inside], Found>
      : After extends `${infer Head}}${infer Rest}`
        ? Head extends `${infer Name}, ${infer Kind}, ${string}`
          ? After extends `${Name}, ${Kind}, ${infer Options}`
            ? Read<Options, ["options", ...Inside], Found & { [P in Name]: Kind extends "plural" ? number : string }>
            : never
          : Read<Rest, Inside, Found & { [P in Head]: string | number }>
        : Found
  : Found

type Place = "message" | "options"
type Out<Inside extends readonly Place[]> = Inside extends readonly [Place, ...infer Rest extends readonly Place[]]
  ? Rest
  : ["message"]
