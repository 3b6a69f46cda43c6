import { z } from 'zod'
import { ITEM_KINDS } from '#core/standard/categories'
import { chipSchema } from './chip.contract'
import { previewSchema } from './items.contract'
import { PROJECT_PHASES } from './projects.contract'

const factValue = z.union([z.string(), z.number(), z.boolean()]).nullable()

/** A version as a decision shows it. */
const decidedVersionSchema = z.object({
  id: z.number(),
  number: z.number(),
  author: z.string(),
  note: z.string(),
  createdAt: z.string(),
  /** Its picture on the rig in force. */
  preview: previewSchema.nullable(),
  /** All its files together. */
  bytes: z.number(),
})

/** A mock-up of the project that shows the item, and which of its materials would have no part to go to. */
const usedInSchema = z.object({
  id: z.number(),
  title: z.string(),
  shots: z.array(z.object({ id: z.string(), name: z.string() })),
  pieces: z.number(),
  breaks: z.array(z.string()),
})

export const decisionSchema = z.object({
  itemId: z.number(),
  code: z.string(),
  name: z.string(),
  kind: z.enum(ITEM_KINDS),
  /** Whether it is the item itself that went. */
  isWithdrawn: z.boolean(),
  from: decidedVersionSchema,
  /** The approved version; of what was withdrawn it is the one that was approved last. */
  to: decidedVersionSchema,
  /** Null while somebody still has to decide. */
  stays: z.object({ until: z.string().nullable(), why: z.string(), person: z.string(), at: z.string() }).nullable(),
  /** waiting: a picture of one of them is still to come; none: they cannot be laid over each other. */
  difference: z.discriminatedUnion('state', [
    z.object({ state: z.literal('waiting') }),
    z.object({ state: z.literal('none') }),
    z.object({ state: z.literal('there'), meanFlip: z.number(), p95Flip: z.number(), deltaEOfMeans: z.number() }),
  ]),
  facts: z.array(z.object({ name: z.string(), before: factValue, after: factValue, growth: z.number().nullable() })),
  files: z.array(
    z.object({ role: z.string(), path: z.string(), kind: z.enum(['added', 'gone', 'changed']), byteGrowth: z.number() }),
  ),
  partsGone: z.array(z.string()),
  partsNew: z.array(z.string()),
  mockUps: z.array(usedInSchema),
  /** Of what was withdrawn: what comes nearest to it. */
  replacements: z.array(chipSchema),
})
export type Decision = z.infer<typeof decisionSchema>

/** Items of which one request decides: each is a few statements, and all of them are one transaction. */
export const MOST_DECIDED = 500
export const decideSchema = z
  .object({
    ids: z.array(z.number().int().positive()).min(1, 'Choose what to decide about.').max(MOST_DECIDED),
    /** undo takes back the last decision, whatever it was. */
    kind: z.enum(['take', 'stay', 'undo']),
    /** Of staying: when it is asked again. */
    until: z.iso.date().nullable().default(null),
    why: z.string().trim().max(500).default(''),
    /** Of taking: the project's mock-ups go over too. */
    withMockUps: z.boolean().default(true),
  })
  .refine(d => d.kind !== 'stay' || d.why !== '', { message: 'Say why it stays.', path: ['why'] })
export type Decide = z.input<typeof decideSchema>

export const replacePinSchema = z.object({ itemId: z.number().int().positive(), byId: z.number().int().positive() })

/** Of an item with a newer version, or withdrawn: what each project that pins it does about it. */
export const revisionSchema = z.object({
  itemId: z.number(),
  code: z.string(),
  name: z.string(),
  isWithdrawn: z.boolean(),
  approvedNumber: z.number(),
  projects: z.array(
    z.object({
      id: z.number(),
      code: z.string(),
      title: z.string(),
      phase: z.enum(PROJECT_PHASES),
      versionNumber: z.number(),
      state: z.enum(['open', 'stays', 'upToDate', 'frozen']),
      until: z.string().nullable(),
      why: z.string(),
      /** Who decides; empty for everybody who sees the project. */
      people: z.array(z.string()),
    }),
  ),
})
export type Revision = z.infer<typeof revisionSchema>

export const orderComparisonSchema = z.object({
  itemId: z.number().int().positive(),
  mockUpId: z.number().int().positive(),
  shot: z.string(),
})

export const standBesideSchema = z.object({ name: z.string().trim().min(1, 'Give it a name.').max(120) })
