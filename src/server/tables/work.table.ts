import { index, integer, jsonb, pgTable, primaryKey, serial, text, timestamp, uuid } from 'drizzle-orm/pg-core'
import { libraries } from './people.table'

/** Worker processes. Each holds an advisory lock of its number as long as it lives; where the lock is free, it has died. */
export const workers = pgTable('workers', {
  id: serial('id').primaryKey(),
  startedAt: timestamp('started_at', { withTimezone: true }).notNull().defaultNow(),
})

/** Which worker has which job in hand. Written with the taking and deleted with the settling of a job. */
export const runningJobs = pgTable(
  'running_jobs',
  {
    queue: text('queue').notNull(),
    jobId: uuid('job_id').notNull(),
    workerId: integer('worker_id').notNull(),
  },
  t => [primaryKey({ columns: [t.queue, t.jobId] }), index('running_jobs_worker').on(t.workerId)],
)

/** Work that was tried in vain as often as it may be. It stays until somebody has it tried again, or says that it does not matter. */
export const failedJobs = pgTable(
  'failed_jobs',
  {
    id: serial('id').primaryKey(),
    queue: text('queue').notNull(),
    job: jsonb('job').notNull(),
    /** Whom it concerns; null where it concerns nobody any more. */
    libraryId: integer('library_id').references(() => libraries.id),
    /** What it was for, in a person's words, and where in the interface that is. */
    about: text('about').notNull(),
    address: text('address'),
    /** What the program said, for the log only. */
    reason: text('reason').notNull(),
    at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [index('failed_jobs_library').on(t.libraryId)],
)
