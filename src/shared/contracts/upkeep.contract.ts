import { z } from 'zod'
import { FINDING_CODES, SEVERITIES } from '#core/findings/finding'

/** The state of the library in figures. */
export const upkeepSchema = z.object({
  items: z.number(),
  byState: z.record(z.string(), z.number()),
  findings: z.array(
    z.object({ code: z.enum(FINDING_CODES), severity: z.enum(SEVERITIES), items: z.number(), example: z.string() }),
  ),
  unused: z.number(),
  withoutPreview: z.number(),
  bytes: z.number(),
  files: z.number(),
  /** Previews still to be rendered. */
  waitingPreviews: z.number(),
})
export type Upkeep = z.infer<typeof upkeepSchema>
