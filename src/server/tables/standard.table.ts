import { integer, jsonb, pgTable, serial, text, timestamp } from 'drizzle-orm/pg-core'
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
