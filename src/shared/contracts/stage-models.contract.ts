import { z } from 'zod'
import { MODEL_UNITS, UP_AXES } from '#core/mock-up/stage-model/model-space'
import { mockUpItemSchema } from './mock-ups.contract'

export const newStageModelSchema = z.object({
  /** Where its files were sent. */
  batchId: z.number().int().positive(),
  projectId: z.number().int().positive().nullable(),
  unit: z.enum(MODEL_UNITS).default('asSaid'),
  up: z.enum(UP_AXES).default('y'),
})

/** A model of one's own, as it can be the stage of mock-ups. */
export const stageModelSchema = z.object({
  id: z.number(),
  batchId: z.number(),
  name: z.string(),
  /** By which scenes name it; null until it is read. */
  key: z.string().nullable(),
  unit: z.enum(MODEL_UNITS),
  up: z.enum(UP_AXES),
  state: z.enum(['waiting', 'reading', 'ready', 'failed']),
  message: z.string().nullable(),
  person: z.string(),
  createdAt: z.string(),
  parts: z.number(),
  materials: z.number(),
  triangles: z.number(),
  bytes: z.number(),
  sizeM: z.tuple([z.number(), z.number(), z.number()]).nullable(),
  missing: z.array(z.string()),
})
export type StageModelView = z.infer<typeof stageModelSchema>

export const PROPOSAL_REASONS = ['before', 'code', 'name', 'look'] as const

/** The materials that a model came with, and what they could be in the house. */
export const proposedMaterialsSchema = z.object({
  materials: z.array(
    z.object({
      name: z.string(),
      parts: z.number(),
      areaM2: z.number(),
      /** The colour that most of it has, #rrggbb. */
      color: z.string(),
      hasPicture: z.boolean(),
      proposals: z.array(z.object({ code: z.string(), confidence: z.number(), reasons: z.array(z.enum(PROPOSAL_REASONS)) })),
    }),
  ),
  /** Everything that is proposed, as a mock-up takes it in. */
  items: z.array(mockUpItemSchema),
})
export type ProposedMaterials = z.infer<typeof proposedMaterialsSchema>

export const rememberMaterialsSchema = z.object({
  /** Codes by the names of materials; null forgets one. */
  choices: z.record(z.string().max(200), z.string().max(40).nullable()),
})
