import {
  bigint,
  boolean,
  date,
  doublePrecision,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  serial,
  text,
  timestamp,
} from 'drizzle-orm/pg-core'
import type { Profile } from '#core/hand-over/profile'
import type { ExportManifest } from '#shared/contracts/hand-over.contract'
import { PROJECT_PHASES } from '#shared/contracts/projects.contract'
import type { KeptLine } from '#shared/contracts/schedules.contract'
import { files, items, versions } from './library.table'
import { libraries, people } from './people.table'
import { profiles } from './standard.table'

export const projects = pgTable('projects', {
  id: serial('id').primaryKey(),
  code: text('code').notNull().unique(),
  title: text('title').notNull(),
  /** Who sees this library sees the project. */
  libraryId: integer('library_id')
    .notNull()
    .references(() => libraries.id),
  /** A frozen one keeps its versions until somebody thaws it; a closed one is done. */
  phase: text('phase', { enum: PROJECT_PHASES }).notNull().default('open'),
  notes: text('notes').notNull().default(''),
  /** How this project wants its files, where it is not as the house has it. */
  ownForm: jsonb('own_form').$type<Partial<Profile>>(),
  /** The profile of the house that it hands over by; null for the one of all. */
  profileId: integer('profile_id').references(() => profiles.id),
  createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
})

/** Who decides for a project; where nobody is named, everybody who sees it does. */
export const projectPeople = pgTable(
  'project_people',
  {
    projectId: integer('project_id')
      .notNull()
      .references(() => projects.id),
    personId: integer('person_id')
      .notNull()
      .references(() => people.id),
  },
  t => [primaryKey({ columns: [t.projectId, t.personId] })],
)

/** What a project did last about a newer version of what it pins, or about its being withdrawn. */
export const pinDecisions = pgTable(
  'pin_decisions',
  {
    projectId: integer('project_id')
      .notNull()
      .references(() => projects.id),
    itemId: integer('item_id')
      .notNull()
      .references(() => items.id),
    kind: text('kind', { enum: ['took', 'stays', 'replaced'] }).notNull(),
    /** What was asked about: this version was approved, or the item withdrawn. */
    askedVersionId: integer('asked_version_id')
      .notNull()
      .references(() => versions.id),
    wasWithdrawn: boolean('was_withdrawn').notNull().default(false),
    /** The way back. */
    fromVersionId: integer('from_version_id')
      .notNull()
      .references(() => versions.id),
    replacedById: integer('replaced_by_id').references(() => items.id),
    until: date('until'),
    why: text('why').notNull().default(''),
    personId: integer('person_id')
      .notNull()
      .references(() => people.id),
    at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [primaryKey({ columns: [t.projectId, t.itemId] })],
)

/** How far the pictures of two versions are apart, and what their models are made of; worked out once for all projects. */
export const versionDifferences = pgTable(
  'version_differences',
  {
    beforeKey: text('before_key').notNull(),
    afterKey: text('after_key').notNull(),
    rig: text('rig').notNull(),
    rigRevision: integer('rig_revision').notNull(),
    /** Null where the pictures cannot be laid over each other. */
    pictures: jsonb('pictures').$type<{ meanFlip: number; p95Flip: number; deltaEOfMeans: number }>(),
    partsBefore: text('parts_before').array().notNull().default([]),
    partsAfter: text('parts_after').array().notNull().default([]),
    createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [primaryKey({ columns: [t.beforeKey, t.afterKey, t.rig, t.rigRevision] })],
)

/** Guests that a project is shown to. */
export const projectGuests = pgTable(
  'project_guests',
  {
    projectId: integer('project_id')
      .notNull()
      .references(() => projects.id),
    personId: integer('person_id')
      .notNull()
      .references(() => people.id),
  },
  t => [primaryKey({ columns: [t.projectId, t.personId] }), index('project_guests_person').on(t.personId)],
)

/** A project's use of one version of one item. */
export const pins = pgTable(
  'pins',
  {
    projectId: integer('project_id')
      .notNull()
      .references(() => projects.id),
    itemId: integer('item_id')
      .notNull()
      .references(() => items.id),
    versionId: integer('version_id')
      .notNull()
      .references(() => versions.id),
    personId: integer('person_id')
      .notNull()
      .references(() => people.id),
    createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [primaryKey({ columns: [t.projectId, t.itemId] })],
)

/** How much of an item a project needs: m² of a material, pieces of anything else. It stays when the pin goes, and is there when it comes back. */
export const pinQuantities = pgTable(
  'pin_quantities',
  {
    projectId: integer('project_id')
      .notNull()
      .references(() => projects.id),
    itemId: integer('item_id')
      .notNull()
      .references(() => items.id),
    amount: doublePrecision('amount').notNull(),
    personId: integer('person_id')
      .notNull()
      .references(() => people.id),
    at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [primaryKey({ columns: [t.projectId, t.itemId] })],
)

/** A project's schedule as it stood at a time, such as when it was sent out. */
export const keptSchedules = pgTable(
  'kept_schedules',
  {
    id: serial('id').primaryKey(),
    projectId: integer('project_id')
      .notNull()
      .references(() => projects.id),
    name: text('name').notNull(),
    personId: integer('person_id')
      .notNull()
      .references(() => people.id),
    lines: jsonb('lines').$type<KeptLine[]>().notNull(),
    at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
    removedAt: timestamp('removed_at', { withTimezone: true }),
  },
  t => [index('kept_schedules_project').on(t.projectId, t.id)],
)

export const projectExports = pgTable(
  'exports',
  {
    id: serial('id').primaryKey(),
    projectId: integer('project_id')
      .notNull()
      .references(() => projects.id),
    personId: integer('person_id')
      .notNull()
      .references(() => people.id),
    /** Name of the profile; empty for a form of the project's own. */
    label: text('label').notNull().default(''),
    profile: jsonb('request').$type<Partial<Profile>>().notNull(),
    /** expired: its zip was collected after its time. */
    state: text('state', { enum: ['waiting', 'writing', 'ready', 'failed', 'expired'] })
      .notNull()
      .default('waiting'),
    /** What was pinned when it was ordered; that is what is written. */
    pins: jsonb('pins').$type<{ itemId: number; versionId: number }[]>().notNull().default([]),
    /** Items written so far, and how many there are. */
    done: integer('done').notNull().default(0),
    total: integer('total').notNull(),
    /** What the zip says of itself; null of those written before it was kept. */
    manifest: jsonb('manifest').$type<ExportManifest>(),
    hash: text('hash').references(() => files.hash),
    size: bigint('size', { mode: 'number' }),
    message: text('message'),
    createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [index('exports_project').on(t.projectId, t.id)],
)
