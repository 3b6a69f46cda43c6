import { z } from 'zod'
import type { OpenPbrParameters, ScalarParameter } from '#core/material/open-pbr'
import { COLOR_PARAMETERS, SCALAR_RANGES } from '#core/material/parameter-ranges'

const channel = z.number().min(0).max(1)
const color = z.tuple([channel, channel, channel])

/** Some parameters of a material, each within what the specification allows; nothing else. */
export const openPbrConstantsSchema = z.strictObject({
  ...Object.fromEntries(
    (Object.keys(SCALAR_RANGES) as ScalarParameter[]).map(name => [
      name,
      z.number().min(SCALAR_RANGES[name].min).max(SCALAR_RANGES[name].max).optional(),
    ]),
  ),
  ...Object.fromEntries(COLOR_PARAMETERS.map(name => [name, color.optional()])),
  geometryThinWalled: z.boolean().optional(),
}) as z.ZodType<Partial<OpenPbrParameters>>
