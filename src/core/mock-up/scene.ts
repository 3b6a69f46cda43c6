import { z } from 'zod'

/** Metres from the origin within which things stand. */
const FARTHEST_M = 10_000
const metres = z.number().min(-FARTHEST_M).max(FARTHEST_M)
const point = z.tuple([metres, metres, metres])
const unit = z.number().min(-1.0001).max(1.0001)
/** Of whatever has an identity of its own in a scene. */
export const idSchema = z.string().regex(/^[a-z0-9]{1,24}$/)

/** One version of a library item, by its code and the key of what its pictures depend on: a scene holds no files. */
export const itemRefSchema = z.object({
  code: z.string().min(1).max(40),
  version: z.number().int().positive(),
  inputKey: z.string().regex(/^[0-9a-f]{64}$/),
})
export type ItemRef = z.infer<typeof itemRefSchema>

/** A material on a part: how its texture lies there, and what was adjusted here alone. */
export const assignmentSchema = z.object({
  material: itemRefSchema,
  turnDeg: z.number().min(-360).max(360).default(0),
  /** Metres on the surface. */
  offsetM: z.tuple([metres, metres]).default([0, 0]),
  mapping: z.enum(['own', 'box']).default('own'),
  /** Parameters by their OpenPBR names. */
  override: z.record(z.string(), z.union([z.number(), z.array(z.number()).max(4)])).default({}),
})
export type Assignment = z.infer<typeof assignmentSchema>

/** A model of the library where it stands. Several of one item are instances of it. */
export const pieceSchema = z.object({
  item: itemRefSchema,
  name: z.string().max(120),
  position: point,
  /** A quaternion: x, y, z, w. */
  turn: z.tuple([unit, unit, unit, unit]),
  /** 1 is the true size; of what has a fixed size anything else is marked. */
  scale: z.number().min(0.001).max(1000).default(1),
  group: idSchema.nullable().default(null),
  isHidden: z.boolean().default(false),
  isLocked: z.boolean().default(false),
  /** By names of parts. */
  materials: z.record(z.string().max(200), assignmentSchema).default({}),
})
export type Piece = z.infer<typeof pieceSchema>

export const groupSchema = z.object({
  name: z.string().trim().min(1).max(80),
  isHidden: z.boolean().default(false),
  isLocked: z.boolean().default(false),
})
export type Group = z.infer<typeof groupSchema>

/** One of the species of a planting, how often it grows there against the others, and the sizes it may have against the library's plant. */
export const speciesSchema = z.object({
  item: itemRefSchema,
  name: z.string().max(120),
  share: z.number().min(0).max(1000),
  smallest: z.number().min(0.05).max(1),
  largest: z.number().min(1).max(20),
})

/** Plants over an area of the ground. Each follows from the seed and its own number alone. */
export const plantingSchema = z.object({
  name: z.string().trim().min(1).max(80),
  /** Corners on the ground, x and z, in order. */
  outline: z
    .array(z.tuple([metres, metres]))
    .min(3)
    .max(200),
  heightM: metres.default(0),
  species: z.array(speciesSchema).min(1).max(40),
  perM2: z.number().positive().max(400),
  /** No two stand nearer. */
  leastM: z.number().min(0).max(100).default(0),
  /** Within this of the outline it grows thinner. */
  edgeM: z.number().min(0).max(100).default(0),
  /** So far it keeps from pieces. */
  clearM: z.number().min(0).max(100).default(0.1),
  seed: z.number().int().min(0).max(0xffffffff),
  group: idSchema.nullable().default(null),
  isHidden: z.boolean().default(false),
  /** Numbers of plants that were taken out. */
  without: z.array(z.number().int().min(0)).max(20_000).default([]),
})
export type Planting = z.infer<typeof plantingSchema>

/** An environment as the light. */
export const skySchema = z.object({
  item: itemRefSchema,
  name: z.string().max(120),
  /** About the vertical, counter-clockwise from above. */
  turnDeg: z.number().min(-360).max(360).default(0),
  /** Stops over the house exposure. */
  ev: z.number().min(-12).max(12).default(0),
  /** Seen behind everything, or only lighting it, before an even grey. */
  background: z.enum(['shown', 'plain']).default('shown'),
})
export type Sky = z.infer<typeof skySchema>

/** A camera, and what is seen through it. */
export const shotSchema = z.object({
  name: z.string().trim().min(1).max(80),
  /** Among the others, from the left. */
  place: z.number(),
  position: point,
  target: point,
  focalMm: z.number().min(8).max(600),
  /** Width over height. */
  aspect: z.number().min(0.2).max(6),
  /** Whether verticals stay upright: the film is shifted in place of tilting the camera. */
  isUpright: z.boolean().default(false),
  ev: z.number().min(-12).max(12).default(0),
  /** Null is the house light. */
  sky: idSchema.nullable().default(null),
  focus: z
    .object({ distanceM: z.number().positive().max(FARTHEST_M), fNumber: z.number().min(0.5).max(64) })
    .nullable()
    .default(null),
})
export type Shot = z.infer<typeof shotSchema>

/** An opening in a wall of a room: which wall, from its left end as seen from inside, from the floor. */
export const openingSchema = z.object({
  wall: z.enum(['north', 'east', 'south', 'west']),
  leftM: z.number().min(0).max(FARTHEST_M),
  sillM: z.number().min(0).max(FARTHEST_M),
  widthM: z.number().positive().max(FARTHEST_M),
  heightM: z.number().positive().max(FARTHEST_M),
})

/** By names of parts. */
const materialsSchema = z.record(z.string().max(200), assignmentSchema).default({})

/** What things stand in. */
export const stageSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('empty'), materials: materialsSchema }),
  z.object({
    kind: z.literal('terrace'),
    materials: materialsSchema,
    widthM: z.number().positive().max(500),
    depthM: z.number().positive().max(500),
  }),
  z.object({
    kind: z.literal('room'),
    materials: materialsSchema,
    widthM: z.number().min(0.5).max(500),
    depthM: z.number().min(0.5).max(500),
    heightM: z.number().min(0.5).max(100),
    openings: z.array(openingSchema).max(200),
  }),
])
export type Stage = z.infer<typeof stageSchema>
export type Opening = z.infer<typeof openingSchema>

/** A small staged scene of library items: metres, y up, north along -z. */
export const sceneSchema = z.object({
  format: z.literal(1),
  stage: stageSchema,
  pieces: z.record(idSchema, pieceSchema),
  plantings: z.record(idSchema, plantingSchema),
  groups: z.record(idSchema, groupSchema),
  skies: z.record(idSchema, skySchema),
  shots: z.record(idSchema, shotSchema),
})
export type Scene = z.infer<typeof sceneSchema>

export const EMPTY_SCENE: Scene = {
  format: 1,
  stage: { kind: 'empty', materials: {} },
  pieces: {},
  plantings: {},
  groups: {},
  skies: {},
  shots: {},
}

/** Things of a scene by id, as they are to be; null takes one away. What is said here comes from outside. */
export const changeSchema = z
  .object({
    stage: stageSchema,
    pieces: z.record(idSchema, pieceSchema.nullable()),
    plantings: z.record(idSchema, plantingSchema.nullable()),
    groups: z.record(idSchema, groupSchema.nullable()),
    skies: z.record(idSchema, skySchema.nullable()),
    shots: z.record(idSchema, shotSchema.nullable()),
  })
  .partial()
