import { sql } from 'drizzle-orm'
import {
  type AnyPgColumn,
  bigint,
  boolean,
  customType,
  doublePrecision,
  index,
  integer,
  jsonb,
  pgTable,
  pgView,
  primaryKey,
  serial,
  text,
  timestamp,
  uniqueIndex,
} from 'drizzle-orm/pg-core'
import type { Evidence, FindingCode, Severity } from '#core/findings/finding'
import { type OpenPbrParameters, TILINGS } from '#core/material/open-pbr'
import { ITEM_KINDS } from '#core/standard/categories'
import { libraries, people } from './people.table'

export const ltree = customType<{ data: string }>({ dataType: () => 'ltree' })
/** Number of a transaction, as text. */
const xid8 = customType<{ data: string }>({ dataType: () => 'xid8' })

export const categories = pgTable('categories', {
  path: ltree('path').primaryKey(),
  title: text('title').notNull(),
  kind: text('kind', { enum: ITEM_KINDS }).notNull(),
  prefix: text('prefix').notNull().unique(),
  position: integer('position').notNull(),
  /** Where its items went when it was merged; its address leads there. */
  retiredInto: ltree('retired_into'),
})

/** Number of the last code that a library gave out under a prefix, so that codes are never used twice, wherever its category goes. */
export const codeNumbers = pgTable(
  'code_numbers',
  {
    libraryId: integer('library_id')
      .notNull()
      .references(() => libraries.id),
    prefix: text('prefix').notNull(),
    last: integer('last').notNull(),
  },
  t => [primaryKey({ columns: [t.libraryId, t.prefix] })],
)

