import { z } from 'zod'
import { TILINGS } from '#core/material/open-pbr'
import { changeSchema, itemRefSchema, sceneSchema, shiftSchema, stageSchema } from '#core/mock-up/scene/scene'
import { ITEM_KINDS } from '#core/standard/categories'
import { SCENE_FILE_FORMS } from './audits.contract'
import { STATES } from './chip.contract'
import { versionFileSchema } from './items.contract'
import { openPbrConstantsSchema } from './open-pbr.contract'

const title = z.string().trim().min(1, 'Give the mock-up a title.').max(120)

export const newMockUpSchema = z.object({
  title,
  projectId: z.number().int().positive().nullable().default(null),
  /** What things stand in; of a copy it is the other's. */
  stage: stageSchema.optional(),
  /** Begins as a copy of this one. */
  from: z.number().int().positive().optional(),
})
export type NewMockUp = z.input<typeof newMockUpSchema>

export const mockUpSummarySchema = z.object({
  id: z.number(),
  title: z.string(),
  project: z.object({ id: z.number(), code: z.string(), title: z.string() }).nullable(),
  owner: z.string(),
  isOwn: z.boolean(),
  /** Others who see its library may open it. */
  isShared: z.boolean(),
  isTemplate: z.boolean(),
  pieces: z.number(),
  shots: z.number(),
  changedAt: z.string(),
  /** Address of its newest picture. */
  cover: z.string().nullable(),
})
export type MockUpSummary = z.infer<typeof mockUpSummarySchema>

/** A version of an item as a mock-up uses it. */
export const mockUpItemSchema = z.object({
  ref: itemRefSchema,
  /** Hidden: it is not there, or not the asker's to see. */
  state: z.enum([...STATES, 'hidden']),
  id: z.number().nullable(),
  name: z.string(),
  kind: z.enum(ITEM_KINDS),
  category: z.string(),
  /** The version that is approved, where it is another one. */
  newer: itemRefSchema.nullable(),
  /** Address of its chip's picture. */
  preview: z.string().nullable(),
  widthMm: z.number().nullable(),
  tiling: z.enum(TILINGS),
  constants: z.record(z.string(), z.unknown()),
  handedness: z.enum(['openGl', 'directX']).nullable(),
  files: z.array(versionFileSchema),
  maker: z.string(),
  licence: z.string(),
  /** Of a model as it is made: width, height and depth. */
  sizeM: z.tuple([z.number(), z.number(), z.number()]).nullable(),
  /** Of an environment: where its sun stands, from the middle of the picture to the right. */
  sun: z.object({ azimuthDeg: z.number(), elevationDeg: z.number() }).nullable(),
})
export type MockUpItem = z.infer<typeof mockUpItemSchema>

export const mockUpSchema = mockUpSummarySchema.extend({
  /** The key of the library whose people see it. */
  library: z.string(),
  revision: z.number(),
  scene: sceneSchema,
  items: z.array(mockUpItemSchema),
})
export type MockUp = z.infer<typeof mockUpSchema>

/** Forms that a mock-up is saved in: binary glTF has all of it, the others what they can hold; the last refers to the library. */
export const MOCK_UP_FORMS = ['glb', ...SCENE_FILE_FORMS, 'references'] as const
/** Longest sides of its textures, in pixels. */
export const MOCK_UP_TEXTURES = ['512', '1024', '2048', '4096'] as const
export const MOCK_UP_DETAILS = ['full', 'light'] as const
export const saveMockUpSchema = z.object({
  form: z.enum(MOCK_UP_FORMS).default('glb'),
  texture: z.enum(MOCK_UP_TEXTURES).default('2048'),
  /** Of models with levels of detail all of it, or the lightest. */
  detail: z.enum(MOCK_UP_DETAILS).default('full'),
})
export type SaveMockUp = z.infer<typeof saveMockUpSchema>

