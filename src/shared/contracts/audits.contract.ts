import { z } from 'zod'
import { AUDIT_CLASSES, EVIDENCE_KINDS } from '#core/audit/reference'

export const auditClassSchema = z.enum(AUDIT_CLASSES)

const changeSchema = z.object({
  what: z.string(),
  from: z.union([z.string(), z.number()]),
  to: z.union([z.string(), z.number()]),
  deltaE00: z.number().optional(),
})
const evidenceSchema = z.object({ kind: z.enum(EVIDENCE_KINDS), text: z.string() })
const nearestSchema = z.object({ code: z.string(), distance: z.number(), name: z.string(), preview: z.string().nullable() })

const thingSchema = z.object({
  name: z.string(),
  class: auditClassSchema,
  code: z.string().nullable(),
  version: z.number().nullable(),
  /** Of the item, and its picture; empty and null where one may not see it. */
  itemName: z.string(),
  preview: z.string().nullable(),
  evidence: z.array(evidenceSchema),
  changes: z.array(changeSchema),
  nearest: z.array(nearestSchema),
  remarks: z.array(z.string()),
  /** Whether the library has what would take its place. */
  isCorrectable: z.boolean(),
  /** Whether it was taken along to be changed; audits from before that say nothing of it. */
  isCopy: z.boolean().optional(),
})

export const auditedMaterialSchema = thingSchema.extend({
  /** Its number in the scene. */
  index: z.number(),
  ofModel: z.string().nullable(),
  areaM2: z.number(),
  places: z.array(z.string()),
  /** How far its picture on the rig is from the library's; null until it is rendered. */
  flipMean: z.number().nullable(),
  deltaE00: z.number().nullable(),
  /** As it is in the scene and as the library has it. */
  pictures: z.tuple([z.string(), z.string()]).nullable(),
})
export const auditedModelSchema = thingSchema.extend({ node: z.number(), uses: z.number() })
export const auditedLightSchema = thingSchema.extend({ node: z.number() })
const sharesSchema = z.object({
  byArea: z.partialRecord(auditClassSchema, z.number()),
  byCount: z.partialRecord(auditClassSchema, z.number()),
})
export type AuditShares = z.infer<typeof sharesSchema>

export const AUDIT_STATES = ['waiting', 'reading', 'ready', 'failed'] as const

export const auditSummarySchema = z.object({
  id: z.number(),
  title: z.string(),
  projectId: z.number().nullable(),
  state: z.enum(AUDIT_STATES),
  /** What is being done, while it is. */
  step: z.string(),
  share: z.number(),
  message: z.string().nullable(),
  shares: sharesSchema.nullable(),
  /** Materials, models and lights. */
  things: z.number(),
  person: z.string(),
  createdAt: z.string(),
})
export type AuditSummary = z.infer<typeof auditSummarySchema>

/** Forms that a corrected scene comes in beside binary glTF. */
export const SCENE_FILE_FORMS = ['gltf', 'usdz', 'obj'] as const

export const correctionSchema = z.object({
  state: z.enum(['waiting', 'writing', 'ready', 'failed']),
  message: z.string().nullable(),
  done: z.number(),
  refused: z.array(z.object({ name: z.string(), why: z.string() })),
  url: z.string().nullable(),
  bytes: z.number().nullable(),
  /** The audit of what was written. */
  auditId: z.number().nullable(),
})

export const sceneAuditSchema = auditSummarySchema.extend({
  /** Code of the project; empty where the whole library is asked. */
  project: z.string(),
  form: z.string(),
  triangles: z.number(),
  materials: z.array(auditedMaterialSchema),
  models: z.array(auditedModelSchema),
  lights: z.array(auditedLightSchema),
  failures: z.array(z.string()),
  /** Versions that it was compared with, and those that there was no time to look at. */
  comparedWith: z.number(),
  notCompared: z.number(),
  correction: correctionSchema.nullable(),
})
export type SceneAuditView = z.infer<typeof sceneAuditSchema>
export type AuditedMaterialView = z.infer<typeof auditedMaterialSchema>
export type AuditedModelView = z.infer<typeof auditedModelSchema>

export const beginAuditSchema = z.object({
  /** The scene and what belongs to it, as they were sent. */
  batchId: z.number().int().positive(),
  /** Null asks the whole library. */
  projectId: z.number().int().positive().nullable().default(null),
})

export const correctSceneSchema = z.object({
  /** Numbers of materials, and of nodes with models and lights, in the scene. */
  materials: z.array(z.number().int().nonnegative()).max(10_000).default([]),
  models: z.array(z.number().int().nonnegative()).max(10_000).default([]),
  lights: z.array(z.number().int().nonnegative()).max(10_000).default([]),
})
/** Things of a scene that go to Intake in one batch, of each kind. */
export const MOST_TAKEN_OUT = 500

export const takeOutSchema = z
  .object({
    /** Numbers of materials in the scene. */
    materials: z.array(z.number().int().nonnegative()).max(MOST_TAKEN_OUT).default([]),
    /** Of nodes. */
    models: z.array(z.number().int().nonnegative()).max(MOST_TAKEN_OUT).default([]),
  })
  .refine(({ materials, models }) => materials.length + models.length > 0, 'Choose what is to be taken out.')

export type CorrectScene = z.infer<typeof correctSceneSchema>

/** An audited scene that another can be held beside. */
export const auditedSceneSchema = z.object({
  id: z.number(),
  title: z.string(),
  /** Code of its project; empty without one. */
  project: z.string(),
  createdAt: z.string(),
})

const usedSchema = z.object({
  /** Its number in the scene. */
  index: z.number(),
  name: z.string(),
  class: auditClassSchema,
  version: z.number().nullable(),
  areaM2: z.number(),
})

const standingSchema = z.object({ class: auditClassSchema, version: z.number().nullable() })

/** A model or a light that two scenes have both. */
const besideThingSchema = z.object({
  /** Null of a light that is of no item. */
  code: z.string().nullable(),
  name: z.string(),
  preview: z.string().nullable(),
  own: standingSchema,
  other: standingSchema,
  changes: z.array(changeSchema),
})

/** What two scenes have both, by items, lights and views, with what is different about each. */
export const besideSchema = z.object({
  own: auditedSceneSchema,
  other: auditedSceneSchema,
  materials: z.array(
    z.object({
      code: z.string(),
      itemName: z.string(),
      preview: z.string().nullable(),
      own: usedSchema,
      other: usedSchema,
      changes: z.array(changeSchema),
    }),
  ),
  models: z.array(besideThingSchema),
  lights: z.array(besideThingSchema),
  views: z.array(z.object({ name: z.string(), changes: z.array(changeSchema) })),
  /** Codes, and names of views and of lights of no item, that only one of them has. */
  onlyOwn: z.array(z.string()),
  onlyOther: z.array(z.string()),
})
export type Beside = z.infer<typeof besideSchema>

export const besidePicturesSchema = z.object({
  /** As addresses that hold the picture themselves. */
  own: z.string(),
  other: z.string(),
  flipMean: z.number(),
  deltaE00: z.number(),
})
