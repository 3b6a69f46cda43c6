import { sql } from 'drizzle-orm'
import { boolean, date, integer, jsonb, pgTable, serial, text, timestamp, uniqueIndex } from 'drizzle-orm/pg-core'
import { LICENCE_REACHES } from '#core/hand-over/licence'
import type { Profile } from '#core/hand-over/profile'
import type { CategoryRules } from '#core/standard/category-rules'
import type { ScheduleLayout } from '#shared/contracts/schedules.contract'
import { categories, ltree } from './library.table'
import { people } from './people.table'

/** What the house asks of a category, where somebody said something else than what ships. */
export const categoryRules = pgTable('category_rules', {
  category: ltree('category')
    .primaryKey()
    .references(() => categories.path),
  rules: jsonb('rules').$type<CategoryRules>().notNull(),
  personId: integer('person_id')
    .notNull()
    .references(() => people.id),
  at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
})

/** Lines of the vocabulary that the house added, changed or took out; what ships is not in it. */
export const wordLines = pgTable('word_lines', {
  id: serial('id').primaryKey(),
  /** The first word of the line that ships in whose place it stands. */
  replaces: text('replaces').unique(),
  words: text('words').array().notNull(),
  /** Whether it says where things are used; of the house's own lines. */
  isUse: boolean('is_use').notNull().default(false),
  personId: integer('person_id')
    .notNull()
    .references(() => people.id),
  at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
})

/** Layouts of schedules that the house keeps under a name. */
export const scheduleTemplates = pgTable('schedule_templates', {
  id: serial('id').primaryKey(),
  name: text('name').notNull().unique(),
  layout: jsonb('layout').$type<ScheduleLayout>().notNull(),
  personId: integer('person_id')
    .notNull()
    .references(() => people.id),
  at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
})

/** How renderers of the house want their files, each under the house's own name for it; one of them holds where nothing else is said. */
export const profiles = pgTable(
  'profiles',
  {
    id: serial('id').primaryKey(),
    name: text('name').notNull().unique(),
    /** What it leaves out is as it ships. */
    profile: jsonb('profile').$type<Partial<Profile>>().notNull(),
    isHouse: boolean('is_house').notNull().default(false),
    /** Null of the one that ships. */
    personId: integer('person_id').references(() => people.id),
    at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [uniqueIndex('profiles_house').on(t.isHouse).where(sql`${t.isHouse}`)],
)

/** What licences let out, by their wording; one that nobody has said anything of covers every project. */
export const licences = pgTable('licences', {
  wording: text('wording').primaryKey(),
  reach: text('reach', { enum: LICENCE_REACHES }).notNull(),
  /** Those that it covers, where it does not cover all. */
  projectIds: integer('project_ids').array().notNull().default([]),
  /** The last day on which it holds. */
  until: date('until'),
  personId: integer('person_id')
    .notNull()
    .references(() => people.id),
  at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
})
