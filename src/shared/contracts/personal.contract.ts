import { z } from 'zod'
import { chipSchema } from './chip.contract'

/** Dots come in so many colours. */
export const DOT_COLORS = [1, 2, 3, 4, 5, 6] as const
export const dotColorSchema = z.coerce.number().int().min(1).max(DOT_COLORS.length)
export const MOST_TRAY_ITEMS = 5000

const title = z.string().trim().min(1, 'Give it a name.').max(80)

export const savedViewSchema = z.object({
  id: z.number(),
  title: z.string(),
  address: z.string(),
  isShared: z.boolean(),
  /** Whose it is; empty where it is the asker's own. */
  owner: z.string(),
  /** Items in it, and those that came in since the asker last stood there. */
  count: z.number(),
  fresh: z.number(),
})
export type SavedView = z.infer<typeof savedViewSchema>

export const traySummarySchema = z.object({
  id: z.number(),
  title: z.string(),
  count: z.number(),
  /** Who sent it, and what they wrote; empty where nobody did. */
  from: z.string(),
  note: z.string(),
})
export type TraySummary = z.infer<typeof traySummarySchema>

export const deskSchema = z.object({
  id: z.number(),
  name: z.string(),
  reportedAt: z.string(),
  /** Of those that the asker may see. */
  items: z.number(),
})

/** What lies on a desk: all of it, or as far as somebody looked. */
export const reportDeskSchema = z.object({
  name: z.string().trim().min(1, 'Give the desk a name.').max(80),
  isAll: z.boolean(),
  items: z.array(z.object({ code: z.string().max(40), version: z.number().int().positive(), isWhole: z.boolean() })).max(50_000),
})
export type ReportDesk = z.input<typeof reportDeskSchema>
/** Codes that are not known here, or not to the asker. */
export const reportedDeskSchema = z.object({ known: z.number(), unknown: z.array(z.string()) })
export type ReportedDesk = z.infer<typeof reportedDeskSchema>

export const personalSchema = z.object({
  /** What each colour of dot means, in the order of the colours; empty where nobody said. */
  meanings: z.array(z.string()),
  views: z.array(savedViewSchema),
  trays: z.array(traySummarySchema),
  /** Machines that told what lies on them; the last to tell comes first. */
  desks: z.array(deskSchema),
  /** To whom a tray can be sent. */
  colleagues: z.array(z.object({ id: z.number(), name: z.string() })),
})
export type Personal = z.infer<typeof personalSchema>

export const setDotsSchema = z.object({
  ids: z.array(z.number().int()).min(1).max(50_000),
  color: dotColorSchema,
  on: z.boolean(),
})
export const saveViewSchema = z.object({
  title,
  address: z.string().max(4000),
  isShared: z.boolean().default(false),
})
export const changeViewSchema = z.object({
  title: title.optional(),
  address: z.string().max(4000).optional(),
  isShared: z.boolean().optional(),
})
export const traySchema = z.object({
  id: z.number(),
  title: z.string(),
  chips: z.array(chipSchema),
})
export const saveTraySchema = z.object({
  title: title.optional(),
  itemIds: z.array(z.number().int()).max(MOST_TRAY_ITEMS).optional(),
})
export const sendTraySchema = z.object({
  personIds: z.array(z.number().int()).min(1).max(100),
  note: z.string().trim().max(500).default(''),
})
/** For each whom it was sent to, how many items they may not see and did not get. */
export const sentTraySchema = z.object({ sent: z.array(z.object({ name: z.string(), leftOut: z.number() })) })
