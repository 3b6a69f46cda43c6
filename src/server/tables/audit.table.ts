import { bigint, doublePrecision, index, integer, jsonb, pgTable, serial, text, timestamp } from 'drizzle-orm/pg-core'
import type { z } from 'zod'
import type { SceneAudit } from '#files/audits/audit-scene'
import { AUDIT_STATES, type correctSceneSchema } from '#shared/contracts/audits.contract'
import { bytea } from './bytea'
import { batches } from './intake.table'
import { files } from './library.table'
import { libraries, people } from './people.table'
import { projects } from './project.table'

/** What a version is known again by in a scene; worked out once, for all who have the same inputs. */
export const itemPrints = pgTable('item_prints', {
  inputKey: text('input_key').primaryKey(),
  revision: integer('revision').notNull(),
  /** As the structured clone of the program's own form; null for what does not read. */
  print: bytea('print'),
  createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
})

export interface AuditPicture {
  own: string
  library: string
  flipMean: number
  deltaE00: number
}

/** What is kept of an audit beside what it says: what would take the places of things, and what is nearest to what is foreign. */
export type KeptAudit = SceneAudit & {
  nearest: Record<string, { code: string; distance: number }[]>
  /** Codes that have a version which may be put in place, with its input. */
  replacements: Record<string, { version: number; inputKey: string }>
  comparedWith: number
  notCompared: number
}

/** As it was ordered; one from before lights could be put back names none. */
export type KeptWish = z.input<typeof correctSceneSchema>

export const sceneAudits = pgTable(
  'scene_audits',
  {
    id: serial('id').primaryKey(),
    /** Who sees this library sees the audit. */
    libraryId: integer('library_id')
      .notNull()
      .references(() => libraries.id),
    projectId: integer('project_id').references(() => projects.id),
    batchId: integer('batch_id')
      .notNull()
      .references(() => batches.id),
    personId: integer('person_id')
      .notNull()
      .references(() => people.id),
    title: text('title').notNull(),
    state: text('state', { enum: AUDIT_STATES }).notNull().default('waiting'),
    step: text('step').notNull().default(''),
    share: doublePrecision('share').notNull().default(0),
    message: text('message'),
    result: jsonb('result').$type<KeptAudit>(),
    /** By the numbers of materials. */
    pictures: jsonb('pictures').$type<Record<string, AuditPicture>>().notNull().default({}),
    /** What is to be put back, once it was ordered. */
    wish: jsonb('wish').$type<KeptWish>(),
    correctionState: text('correction_state', { enum: ['waiting', 'writing', 'ready', 'failed'] }),
    correctionMessage: text('correction_message'),
    corrected: jsonb('corrected').$type<{ done: number; refused: { name: string; why: string }[]; auditId: number | null }>(),
    correctedHash: text('corrected_hash').references(() => files.hash),
    correctedSize: bigint('corrected_size', { mode: 'number' }),
    createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [index('scene_audits_project').on(t.projectId, t.id)],
)
