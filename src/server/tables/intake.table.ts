import {
  bigint,
  customType,
  doublePrecision,
  index,
  integer,
  jsonb,
  pgTable,
  real,
  serial,
  text,
  timestamp,
  uniqueIndex,
} from 'drizzle-orm/pg-core'
import type { FailureCode } from '#core/findings/failure'
import type { Finding, FindingCode } from '#core/findings/finding'
import type { Fix } from '#core/fixes/fix'
import { type OpenPbrParameters, TILINGS } from '#core/material/open-pbr'
import type { MapRole } from '#core/material/texture-set'
import { ITEM_KINDS } from '#core/standard/categories'
import type { Facts } from '#files/items/inspect-item'
import type { LeftOverReason } from '#files/recognition/recognized-item'
import { type ConflictKind, DECISIONS } from '#shared/contracts/intake.contract'
import { categories, files, items, ltree, versions } from './library.table'
import { libraries, people } from './people.table'

/** One delivery on its way through Intake. */
export const batches = pgTable('batches', {
  id: serial('id').primaryKey(),
  libraryId: integer('library_id')
    .notNull()
    .references(() => libraries.id),
  personId: integer('person_id')
    .notNull()
    .references(() => people.id),
  title: text('title').notNull(),
  maker: text('maker').notNull().default(''),
  licence: text('licence').notNull().default(''),
  /** A delivery, or a scene that is only looked at. */
  purpose: text('purpose', { enum: ['delivery', 'scene'] })
    .notNull()
    .default('delivery'),
  /** receiving: files arrive; sorting: being recognised and measured; open: a worklist; failed: it could not be fetched or sorted. */
  state: text('state', { enum: ['receiving', 'sorting', 'open', 'failed'] })
    .notNull()
    .default('receiving'),
  /** How many files are on their way, where that is known: of what is fetched from a feed. */
  expectedFiles: integer('expected_files'),
  /** Why it failed. */
  message: text('message'),
  createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
})

export const batchFiles = pgTable(
  'batch_files',
  {
    id: serial('id').primaryKey(),
    batchId: integer('batch_id')
      .notNull()
      .references(() => batches.id),
    path: text('path').notNull(),
    hash: text('hash').references(() => files.hash),
    size: bigint('size', { mode: 'number' }).notNull(),
    /** received: as sent; unpacked: an archive whose content stands beside it; inItem, leftOver, failed: where it ended. */
    outcome: text('outcome', { enum: ['received', 'unpacked', 'inItem', 'leftOver', 'failed'] })
      .notNull()
      .default('received'),
    code: text('code').$type<FailureCode | LeftOverReason | 'byHand'>(),
    message: text('message'),
  },
  t => [uniqueIndex('batch_files_path').on(t.batchId, t.path)],
)

export interface BatchItemFile {
  path: string
  hash: string
  role: string
  byContentOnly: boolean
  handednessHint: 'openGl' | 'directX' | null
}

/** How a row is like something that the library has. */
export interface Conflict {
  kind: ConflictKind
  itemId: number
  /** Of 64 bits of the look, those that differ; null where looks were not compared. */
  differentBits: number | null
}

/** A finding with its pictures, by their hashes: as it is, and as its fix would make it. */
export interface SeenFinding extends Finding {
  before?: string
  after?: string
}

/** A fix somebody chose, and the finding it answers. */
export interface ChosenFix extends Fix {
  finding: FindingCode
}

