import { sql } from 'drizzle-orm'
import {
  boolean,
  customType,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  real,
  serial,
  text,
  timestamp,
} from 'drizzle-orm/pg-core'
import type { Change } from '#core/mock-up/scene/change'
import { type Scene, sceneSchema } from '#core/mock-up/scene/scene'
import type { MockUpPictureStats } from '#files/mock-ups/render-mock-up'
import { bytea } from './bytea'
import { files } from './library.table'
import { libraries, people } from './people.table'
import { projects } from './project.table'

/** A scene, read as of today: what was kept before something came to be has none of it. */
const scene = customType<{ data: Scene; driverData: unknown }>({
  dataType: () => 'jsonb',
  toDriver: value => JSON.stringify(value),
  fromDriver: value => sceneSchema.parse(value),
})

/** Staged scenes of library items: a project's, or somebody's own. */
export const mockUps = pgTable(
  'mock_ups',
  {
    id: serial('id').primaryKey(),
    title: text('title').notNull(),
    /** Null: somebody's own. */
    projectId: integer('project_id').references(() => projects.id),
    ownerId: integer('owner_id')
      .notNull()
      .references(() => people.id),
    /** Who sees this library sees it, where it is a project's or shared; what is in it may be of this library or the house's. */
    libraryId: integer('library_id')
      .notNull()
      .references(() => libraries.id),
    /** One's own that others may open too. */
    isShared: boolean('is_shared').notNull().default(false),
    /** Others may begin from it. */
    isTemplate: boolean('is_template').notNull().default(false),
    scene: scene('scene').notNull(),
    /** Of changes. */
    revision: integer('revision').notNull().default(0),
    createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
    changedAt: timestamp('changed_at', { withTimezone: true }).notNull().defaultNow(),
    removedAt: timestamp('removed_at', { withTimezone: true }),
  },
  t => [index('mock_ups_project').on(t.projectId), index('mock_ups_owner').on(t.ownerId)],
)

/** What was done to a scene, in order; revision n is the scene after change n. */
export const mockUpChanges = pgTable(
  'mock_up_changes',
  {
    mockUpId: integer('mock_up_id')
      .notNull()
      .references(() => mockUps.id),
    revision: integer('revision').notNull(),
    personId: integer('person_id')
      .notNull()
      .references(() => people.id),
    /** Of the page that made it: its own change it does not take in again. */
    page: text('page').notNull(),
    change: jsonb('change').$type<Change>().notNull(),
    at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [primaryKey({ columns: [t.mockUpId, t.revision] })],
)

/** States of a scene that somebody keeps under a name. */
export const mockUpVersions = pgTable(
  'mock_up_versions',
  {
    id: serial('id').primaryKey(),
    mockUpId: integer('mock_up_id')
      .notNull()
      .references(() => mockUps.id),
    name: text('name').notNull(),
    personId: integer('person_id')
      .notNull()
      .references(() => people.id),
    scene: scene('scene').notNull(),
    at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [index('mock_up_versions_mock_up').on(t.mockUpId, t.id)],
)

/** Renderings of shots, with all that they are made of. */
export const mockUpPictures = pgTable(
  'mock_up_pictures',
  {
    id: serial('id').primaryKey(),
    mockUpId: integer('mock_up_id')
      .notNull()
      .references(() => mockUps.id),
    personId: integer('person_id')
      .notNull()
      .references(() => people.id),
    /** As it was when it was ordered; the shot's sky is the one that was asked for. */
    scene: scene('scene').notNull(),
    shot: text('shot').notNull(),
    shotName: text('shot_name').notNull(),
    skyName: text('sky_name'),
    /** Of choices, which variants it shows, by name. */
    variantNames: text('variant_names').array().notNull().default([]),
    quality: text('quality', { enum: ['draft', 'final'] }).notNull(),
    /** Pixels of its longer side; null as the quality has it. */
    longerPx: integer('longer_px'),
    seed: integer('seed').notNull().default(1),
    rendererRevision: integer('renderer_revision').notNull(),
    state: text('state', { enum: ['waiting', 'rendering', 'ready', 'failed', 'cancelled'] })
      .notNull()
      .default('waiting'),
    share: real('share').notNull().default(0),
    error: real('error'),
    secondsLeft: real('seconds_left'),
    hash: text('hash').references(() => files.hash),
    linearHash: text('linear_hash').references(() => files.hash),
    stats: jsonb('stats').$type<MockUpPictureStats>(),
    message: text('message'),
    orderedAt: timestamp('ordered_at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [
    index('mock_up_pictures_mock_up').on(t.mockUpId, t.id),
    index('mock_up_pictures_open').on(t.id).where(sql`${t.state} in ('waiting', 'rendering')`),
  ],
)

/** Renderings as far as they have come, as WebP; gone when they are ended. */
export const mockUpInterimPictures = pgTable('mock_up_interim_pictures', {
  pictureId: integer('picture_id')
    .primaryKey()
    .references(() => mockUpPictures.id, { onDelete: 'cascade' }),
  /** How many there were of it. */
  number: integer('number').notNull(),
  bytes: bytea('bytes').notNull(),
})
