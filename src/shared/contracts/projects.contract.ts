import { z } from 'zod'
import { chipSchema } from './chip.contract'

export const newProjectSchema = z.object({
  title: z.string().trim().min(1, 'Give the project a title.').max(120),
  code: z
    .string()
    .trim()
    .regex(/^[A-Z0-9][A-Z0-9-]{1,15}$/, 'A code has 2 to 16 capitals, digits and dashes.'),
  library: z.string(),
})
export type NewProject = z.infer<typeof newProjectSchema>

export const PROJECT_PHASES = ['open', 'frozen', 'closed'] as const
export type ProjectPhase = (typeof PROJECT_PHASES)[number]

export const projectSummarySchema = z.object({
  id: z.number(),
  code: z.string(),
  title: z.string(),
  library: z.string(),
  pins: z.number(),
  phase: z.enum(PROJECT_PHASES),
  /** Pins about which somebody has to decide: a newer version is approved, or the item is withdrawn. */
  outdated: z.number(),
  covers: z.array(z.string()),
})
export type ProjectSummary = z.infer<typeof projectSummarySchema>

export const EXPORT_SIZES = [512, 1024, 2048, 4096] as const

export const exportRequestSchema = z.object({
  /** How materials are written; models are binary glTF, environments OpenEXR or Radiance HDR. */
  materials: z.enum(['materialX', 'gltf']).default('materialX'),
  environments: z.enum(['asStored', 'exr', 'hdr']).default('asStored'),
  maps: z.enum(['asStored', 'png', 'tiff', 'exr']).default('asStored'),
  /** Longest side of textures, and width of environments, in pixels; null leaves them as they are. */
  maxSizePx: z
    .union([z.literal(512), z.literal(1024), z.literal(2048), z.literal(4096)])
    .nullable()
    .default(null),
})
export const orderExportSchema = exportRequestSchema.extend({
  /** Leaves out what the last hand-over in this form had already, at the version that is pinned. */
  onlyNew: z.boolean().default(false),
})
export type ExportRequest = z.infer<typeof exportRequestSchema>

export const exportSchema = z.object({
  id: z.number(),
  request: exportRequestSchema,
  state: z.enum(['waiting', 'writing', 'ready', 'failed', 'expired']),
  done: z.number(),
  total: z.number(),
  size: z.number().nullable(),
  message: z.string().nullable(),
  person: z.string(),
  createdAt: z.string(),
  url: z.string().nullable(),
  /** Address of its manifest alone, for whoever has the files. */
  manifestUrl: z.string().nullable(),
})
export type ProjectExport = z.infer<typeof exportSchema>

export const pinSchema = z.object({
  chip: chipSchema,
  versionNumber: z.number(),
  approvedNumber: z.number().nullable(),
  /** Whether somebody has to decide about it. */
  isAsked: z.boolean(),
  person: z.string(),
  createdAt: z.string(),
})
export type Pin = z.infer<typeof pinSchema>

export const projectSchema = projectSummarySchema.extend({
  /** Whom it is shown to beside those who work here; a guest is not told of the others. */
  guests: z.array(z.object({ id: z.number(), name: z.string() })),
  /** Who decides for it; empty for everybody who sees it. */
  people: z.array(z.object({ id: z.number(), name: z.string() })),
  mayDecide: z.boolean(),
  notes: z.string(),
  /** How it wants its files, where that is not as the house has it. */
  ownForm: exportRequestSchema.nullable(),
  pinned: z.array(pinSchema),
  exports: z.array(exportSchema),
})
export type Project = z.infer<typeof projectSchema>

export const editProjectSchema = z.object({
  title: z.string().trim().min(1, 'Give the project a title.').max(120).optional(),
  phase: z.enum(PROJECT_PHASES).optional(),
  notes: z.string().max(10_000).optional(),
  ownForm: exportRequestSchema.nullable().optional(),
  /** Who decides. */
  personIds: z.array(z.number().int().positive()).max(200).optional(),
})
export type EditProject = z.infer<typeof editProjectSchema>

export const changeGuestsSchema = z.object({ personIds: z.array(z.number().int().positive()).max(200) })

export const pinItemsSchema = z.object({ ids: z.array(z.number().int()).min(1).max(500) })
