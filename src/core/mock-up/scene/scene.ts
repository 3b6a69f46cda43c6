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

/** A material altered as a whole: factors of its base colour, of its roughness and of its relief. */
export const shiftSchema = z.object({
  tint: z.tuple([z.number().min(0).max(16), z.number().min(0).max(16), z.number().min(0).max(16)]),
  roughness: z.number().min(0).max(8),
  relief: z.number().min(0).max(8),
})

/** A material on a part: how its texture lies there, and what was adjusted here alone. */
export const assignmentSchema = z.object({
  material: itemRefSchema,
  turnDeg: z.number().min(-360).max(360).default(0),
  /** Metres on the surface. */
  offsetM: z.tuple([metres, metres]).default([0, 0]),
  mapping: z.enum(['own', 'box']).default('own'),
  /** Parameters by their OpenPBR names. */
  override: z.record(z.string(), z.union([z.number(), z.array(z.number()).max(4)])).default({}),
  shift: shiftSchema.optional(),
})
export type Assignment = z.infer<typeof assignmentSchema>

/** A part of a piece, or of the stage where no piece is said. */
export const spotSchema = z.object({ piece: idSchema.nullable(), part: z.string().max(200) })
export type Spot = z.infer<typeof spotSchema>

/** Several materials that the same parts may carry. One of them is shown: that one the parts wear. */
export const choiceSchema = z.object({
  name: z.string().trim().min(1).max(80),
  spots: z.array(spotSchema).min(1).max(2000),
  /** Null is what the part came with. */
  variants: z.array(assignmentSchema.nullable()).min(1).max(40),
  shown: z.number().int().min(0).max(39),
})
export type Choice = z.infer<typeof choiceSchema>

/** Parts that are built alike wherever they are, as all walls of one build-up: what is their finish counts by the type. */
export const partTypeSchema = z.object({
  name: z.string().trim().min(1).max(40),
  spots: z.array(spotSchema).min(1).max(20_000),
  /** What its parts wear; a part may have a material of its own all the same. Null while there is none. */
  finish: assignmentSchema.nullable().default(null),
})
export type PartType = z.infer<typeof partTypeSchema>

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

/** Plants over an area of the ground, or along a line on it. Each follows from the seed and its own number alone. */
export const plantingSchema = z.object({
  name: z.string().trim().min(1).max(80),
  /** Corners on the ground, x and z, in order: of an area, or of a line. */
  outline: z
    .array(z.tuple([metres, metres]))
    .min(2)
    .max(200),
  heightM: metres.default(0),
  /** Along the line, one so far from the next, each beside its place by so much at most; over the area without it. */
  along: z
    .object({ spacingM: z.number().min(0.02).max(500), strayM: z.number().min(0).max(100) })
    .nullable()
    .optional(),
  /** Parts of the stage's model whose surface is the ground; level without any. */
  on: z.array(z.string().max(200)).max(200).optional(),
  /** On steeper ground nothing grows. */
  steepestDeg: z.number().min(0).max(90).optional(),
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

/** A place and a moment, for a clear sky with the sun where it stood. */
export const clearSkySchema = z.object({
  latitudeDeg: z.number().min(-90).max(90),
  longitudeDeg: z.number().min(-180).max(180),
  /** In UTC. */
  at: z.iso.datetime(),
  turbidity: z.number().min(1.7).max(10).default(2.5),
})

export const SKY_BACKGROUNDS = ['shown', 'blurred', 'plain'] as const

/** What lights from all around: an environment of the library, or a clear sky that is worked out. */
export const skySchema = z.object({
  /** Null of a clear sky. */
  item: itemRefSchema.nullable(),
  clear: clearSkySchema.nullable().default(null),
  /** Its sun as it is, spread as by thin cloud, or left out. */
  sun: z.enum(['asItIs', 'soft', 'none']).default('asItIs'),
  name: z.string().max(120),
  /** About the vertical, counter-clockwise from above. */
  turnDeg: z.number().min(-360).max(360).default(0),
  /** Stops over the house exposure. */
  ev: z.number().min(-12).max(12).default(0),
  /** Seen behind everything, out of focus there, or only lighting it, before an even grey. */
  background: z.enum(SKY_BACKGROUNDS).default('shown'),
  /** Its own ground lies under things, as seen by a camera so many metres over it; without it the stage's does. */
  groundFromM: z.number().min(0.1).max(500).nullable().optional(),
})
export type Sky = z.infer<typeof skySchema>

export const LIGHT_KINDS = ['bulb', 'panel', 'luminaire'] as const

/** A light that stands somewhere: a glowing ball, a flat one that shines down at rest, or a luminaire of the library by its light curve. */
export const lightSchema = z.object({
  kind: z.enum(LIGHT_KINDS),
  /** Of a luminaire. */
  item: itemRefSchema.nullable().default(null),
  name: z.string().trim().min(1).max(120),
  position: point,
  turn: z.tuple([unit, unit, unit, unit]).default([0, 0, 0, 1]),
  /** Of all of it; null is what the curve says. */
  lumens: z.number().min(0).max(10_000_000).nullable().default(null),
  /** How far it is dimmed. */
  share: z.number().min(0).max(1).default(1),
  /** Null is what the curve says, else as white as the camera's. */
  kelvin: z.number().min(1700).max(12_000).nullable().default(null),
  /** Of a ball its diameter, of a panel its sides. */
  sizeM: z.tuple([z.number().min(0.001).max(50), z.number().min(0.001).max(50)]).default([0.06, 0.06]),
  /** Whether it is seen itself. */
  isSeen: z.boolean().default(true),
  group: idSchema.nullable().default(null),
  isHidden: z.boolean().default(false),
})
export type Light = z.infer<typeof lightSchema>

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
  /** Of choices, which variant this shot shows where it is not the one shown elsewhere. */
  variants: z.record(idSchema, z.number().int().min(0).max(39)).default({}),
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
  z.object({
    kind: z.literal('model'),
    materials: materialsSchema,
    /** A model of one's own, by the hash of its file. Its parts are the stage's. */
    model: z.object({ key: z.string().regex(/^[0-9a-f]{64}$/), name: z.string().max(120) }),
    /** What the model's own materials are in the house, by their names: worn by every part that has one and nothing put on it. */
    wears: materialsSchema,
    /** Parts that are left out, because something else stands in their place. */
    without: z.array(z.string().max(200)).max(20_000).default([]),
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
  choices: z.record(idSchema, choiceSchema).default({}),
  lights: z.record(idSchema, lightSchema).default({}),
  types: z.record(idSchema, partTypeSchema).default({}),
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
  choices: {},
  lights: {},
  types: {},
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
    choices: z.record(idSchema, choiceSchema.nullable()),
    lights: z.record(idSchema, lightSchema.nullable()),
    types: z.record(idSchema, partTypeSchema.nullable()),
  })
  .partial()
