import { index, integer, jsonb, pgTable, primaryKey, serial, text, timestamp } from 'drizzle-orm/pg-core'
import { MODEL_UNITS, UP_AXES } from '#core/mock-up/stage-model/model-space'
import type { StageModel } from '#files/stage-models/make-stage-model'
import { batches } from './intake.table'
import { files, items } from './library.table'
import { libraries, people } from './people.table'
import { projects } from './project.table'

export type StageModelFacts = Omit<StageModel, 'bytes' | 'unit'> & { size: number }

/** Models of one's own that mock-ups have as their stage: a project's, or somebody's. Read otherwise, it is another one. */
export const stageModels = pgTable(
  'stage_models',
  {
    id: serial('id').primaryKey(),
    /** Of its one file, by which scenes name it; null until it is made. */
    hash: text('hash').references(() => files.hash),
    /** Null: somebody's own. */
    projectId: integer('project_id').references(() => projects.id),
    ownerId: integer('owner_id')
      .notNull()
      .references(() => people.id),
    /** Who sees this library sees what is a project's. */
    libraryId: integer('library_id')
      .notNull()
      .references(() => libraries.id),
    /** The files as they were sent. */
    batchId: integer('batch_id')
      .notNull()
      .references(() => batches.id),
    name: text('name').notNull(),
    unit: text('unit', { enum: MODEL_UNITS }).notNull(),
    up: text('up', { enum: UP_AXES }).notNull(),
    state: text('state', { enum: ['waiting', 'reading', 'ready', 'failed'] })
      .notNull()
      .default('waiting'),
    message: text('message'),
    facts: jsonb('facts').$type<StageModelFacts>(),
    createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [index('stage_models_project').on(t.projectId, t.id), index('stage_models_hash').on(t.hash)],
)

/** What materials of a project's models are in the house, by their names there: decided once, proposed for the next model. */
export const materialChoices = pgTable(
  'material_choices',
  {
    projectId: integer('project_id')
      .notNull()
      .references(() => projects.id),
    material: text('material').notNull(),
    itemId: integer('item_id')
      .notNull()
      .references(() => items.id),
    personId: integer('person_id')
      .notNull()
      .references(() => people.id),
    at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [primaryKey({ columns: [t.projectId, t.material] })],
)
