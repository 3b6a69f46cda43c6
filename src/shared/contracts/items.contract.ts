import { z } from 'zod'
import { SEVERITIES } from '#core/findings/finding'
import { FIX_CODES } from '#core/fixes/fix'
import { TILINGS } from '#core/material/open-pbr'
import { rigSchema } from '#core/render/rigs/rig'
import { ITEM_KINDS } from '#core/standard/categories'
import { STATES } from './chip.contract'
import { targetFidelitySchema } from './fidelity.contract'
import { openPbrConstantsSchema } from './open-pbr.contract'
import { ownPictureSchema } from './own-picture.contract'
import { MOST_GIVEN, verdictSchema } from './standard.contract'

export const factValueSchema = z.union([z.number(), z.string(), z.boolean()])
export const factsSchema = z.record(z.string(), factValueSchema)

export const findingSchema = z.object({
  /** Of a version's finding; null in a worklist. */
  id: z.number().nullable(),
  code: z.string(),
  severity: z.enum(SEVERITIES),
  subject: z.string().nullish(),
  message: z.string(),
  /** The computed fix that answers it; null where only a person can. */
  fix: z.enum(FIX_CODES).nullable(),
  /** Pictures of it: as it is, and as its fix would make it. */
  before: z.string().nullable(),
  after: z.string().nullable(),
})
export type FindingView = z.infer<typeof findingSchema>

export const categorySchema = z.object({
  path: z.string(),
  title: z.string(),
  kind: z.enum(ITEM_KINDS),
  prefix: z.string(),
  rig: z.string(),
  /** Items the asker may see, here and below. */
  count: z.number(),
})
export type Category = z.infer<typeof categorySchema>

export const previewSchema = z.object({
  url: z.string(),
  rig: z.string(),
  quality: z.enum(['draft', 'final']),
  width: z.number(),
  height: z.number(),
  samples: z.number(),
  achievedError: z.number(),
  /** Share of tiles that came to the noise target before the sample cap; 1 for a picture that is as good as asked. */
  convergedShare: z.number(),
  seconds: z.number(),
  rigTitle: z.string(),
  rigRevision: z.number(),
  /** Made by an older revision of the rig, by another rig, or by an older renderer. */
  isOlder: z.boolean(),
  backdropAlbedo: z.number().nullable(),
  contrast: z.number().nullable(),
  coverage: z.number().nullable(),
  /** Address of the linear picture as OpenEXR. */
  linearUrl: z.string().nullable(),
})
export type Preview = z.infer<typeof previewSchema>

export const versionFileSchema = z.object({
  path: z.string(),
  role: z.string(),
  size: z.number(),
  hash: z.string(),
  mediaType: z.string(),
  url: z.string(),
  handednessHint: z.enum(['openGl', 'directX']).nullable(),
})
export type VersionFile = z.infer<typeof versionFileSchema>

export const versionSchema = z.object({
  id: z.number(),
  number: z.number(),
  author: z.string(),
  note: z.string(),
  createdAt: z.string(),
  isApproved: z.boolean(),
})
export type Version = z.infer<typeof versionSchema>

export const eventSchema = z.object({
  id: z.number(),
  at: z.string(),
  person: z.string(),
  verb: z.string(),
  before: z.unknown(),
  after: z.unknown(),
})
export type EventView = z.infer<typeof eventSchema>