/** File bytes, stored once under their SHA-256. */
export const files = pgTable(
  'files',
  {
    hash: text('hash').primaryKey(),
    size: bigint('size', { mode: 'number' }).notNull(),
    mediaType: text('media_type').notNull(),
    createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
    /** When somebody last brought these bytes. */
    lastPutAt: timestamp('last_put_at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [index('files_size').on(t.size)],
)

/** What pages show in place of files that are larger than they need; of a file that serves itself, the file. */
export const screenCopies = pgTable(
  'screen_copies',
  {
    sourceHash: text('source_hash')
      .notNull()
      .references(() => files.hash, { onDelete: 'cascade' }),
    longerPx: integer('longer_px').notNull(),
    hash: text('hash')
      .notNull()
      .references(() => files.hash, { onDelete: 'cascade' }),
  },
  t => [primaryKey({ columns: [t.sourceHash, t.longerPx] }), index('screen_copies_hash').on(t.hash)],
)

export const items = pgTable(
  'items',
  {
    id: serial('id').primaryKey(),
    libraryId: integer('library_id')
      .notNull()
      .references(() => libraries.id),
    category: ltree('category')
      .notNull()
      .references(() => categories.path),
    kind: text('kind', { enum: ITEM_KINDS }).notNull(),
    code: text('code').notNull().unique(),
    name: text('name').notNull(),
    state: text('state', { enum: ['draft', 'inReview', 'approved', 'withdrawn'] })
      .notNull()
      .default('draft'),
    /** The version that it was copied from, where it was. */
    copiedFromId: integer('copied_from_id').references((): AnyPgColumn => versions.id),
    /** The newest version. */
    currentVersionId: integer('current_version_id').references((): AnyPgColumn => versions.id),
    /** The one that projects pin. */
    approvedVersionId: integer('approved_version_id').references((): AnyPgColumn => versions.id),
    createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
    updatedAt: timestamp('updated_at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [
    index('items_category').using('gist', t.category),
    // Each change of a version's facts and words asks which item they are of, to tell the search.
    index('items_current_version').on(t.currentVersionId),
    index('items_order').on(t.libraryId, t.code),
  ],
)

/** Codes that an item had in another library: whoever asks for one is led to the item. */
export const formerCodes = pgTable(
  'former_codes',
  {
    code: text('code').primaryKey(),
    itemId: integer('item_id')
      .notNull()
      .references(() => items.id),
    /** Where it had the code; only who may see that library is led on. */
    libraryId: integer('library_id')
      .notNull()
      .references(() => libraries.id),
  },
  t => [index('former_codes_item').on(t.itemId)],
)

/** An immutable state of an item. */
export const versions = pgTable(
  'versions',
  {
    id: serial('id').primaryKey(),
    itemId: integer('item_id')
      .notNull()
      .references(() => items.id),
    number: integer('number').notNull(),
    authorId: integer('author_id')
      .notNull()
      .references(() => people.id),
    note: text('note').notNull().default(''),
    widthMm: doublePrecision('width_mm'),
    /** Whether the pictures of a material repeat, or stand once. */
    tiling: text('tiling', { enum: TILINGS }).notNull().default('repeat'),
    constants: jsonb('constants').$type<Partial<OpenPbrParameters>>().notNull().default({}),
    /** Hash of everything a picture or an analysis depends on; derived things are kept under it. */
    inputKey: text('input_key').notNull(),
    /** Of its facts those that a chip shows, once more: a wall of them is read with every page. Written with the facts. */
    keyFacts: jsonb('key_facts').$type<Record<string, string | number | boolean>>().notNull().default({}),
    createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [uniqueIndex('versions_number').on(t.itemId, t.number), index('versions_input').on(t.inputKey)],
)

export const versionFiles = pgTable(
  'version_files',
  {
    versionId: integer('version_id')
      .notNull()
      .references(() => versions.id),
    position: integer('position').notNull(),
    role: text('role').notNull(),
    /** As it came in the delivery, relative. */
    path: text('path').notNull(),
    hash: text('hash')
      .notNull()
      .references(() => files.hash),
    byContentOnly: boolean('by_content_only').notNull().default(false),
    handednessHint: text('handedness_hint', { enum: ['openGl', 'directX'] }),
  },
  t => [primaryKey({ columns: [t.versionId, t.position] }), index('version_files_hash').on(t.hash)],
)

/** A typed property of a version: a number in the unit its name ends in, or a text, or a truth. */
export const facts = pgTable(
  'facts',
  {
    versionId: integer('version_id')
      .notNull()
      .references(() => versions.id),
    name: text('name').notNull(),
    position: integer('position').notNull(),
    number: doublePrecision('number'),
    text: text('text'),
    truth: boolean('truth'),
  },
  t => [
    primaryKey({ columns: [t.versionId, t.name] }),
    index('facts_number').on(t.name, t.number),
    index('facts_text').on(t.name, t.text),
  ],
)

/** Facts that are lists of words. */
export const WORD_LISTS = ['tags', 'uses'] as const
export type WordList = (typeof WORD_LISTS)[number]

/** Words that a version carries: what it is, and where it is used. */
export const versionWords = pgTable(
  'version_words',
  {
    versionId: integer('version_id')
      .notNull()
      .references(() => versions.id),
    list: text('list', { enum: WORD_LISTS }).notNull(),
    position: integer('position').notNull(),
    word: text('word').notNull(),
  },
  t => [primaryKey({ columns: [t.versionId, t.list, t.position] }), index('version_words_word').on(t.list, t.word)],
)

/**
 * Facts with the lists of words among them, each as one text with commas between, for whoever shows or compares them like the others. To be
 * asked for by version, in a subquery or a lateral one: a plain join of it puts the lists of all versions together.
 */
export const toldFacts = pgView('told_facts', {
  versionId: integer('version_id').notNull(),
  name: text('name').notNull(),
  position: integer('position').notNull(),
  number: doublePrecision('number'),
  text: text('text'),
  truth: boolean('truth'),
}).existing()

export const findings = pgTable(
  'findings',
  {
    id: serial('id').primaryKey(),
    versionId: integer('version_id')
      .notNull()
      .references(() => versions.id),
    code: text('code').$type<FindingCode>().notNull(),
    severity: text('severity').$type<Severity>().notNull(),
    subject: text('subject'),
    evidence: jsonb('evidence').$type<Evidence>().notNull(),
    /** Pictures of it: as it is, and as its fix would make it. */
    beforeHash: text('before_hash').references(() => files.hash),
    afterHash: text('after_hash').references(() => files.hash),
  },
  t => [index('findings_version').on(t.versionId), index('findings_code').on(t.code)],
)

/** A rendered picture, kept under all it depends on. */
export const previews = pgTable(
  'previews',
  {
    id: serial('id').primaryKey(),
    inputKey: text('input_key').notNull(),
    rig: text('rig').notNull(),
    rigRevision: integer('rig_revision').notNull(),
    rendererRevision: integer('renderer_revision').notNull(),
    quality: text('quality', { enum: ['draft', 'final'] }).notNull(),
    seed: integer('seed').notNull(),
    hash: text('hash')
      .notNull()
      .references(() => files.hash),
    width: integer('width').notNull(),
    height: integer('height').notNull(),
    samples: bigint('samples', { mode: 'number' }).notNull(),
    achievedError: doublePrecision('achieved_error').notNull(),
    seconds: doublePrecision('seconds').notNull(),
    /** Share of tiles that came to the noise target before the sample cap. */
    convergedShare: doublePrecision('converged_share').notNull().default(0),
    fireflyShare: doublePrecision('firefly_share').notNull().default(0),
    /** What the rig chose behind the subject, how far it stands out from it (L*), and how much of the frame it takes. */
    backdropAlbedo: doublePrecision('backdrop_albedo'),
    contrast: doublePrecision('contrast'),
    coverage: doublePrecision('coverage'),
    /** The same picture linear, as OpenEXR; null for those made before it was kept. */
    linearHash: text('linear_hash').references(() => files.hash),
    /** The same picture at smaller widths, the smallest first. */
    reduced: jsonb('reduced').$type<{ width: number; hash: string }[]>().notNull().default([]),
    createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [uniqueIndex('previews_key').on(t.inputKey, t.rig, t.rigRevision, t.rendererRevision, t.quality, t.seed)],
)

/** Who changed what, when; written in the transaction of the change. */
export const events = pgTable(
  'events',
  {
    id: serial('id').primaryKey(),
    at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
    personId: integer('person_id').references(() => people.id),
    subject: text('subject', { enum: ['item', 'batch', 'project', 'feed', 'standard', 'person', 'library'] }).notNull(),
    subjectId: integer('subject_id').notNull(),
    verb: text('verb').notNull(),
    before: jsonb('before'),
    after: jsonb('after'),
  },
  t => [index('events_subject').on(t.subject, t.subjectId, t.id)],
)

/**
 * That something by which items are found has changed, and in which transaction; written by triggers, read by every server, which keeps
 * what it searches in memory. Only ever added to, so that nobody waits for anybody.
 */
export const itemChanges = pgTable(
  'item_changes',
  {
    changedIn: xid8('changed_in').notNull().default(sql`pg_current_xact_id()`),
    /** An item; what its chip shows besides; the rigs; words of the house; who may see what; what a person has of their own. */
    what: text('what', { enum: ['item', 'chip', 'rigs', 'words', 'access', 'person'] })
      .notNull()
      .default('item'),
    /** Of the item or the person. */
    id: integer('id').notNull().default(0),
    at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [index('item_changes_changed_in').on(t.changedIn)],
)
