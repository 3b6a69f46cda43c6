import { z } from 'zod'
import { MATERIAL_FORMS } from '#core/hand-over/profile'
import { chipSchema } from './chip.contract'
import { targetFidelitySchema } from './fidelity.contract'
import { MOST_TRAY_ITEMS } from './personal.contract'
import { profileSchema } from './profiles.contract'

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

export const orderExportSchema = z.object({
  /** How, this once; as the project has it without it. */
  profile: profileSchema.optional(),
  profileId: z.number().int().optional(),
  /** Of what is pinned, these alone. */
  itemIds: z.array(z.number().int()).min(1).max(MOST_TRAY_ITEMS).optional(),
  /** Leaves out what the last hand-over in this form had already, at the version that is pinned. */
  onlyNew: z.boolean().default(false),
})
export type OrderExport = z.infer<typeof orderExportSchema>

export const exportSchema = z.object({
  id: z.number(),
  /** Name of the profile; empty where the project has a form of its own. */
  label: z.string(),
  profile: profileSchema,
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
  ownForm: profileSchema.nullable(),
  /** The profile it hands over by; null for the house's. */
  profileId: z.number().nullable(),
  pinned: z.array(pinSchema),
  exports: z.array(exportSchema),
})
export type Project = z.infer<typeof projectSchema>

export const editProjectSchema = z.object({
  title: z.string().trim().min(1, 'Give the project a title.').max(120).optional(),
  phase: z.enum(PROJECT_PHASES).optional(),
  notes: z.string().max(10_000).optional(),
  ownForm: profileSchema.nullable().optional(),
  profileId: z.number().int().nullable().optional(),
  /** Who decides. */
  personIds: z.array(z.number().int().positive()).max(200).optional(),
})
export type EditProject = z.infer<typeof editProjectSchema>

export const changeGuestsSchema = z.object({ personIds: z.array(z.number().int().positive()).max(200) })

export const pinItemsSchema = z.object({ ids: z.array(z.number().int()).min(1).max(MOST_TRAY_ITEMS) })

export const handOverCheckQuerySchema = z.object({ materials: z.enum(MATERIAL_FORMS) })

/** What is to be known before a project is handed over. */
export const handOverCheckSchema = z.object({
  /** Items whose licence does not let them go along. */
  refused: z.array(z.object({ itemId: z.number(), code: z.string(), name: z.string(), reason: z.string() })),
  /** Materials whose look the form does not keep, the most first. */
  losing: z.array(targetFidelitySchema.extend({ itemId: z.number(), code: z.string(), name: z.string() })),
  /** Materials of which nobody has measured what the form keeps. */
  unmeasured: z.number(),
})
export type HandOverCheck = z.infer<typeof handOverCheckSchema>