export const sheetSchema = z.object({
  id: z.number(),
  code: z.string(),
  name: z.string(),
  kind: z.enum(ITEM_KINDS),
  category: z.string(),
  state: z.enum(STATES),
  library: z.string(),
  /** What it was copied from; without a code where the asker may not know that item. */
  copiedFrom: z.object({ code: z.string().nullable(), name: z.string().nullable(), versionNumber: z.number() }).nullable(),
  /** Codes that it had in other libraries which the asker may see. */
  formerCodes: z.array(z.string()),
  /** Colours of the asker's own dots on it. */
  dots: z.array(z.number()),
  mayEdit: z.boolean(),
  version: versionSchema,
  widthMm: z.number().nullable(),
  tiling: z.enum(TILINGS),
  constants: z.record(z.string(), z.unknown()),
  facts: z.array(z.object({ name: z.string(), value: factValueSchema })),
  findings: z.array(findingSchema),
  /** What keeps it from being on standard by its words and figures. */
  standard: verdictSchema,
  files: z.array(versionFileSchema),
  preview: previewSchema.nullable(),
  /** The picture that stands in the place of the rig's. */
  ownPicture: ownPictureSchema.nullable(),
  /** One that is not ready, or was refused. */
  pendingPicture: ownPictureSchema.nullable(),
  /** Address of one full turn as a short loop; null before it was asked for. */
  turntable: z.string().nullable(),
  /** What each target loses of it; empty before it was measured. */
  fidelity: z.array(targetFidelitySchema),
  /** The rig in force for its category. */
  rig: rigSchema,
  versions: z.array(versionSchema),
  events: z.array(eventSchema),
  projects: z.array(z.object({ id: z.number(), code: z.string(), title: z.string(), versionNumber: z.number() })),
})
export type Sheet = z.infer<typeof sheetSchema>

/** Facts that people give, by item; null takes one away. */
export const setFactsSchema = z.object({
  items: z
    .array(
      z.object({
        id: z.number().int(),
        facts: z.record(z.string().regex(/^[a-zA-Z][a-zA-Z0-9]*$/), z.string().trim().max(200).nullable()),
      }),
    )
    .min(1)
    .max(MOST_GIVEN),
})
export type SetFacts = z.infer<typeof setFactsSchema>

/** Items whose state is set in one request. */
export const MOST_STATES = 500
export const setStateSchema = z.object({
  ids: z.array(z.number().int()).min(1).max(MOST_STATES),
  state: z.enum(STATES),
})
export const editItemSchema = z.object({
  name: z.string().trim().min(1, 'An item needs a name.').max(120).optional(),
  category: z.string().optional(),
  /** Makes a new version: the size is part of what renders. */
  widthMm: z.number().positive('The width must be more than 0 mm.').max(100_000).optional(),
  tiling: z.enum(TILINGS).optional(),
  /** Material parameters that no map gives: makes a new version. */
  constants: openPbrConstantsSchema.optional(),
  note: z.string().max(500).optional(),
})
export type EditItem = z.infer<typeof editItemSchema>

export const bulkResultSchema = z.object({
  changed: z.array(z.number()),
  refused: z.array(z.object({ id: z.number(), code: z.string(), reason: z.string() })),
})
export type BulkResult = z.infer<typeof bulkResultSchema>

/** Items that are carried at once; each is a dozen statements of one transaction. */
export const MOST_CARRIED = 500

/** Into another library, with all versions, or as items of their own that begin with the current one. */
export const carryItemsSchema = z.object({
  ids: z.array(z.number().int()).min(1).max(MOST_CARRIED),
  library: z.string(),
  as: z.enum(['move', 'copy']),
})
export type CarryItems = z.infer<typeof carryItemsSchema>
/** With the items that were made. */
export const carriedItemsSchema = bulkResultSchema.extend({ made: z.array(z.number()) })
export type CarriedItems = z.infer<typeof carriedItemsSchema>

/** A material of a map: how wide its picture is, and whether it repeats there or stands once. */
export const makeMaterialSchema = z.object({
  name: z.string().trim().min(1, 'An item needs a name.').max(120),
  category: z.string(),
  widthMm: z.number().positive('The width must be more than 0 mm.').max(100_000),
  tiling: z.enum(TILINGS),
})
export type MakeMaterial = z.infer<typeof makeMaterialSchema>
export const madeMaterialSchema = z.object({ id: z.number(), code: z.string() })
export type MadeMaterial = z.infer<typeof madeMaterialSchema>

/** With what each item said before, in the form that sets it again. */
export const setFactsResultSchema = bulkResultSchema.extend({ before: setFactsSchema.shape.items.min(0) })
export type SetFactsResult = z.infer<typeof setFactsResultSchema>
