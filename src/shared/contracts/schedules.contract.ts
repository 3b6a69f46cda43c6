import { z } from 'zod'
import { ITEM_KINDS } from '#core/standard/categories'

export const SCHEDULE_COLUMNS = [
  'picture',
  'code',
  'name',
  'maker',
  'productNumber',
  'sheen',
  'size',
  'quantity',
  'gross',
  'edge',
  'litres',
  'weight',
  'cost',
  'where',
  'licence',
] as const
export type ScheduleColumn = (typeof SCHEDULE_COLUMNS)[number]

export const SCHEDULE_GROUPS = ['kind', 'category', 'maker', 'place', 'type', 'none'] as const
export type ScheduleGroup = (typeof SCHEDULE_GROUPS)[number]
export const SCHEDULE_FORMS = ['csv', 'xlsx', 'pdf'] as const
export type ScheduleForm = (typeof SCHEDULE_FORMS)[number]

export const DEFAULT_COLUMNS: readonly ScheduleColumn[] = ['picture', 'code', 'name', 'maker', 'size', 'quantity', 'where']

/** How a schedule is laid out. */
export const scheduleLayoutSchema = z.object({
  columns: z.array(z.enum(SCHEDULE_COLUMNS)).min(1).max(SCHEDULE_COLUMNS.length),
  group: z.enum(SCHEDULE_GROUPS),
  sort: z.enum(['code', 'name', 'quantity']),
  /** Bought and not built in, in percent. */
  wastePercent: z.number().min(0).max(100),
})
export type ScheduleLayout = z.infer<typeof scheduleLayoutSchema>

/** A layout as an address has it. */
export const layoutTextSchema = z
  .string()
  .max(2000)
  .transform((text, context) => {
    try {
      return JSON.parse(text) as unknown
    } catch {
      context.addIssue({ code: 'custom', message: 'This is no layout of a schedule.' })
      return z.NEVER
    }
  })
  .pipe(scheduleLayoutSchema)

export const DEFAULT_LAYOUT: ScheduleLayout = {
  columns: [...DEFAULT_COLUMNS],
  group: 'kind',
  sort: 'code',
  wastePercent: 0,
}

/** A layout that the house keeps under a name. */
export const scheduleTemplateSchema = z.object({ id: z.number(), name: z.string(), layout: scheduleLayoutSchema })
export type ScheduleTemplate = z.infer<typeof scheduleTemplateSchema>
export const newScheduleTemplateSchema = z.object({
  name: z.string().trim().min(1, 'Give the template a name.').max(60),
  layout: scheduleLayoutSchema,
})

const figure = z.number().nullable()

export const scheduleRowSchema = z.object({
  key: z.string(),
  /** Null of what a model came with, or was not chosen yet. */
  code: z.string().nullable(),
  version: z.number().nullable(),
  name: z.string(),
  kind: z.enum([...ITEM_KINDS, 'own']),
  /** Title of its category. */
  category: z.string(),
  preview: z.string().nullable(),
  maker: z.string(),
  productNumber: z.string(),
  sheen: z.string(),
  licence: z.string(),
  size: z.string(),
  unit: z.enum(['m2', 'pieces']),
  net: z.number(),
  gross: z.number(),
  /** Open edges, m. */
  edgeM: figure,
  litres: figure,
  weightKg: figure,
  cost: figure,
  where: z.array(
    z.object({
      of: z.string(),
      part: z.string(),
      group: z.string().nullable(),
      /** Of parts whose finish it is by their type: its name. */
      type: z.string().nullable(),
      count: z.number(),
      amount: z.number(),
    }),
  ),
  /** Pieces that are not at their true size. */
  scaled: z.number(),
  /** How much it was in the kept one that it is held against, null where that was not said; null where it is held against none. */
  before: z.union([z.literal('new'), z.object({ net: figure })]).nullable(),
  /** Of a project's pin: how much of it somebody said is needed, and how much was measured; the first counts where it is there. */
  pin: z.object({ itemId: z.number(), typed: figure, measured: figure }).nullable().optional(),
})
export type ScheduleRow = z.infer<typeof scheduleRowSchema>

/** A line of a schedule as it was kept. */
export const keptLineSchema = z.object({
  key: z.string(),
  code: z.string().nullable(),
  name: z.string(),
  unit: z.enum(['m2', 'pieces']),
  /** Null where nobody had said how much, and nothing of it was measured. */
  net: figure,
})
export type KeptLine = z.infer<typeof keptLineSchema>

export const scheduleSchema = z.object({
  title: z.string(),
  project: z.string().nullable(),
  rows: z.array(scheduleRowSchema),
  /** Codes of models that could not be measured. */
  missing: z.array(z.string()),
  /** Of what it is held against, lines that are not there any more. */
  gone: z.array(keptLineSchema),
})
export type Schedule = z.infer<typeof scheduleSchema>

/** Numbers in one text: "3,5,8". */
const numberListSchema = z
  .string()
  .regex(/^(\d{1,9}(,\d{1,9})*)?$/, 'These are no mock-ups.')
  .default('')
  .transform(text => (text === '' ? [] : text.split(',').map(Number)))

export const projectScheduleQuerySchema = z.object({
  waste: z.coerce.number().min(0).max(100).default(0),
  /** Mock-ups of the project in which quantities are measured. */
  mockUps: numberListSchema,
  /** A kept schedule of the project that it is held against. */
  against: z.coerce.number().int().positive().optional(),
})

/** A project's schedule is kept as it stands, under a name: as it was sent out, say. */
export const keepScheduleSchema = z.object({
  name: z.string().trim().min(1, 'Give the kept schedule a name.').max(60),
  mockUps: z.array(z.number().int().positive()).max(100),
})
export const keptScheduleSchema = z.object({
  id: z.number(),
  name: z.string(),
  person: z.string(),
  at: z.string(),
  lines: z.number(),
})
export type KeptSchedule = z.infer<typeof keptScheduleSchema>
export const editKeptScheduleSchema = z.object({ isRemoved: z.boolean() })

/** How much of a pin is needed: m² of a material, pieces of anything else; null as it is measured. */
export const pinQuantitySchema = z.object({ itemId: z.number().int().positive(), amount: z.number().min(0).max(1e7).nullable() })
export type PinQuantity = z.infer<typeof pinQuantitySchema>
export const setQuantitiesSchema = z.object({ quantities: z.array(pinQuantitySchema).min(1).max(5000) })
export const quantitiesBeforeSchema = z.object({ before: z.array(pinQuantitySchema) })

export const scheduleQuerySchema = z.object({
  waste: z.coerce.number().min(0).max(100).default(0),
  /** A kept version of the mock-up. */
  against: z.coerce.number().int().positive().optional(),
})