export const editMockUpSchema = z.object({
  title: title.optional(),
  isShared: z.boolean().optional(),
  isTemplate: z.boolean().optional(),
  projectId: z.number().int().positive().nullable().optional(),
  /** Put aside, or back. */
  isRemoved: z.boolean().optional(),
})
export type EditMockUp = z.infer<typeof editMockUpSchema>

/** Of a page, so that it knows its own changes again. */
const page = z.string().min(1).max(40)

export const makeChangeSchema = z.object({ page, base: z.number().int().min(0), change: changeSchema })

export const mockUpChangeSchema = z.object({ revision: z.number(), person: z.string(), page, change: changeSchema })
export type MockUpChange = z.infer<typeof mockUpChangeSchema>

/** What was done since a revision; null where that is too long ago and the whole has to be read again. */
export const mockUpChangesSchema = z.object({ revision: z.number(), changes: z.array(mockUpChangeSchema).nullable() })

export const mockUpVersionSchema = z.object({ id: z.number(), name: z.string(), person: z.string(), at: z.string() })
export type MockUpVersion = z.infer<typeof mockUpVersionSchema>

/** Of a larger one, what is kept of its samples would not fit beside what it shows. */
export const MOST_PICTURE_PX = 2560

export const orderPicturesSchema = z.object({
  shots: z.array(z.string()).min(1, 'Choose a shot to render.').max(60),
  /** Each shot under each of these; without any, each under its own. */
  skies: z.array(z.string().nullable()).max(12).default([]),
  /** A choice: each shot with each of its variants. */
  choice: z.string().nullable().default(null),
  quality: z.enum(['draft', 'final']),
  /** Pixels of a final's longer side; null as finals are. */
  longerPx: z.number().int().min(320).max(MOST_PICTURE_PX).nullable().default(null),
  /** Codes of items: each picture once more, with the versions of them that are approved by now. */
  newer: z.array(z.string().max(40)).max(500).default([]),
})
export type OrderPictures = z.input<typeof orderPicturesSchema>

export const mockUpPictureSchema = z.object({
  id: z.number(),
  shot: z.string(),
  shotName: z.string(),
  skyName: z.string().nullable(),
  /** Of choices, those that it shows. */
  variantNames: z.array(z.string()),
  quality: z.enum(['draft', 'final']),
  state: z.enum(['waiting', 'rendering', 'ready', 'failed', 'cancelled']),
  share: z.number(),
  /** Of its noisiest part, in display luminance 0..1. */
  error: z.number().nullable(),
  secondsLeft: z.number().nullable(),
  url: z.string().nullable(),
  /** Of the linear picture. */
  linearUrl: z.string().nullable(),
  /** Of how far it has come, while it is made. */
  interimUrl: z.string().nullable(),
  width: z.number().nullable(),
  height: z.number().nullable(),
  seconds: z.number().nullable(),
  message: z.string().nullable(),
  person: z.string(),
  orderedAt: z.string(),
})
export type MockUpPicture = z.infer<typeof mockUpPictureSchema>

/** A material as it was adjusted in a mock-up, for the library: as its next version, as an item of its own, or for a lead to decide about in Intake. */
export const proposeShiftSchema = z.object({
  itemId: z.number().int().positive(),
  /** The version that was adjusted. */
  version: z.number().int().positive(),
  shift: shiftSchema,
  /** Parameters that no map of it gives. */
  constants: openPbrConstantsSchema.default({}),
  as: z.enum(['version', 'item', 'intake']),
  name: z.string().trim().min(1, 'An item needs a name.').max(120),
})
export type ProposeShift = z.input<typeof proposeShiftSchema>
export const shiftProposedSchema = z.object({
  batchId: z.number().nullable(),
  made: z.object({ id: z.number(), code: z.string(), version: z.number(), inputKey: z.string() }).nullable(),
})
export type ShiftProposed = z.infer<typeof shiftProposedSchema>