/** An item as the batch seems to hold it; becomes a library item when it is accepted. */
export const batchItems = pgTable(
  'batch_items',
  {
    id: serial('id').primaryKey(),
    batchId: integer('batch_id')
      .notNull()
      .references(() => batches.id),
    kind: text('kind', { enum: ITEM_KINDS }).notNull(),
    name: text('name').notNull(),
    category: ltree('category')
      .notNull()
      .references(() => categories.path),
    categoryConfidence: real('category_confidence').notNull(),
    widthMm: doublePrecision('width_mm'),
    /** Whether the pictures of a material repeat, or stand once. */
    tiling: text('tiling', { enum: TILINGS }).notNull().default('repeat'),
    /** Where the delivery itself files it, and what it calls it besides. */
    sourceFolder: text('source_folder').notNull().default(''),
    tags: text('tags').array().notNull().default([]),
    /** Facts that a person gave; they win over what was measured or came along. */
    givenFacts: jsonb('given_facts').$type<Facts>().notNull().default({}),
    constants: jsonb('constants').$type<Partial<OpenPbrParameters>>().notNull(),
    files: jsonb('files').$type<BatchItemFile[]>().notNull(),
    inputKey: text('input_key').notNull(),
    state: text('state', { enum: ['measuring', 'ready', 'failed', 'accepted', 'setAside'] })
      .notNull()
      .default('measuring'),
    message: text('message'),
    /** Counts every change of what the measuring starts from, by a trigger; who began with an older one begins again. */
    revision: integer('revision').notNull().default(0),
    facts: jsonb('facts').$type<Facts>().notNull().default({}),
    findings: jsonb('findings').$type<SeenFinding[]>().notNull().default([]),
    /** The files as delivered; null while no fix was asked for and `files` are those. */
    sourceFiles: jsonb('source_files').$type<BatchItemFile[]>(),
    /** What is to be fixed, and what `files` were made with: they differ while the work is under way. */
    fixes: jsonb('fixes').$type<ChosenFix[]>().notNull().default([]),
    appliedFixes: jsonb('applied_fixes').$type<ChosenFix[]>().notNull().default([]),
    itemId: integer('item_id').references(() => items.id),
    /** What the library holds that this may be, and what somebody decided. */
    conflict: jsonb('conflict').$type<Conflict>(),
    decision: text('decision', { enum: DECISIONS }),
    /** The version that stood before this row was accepted over it; for taking that back. */
    previousVersionId: integer('previous_version_id').references(() => versions.id),
  },
  t => [index('batch_items_batch').on(t.batchId, t.id), index('batch_items_input').on(t.inputKey)],
)

/** Into which house category a supplier's own source folder goes, as somebody decided; the next delivery of theirs begins with it. */
export const sourceFolderMappings = pgTable(
  'source_folder_mappings',
  {
    id: serial('id').primaryKey(),
    libraryId: integer('library_id')
      .notNull()
      .references(() => libraries.id),
    /** In lower case, as is the source folder. */
    maker: text('maker').notNull(),
    sourceFolder: text('source_folder').notNull(),
    kind: text('kind', { enum: ITEM_KINDS }).notNull(),
    category: ltree('category')
      .notNull()
      .references(() => categories.path),
    personId: integer('person_id')
      .notNull()
      .references(() => people.id),
    at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [uniqueIndex('source_folder_mappings_folder').on(t.libraryId, t.maker, t.sourceFolder, t.kind)],
)

/** Which map a word in a supplier's file names means, where somebody said so. */
export const roleWords = pgTable(
  'role_words',
  {
    id: serial('id').primaryKey(),
    libraryId: integer('library_id')
      .notNull()
      .references(() => libraries.id),
    /** In lower case, as is the word. */
    maker: text('maker').notNull(),
    word: text('word').notNull(),
    role: text('role').$type<MapRole>().notNull(),
    personId: integer('person_id')
      .notNull()
      .references(() => people.id),
    at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [uniqueIndex('role_words_word').on(t.libraryId, t.maker, t.word)],
)

/** 64 bits that are compared by counting those that differ. */
const perceptualHashBits = customType<{ data: string; driverData: string }>({ dataType: () => 'bit(64)' })

/** By what the main file of an item is known again. */
export const fingerprints = pgTable(
  'fingerprints',
  {
    fileHash: text('file_hash')
      .primaryKey()
      .references(() => files.hash),
    content: text('content').notNull(),
    /** As a string of 64 digits 0 and 1. */
    perceptualHash: perceptualHashBits('perceptual_hash'),
  },
  t => [index('fingerprints_content').on(t.content)],
)
