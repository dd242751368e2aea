import { z } from "zod"

const line = (most: number) => z.string().trim().max(most).default("")

/** What papers say of the shipper besides name and address. */
export const shipperSchema = z.strictObject({
  taxNumber: line(30),
  /** Two letters and up to 15 signs: Regulation (EU) 952/2013. */
  eori: z
    .string()
    .trim()
    .toUpperCase()
    .regex(/^([A-Z]{2}[A-Z0-9]{1,15})?$/, { error: "shipper.eori" })
    .default(""),
  /** One-stop number by which he collects import tax of consumers: `IM` and ten digits (shape from memory). */
  oneStop: z
    .string()
    .trim()
    .toUpperCase()
    .regex(/^(IM\d{10})?$/, { error: "shipper.oneStop" })
    .default(""),
  /** A telephone that is answered at any hour for whoever has an accident with the goods: 49 CFR 172.604. */
  emergencyPhone: line(40),
  /** Who signs papers, and his title; nobody: whoever buys the labels. */
  signer: line(60),
  title: line(40),
})
export type ShipperSettings = z.infer<typeof shipperSchema>
