import { DrizzleQueryError } from 'drizzle-orm'

/** An error for the log. Of a statement that failed what the database said and how it begins: its values can be megabytes. */
export function toLogText(error: unknown): string {
  if (error instanceof DrizzleQueryError) return `${error.cause?.stack ?? 'no answer'}\n    in ${error.query.slice(0, 200)}`
  return error instanceof Error ? (error.stack ?? error.message) : String(error)
}
