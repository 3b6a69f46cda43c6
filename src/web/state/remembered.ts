import type { z } from 'zod'

/** A value this browser keeps between visits; what does not fit the schema any more counts as not there. */
export function readRemembered<T>(key: string, schema: z.ZodType<T>, fallback: T): T {
  try {
    const parsed = schema.safeParse(JSON.parse(localStorage.getItem(`muscovite.${key}`) ?? 'null'))
    return parsed.success ? parsed.data : fallback
  } catch {
    return fallback
  }
}

export function remember(key: string, value: unknown): void {
  try {
    localStorage.setItem(`muscovite.${key}`, JSON.stringify(value))
  } catch {
    // Private windows may refuse; then it lasts as long as the page.
  }
}
