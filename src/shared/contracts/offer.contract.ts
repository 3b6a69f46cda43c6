import { z } from 'zod'

/** A path inside one thing on offer: relative, no way out of its folder. */
const offeredPath = z
  .string()
  .min(1)
  .max(300)
  .refine(path => !path.startsWith('/') && !path.includes('\\') && !path.split('/').includes('..'), 'leaves its folder')

export const offeredFileSchema = z.object({
  path: offeredPath,
  size: z
    .number()
    .int()
    .min(0)
    .max(64 * 1024 ** 3),
  sha256: z.string().regex(/^[0-9a-f]{64}$/),
})
export type OfferedFile = z.infer<typeof offeredFileSchema>

export const offeredItemSchema = z.object({
  id: z.string().regex(/^[a-z0-9][a-z0-9-]{0,99}$/),
  title: z.string().min(1).max(200),
  kind: z.string().max(40),
  category: z.string().max(200).default(''),
  tags: z.array(z.string().max(60)).max(50).default([]),
  /** Real-world width of one repeat of a surface, where the supplier states it. */
  widthMm: z.number().positive().max(100_000).nullable().default(null),
  version: z.number().int().min(1),
  released: z.string().max(40).default(''),
  note: z.string().max(500).default(''),
  /** No longer on offer; what was taken of it stays. */
  isWithdrawn: z.boolean().default(false),
  /** Where the supplier's own picture of it lies, below `/pictures/`. */
  picture: offeredPath.nullable().default(null),
  files: z.array(offeredFileSchema).max(2000),
})
export type OfferedItem = z.infer<typeof offeredItemSchema>

/** What a supplier's server answers at `/offer.json`; a file lies at `/files/ID/VERSION/PATH`, a picture at `/pictures/PATH`. */
export const offerSchema = z.object({
  supplier: z.string().min(1).max(200),
  licence: z.string().max(200).default(''),
  items: z.array(offeredItemSchema).max(50_000),
})
export type Offer = z.infer<typeof offerSchema>
