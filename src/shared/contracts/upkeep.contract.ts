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

/** Work that was given up: what it was for, and where that is. */
export const failedWorkSchema = z.object({
  id: z.number(),
  about: z.string(),
  address: z.string().nullable(),
  at: z.iso.datetime(),
})
export type FailedWork = z.infer<typeof failedWorkSchema>

export const collectSchema = z.object({ days: z.number().min(0).max(3650).default(30), dryRun: z.boolean().default(true) })
export const collectedSchema = z.object({ dryRun: z.boolean(), exports: z.number(), files: z.number(), bytes: z.number() })
export type Collected = z.infer<typeof collectedSchema>
