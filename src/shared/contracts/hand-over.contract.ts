import { z } from 'zod'
import { TILINGS } from '#core/material/open-pbr'
import { profileSchema } from './profiles.contract'

/** A path inside a hand-over: it cannot lead out of it. */
const innerPath = z
  .string()
  .min(1)
  .max(500)
  .refine(
    path => !path.startsWith('/') && !path.includes('\\') && !path.split('/').includes('..'),
    'This path leads out of the folder.',
  )

export const manifestItemSchema = z.object({
  code: z.string(),
  name: z.string(),
  kind: z.string(),
  version: z.number(),
  category: z.string(),
  maker: z.string(),
  licence: z.string(),
  target: z.string(),
  widthMm: z.number().nullable(),
  tiling: z.enum(TILINGS),
  /** Whether it was taken along to be changed: its files need not be as they were. */
  isCopy: z.boolean().optional(),
  /** What the form does not say of it, in sentences. */
  notes: z.array(z.string()).default([]),
  files: z.array(z.object({ path: innerPath, sha256: z.string().regex(/^[0-9a-f]{64}$/), bytes: z.number() })),
})
export type ManifestItem = z.infer<typeof manifestItemSchema>

/** What a hand-over says of itself, as manifest.json. */
export const manifestSchema = z.object({
  /** Null of an item that was handed over by itself. */
  project: z.object({ code: z.string(), title: z.string() }).nullable(),
  /** Where the whole of it can be had; null of one that was written by itself. */
  source: z.object({ projectId: z.number(), exportId: z.number() }).nullable().default(null),
  exportedAt: z.string(),
  maxSizePx: z.number().nullable(),
  /** How it was written; what was written before there were profiles does not say. */
  profile: profileSchema.optional(),
  items: z.array(manifestItemSchema),
  /** Items that could not be written, each with its reason. */
  failures: z.array(z.object({ code: z.string(), version: z.number(), message: z.string() })),
})
export type ExportManifest = z.infer<typeof manifestSchema>

/** Items of a hand-over, of which somebody asks how they stand now. */
export const standingQuerySchema = z.object({
  items: z.array(z.object({ code: z.string().max(40), version: z.number().int().positive() })).max(10_000),
})

/** How items of a hand-over stand now; of what the asker does not see, nothing is said. */
export const standingListSchema = z.array(
  z.object({
    code: z.string(),
    name: z.string(),
    /** As it was handed over. */
    version: z.number(),
    /** The approved one; null when there is none. */
    approved: z.number().nullable(),
    isWithdrawn: z.boolean(),
  }),
)
export type Standing = z.infer<typeof standingListSchema>[number]

/** Whether a newer version is approved than was handed over. */
export const isOlder = ({ approved, version }: Standing): boolean => approved !== null && approved > version
