import { z } from 'zod'
import {
  COLOR_FILES,
  DATA_FILES,
  findPatternProblem,
  HOUSE_PROFILE,
  LENGTH_UNITS,
  MAP_FORMS,
  MAP_PACKINGS,
  MATERIAL_FORMS,
  MODEL_DETAILS,
  MODEL_FORMS,
  NORMAL_DIRECTIONS,
  type Profile,
  ROUGHNESS_WAYS,
  SKY_EXPOSURES,
  SKY_FORMS,
  SKY_HEADINGS,
  UP_AXES,
} from '#core/hand-over/profile'

/** Sides of pictures that are offered, pixels. */
export const EXPORT_SIZES = [512, 1024, 2048, 4096] as const
const size = z.number().int().min(16).max(16384).nullable()

const pattern = (needed: readonly string[]) =>
  z
    .string()
    .trim()
    .superRefine((text, context) => {
      const problem = findPatternProblem(text, needed)
      if (problem) context.addIssue({ code: 'custom', message: problem })
    })

/** What is left out is as the house has it. */
export const profileSchema: z.ZodType<Profile, Partial<Profile>> = z.object({
  materials: z.enum(MATERIAL_FORMS).default(HOUSE_PROFILE.materials),
  models: z.enum(MODEL_FORMS).default(HOUSE_PROFILE.models),
  modelDetail: z.enum(MODEL_DETAILS).default(HOUSE_PROFILE.modelDetail),
  environments: z.enum(SKY_FORMS).default(HOUSE_PROFILE.environments),
  maps: z.enum(MAP_FORMS).default(HOUSE_PROFILE.maps),
  maxSizePx: size.default(HOUSE_PROFILE.maxSizePx),
  sizes: z
    .array(z.object({ category: z.string().min(1).max(200), maxSizePx: size }))
    .max(100)
    .default(HOUSE_PROFILE.sizes),
  normals: z.enum(NORMAL_DIRECTIONS).default(HOUSE_PROFILE.normals),
  roughness: z.enum(ROUGHNESS_WAYS).default(HOUSE_PROFILE.roughness),
  packing: z.enum(MAP_PACKINGS).default(HOUSE_PROFILE.packing),
  colorFiles: z.enum(COLOR_FILES).default(HOUSE_PROFILE.colorFiles),
  dataFiles: z.enum(DATA_FILES).default(HOUSE_PROFILE.dataFiles),
  unit: z.enum(LENGTH_UNITS).default(HOUSE_PROFILE.unit),
  upAxis: z.enum(UP_AXES).default(HOUSE_PROFILE.upAxis),
  skyExposure: z.enum(SKY_EXPOSURES).default(HOUSE_PROFILE.skyExposure),
  skyHeading: z.enum(SKY_HEADINGS).default(HOUSE_PROFILE.skyHeading),
  folderName: pattern(['code']).default(HOUSE_PROFILE.folderName),
  textureName: pattern(['code', 'map']).default(HOUSE_PROFILE.textureName),
})

const profileName = z.string().trim().min(1, 'A profile needs a name.').max(60)

/** How the forms of a profile keep the looks of a category, of the materials that were measured. */
export const profileFidelitySchema = z.object({
  category: z.string(),
  title: z.string(),
  measured: z.number(),
  meanFlip: z.number(),
  /** Those that lose more than the house lets pass. */
  losing: z.number(),
})
export type ProfileFidelity = z.infer<typeof profileFidelitySchema>

export const namedProfileSchema = z.object({
  id: z.number(),
  name: z.string(),
  profile: profileSchema,
  /** Whether projects hand over by it that say nothing else. */
  isHouse: z.boolean(),
  fidelity: z.array(profileFidelitySchema),
  /** Projects that hand over by it. */
  projects: z.number(),
})
export type NamedProfile = z.infer<typeof namedProfileSchema>

export const saveProfileSchema = z.object({
  /** Of one to change; null for a new one. */
  id: z.number().int().nullable(),
  name: profileName,
  profile: profileSchema,
  /** Makes it the one that holds where nothing else is said. */
  isHouse: z.boolean().default(false),
})
export type SaveProfile = z.infer<typeof saveProfileSchema>
