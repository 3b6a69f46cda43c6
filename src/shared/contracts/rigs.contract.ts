import { z } from 'zod'
import { rigSchema } from '#core/render/rigs/rig'

/** What a change would cost: pictures to render anew, and minutes of this machine by what they took last time. */
export const stakeSchema = z.object({ previews: z.number(), minutes: z.number() })
export type Stake = z.infer<typeof stakeSchema>

export const proposalSchema = z.object({
  id: z.number(),
  rig: rigSchema,
  /** Null for a change of the rig itself; else the category that would be given this rig. */
  category: z.string().nullable(),
  by: z.string(),
  stake: stakeSchema,
  samples: z.array(
    z.object({
      code: z.string(),
      name: z.string(),
      /** Addresses of pictures; null while they are being rendered. */
      before: z.string().nullable(),
      after: z.string().nullable(),
    }),
  ),
})
export type Proposal = z.infer<typeof proposalSchema>

export const rigViewSchema = z.object({
  rig: rigSchema,
  /** As it ships, untouched by the studio. */
  isShipped: z.boolean(),
  categories: z.array(z.object({ path: z.string(), title: z.string() })),
  items: z.number(),
  /** Pictures of those items that are of an older rig or renderer. */
  older: z.number(),
  /** A picture made on it, for the list. */
  sample: z.string().nullable(),
  proposal: proposalSchema.nullable(),
})
export type RigView = z.infer<typeof rigViewSchema>

export const rigListSchema = z.object({
  mayEdit: z.boolean(),
  rigs: z.array(rigViewSchema),
  /** Open proposals to give a category another rig. */
  proposals: z.array(proposalSchema),
  rerenders: z.array(
    z.object({
      id: z.number(),
      title: z.string(),
      state: z.enum(['running', 'paused', 'cancelled', 'done']),
      by: z.string(),
      total: z.number(),
      done: z.number(),
      failed: z.number(),
    }),
  ),
})
export type RigList = z.infer<typeof rigListSchema>

/** What of a rig may be edited: all but its name, its revision and the kind of thing it shows. */
export const rigChangeSchema = rigSchema.omit({ name: true, revision: true })
export type RigChange = z.infer<typeof rigChangeSchema>

export const rerenderStateSchema = z.object({ state: z.enum(['running', 'paused', 'cancelled']) })
