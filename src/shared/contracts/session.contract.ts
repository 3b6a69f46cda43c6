import { z } from 'zod'

/** A guest sees what a project shows them, and nothing else. */
export const ROLES = ['lead', 'artist', 'guest'] as const
export type Role = (typeof ROLES)[number]

export const personSchema = z.object({
  id: z.number(),
  name: z.string(),
  email: z.string(),
  role: z.enum(ROLES),
})
export type Person = z.infer<typeof personSchema>

export const librarySchema = z.object({
  id: z.number(),
  key: z.string(),
  title: z.string(),
  kind: z.enum(['house', 'client']),
})
export type Library = z.infer<typeof librarySchema>

export const sessionSchema = z.object({
  person: personSchema.nullable(),
  libraries: z.array(librarySchema),
  /** The studio's name; null until it is founded. */
  studio: z.string().nullable(),
  /** What the button to the studio's own sign-in service says; null where there is none. */
  outsideSignIn: z.string().nullable(),
  /** People anybody may sign in as, while the demo world is in place. */
  demoPeople: z.array(z.object({ name: z.string(), email: z.string(), password: z.string(), describes: z.string() })),
})
export type Session = z.infer<typeof sessionSchema>

/**
 * Why the sign-in service does not let somebody in: away: it does not answer; failed: it does not vouch for them, or they did not come from
 * here; unverified: it does not say that the address is theirs; unknown: nobody with it was invited; letOut: they may not come in any more.
 */
export const OUTSIDE_REFUSALS = ['away', 'failed', 'unverified', 'unknown', 'letOut'] as const
export type OutsideRefusal = (typeof OUTSIDE_REFUSALS)[number]

export const signInSchema = z.object({
  email: z.email('Give an e-mail address.'),
  password: z.string().min(1, 'Give a password.'),
})
export type SignIn = z.infer<typeof signInSchema>
