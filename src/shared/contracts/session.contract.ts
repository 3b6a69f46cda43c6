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
  /** People anybody may sign in as, while the demo world is in place. */
  demoPeople: z.array(z.object({ name: z.string(), email: z.string(), password: z.string(), describes: z.string() })),
})
export type Session = z.infer<typeof sessionSchema>

export const signInSchema = z.object({
  email: z.email('Give an e-mail address.'),
  password: z.string().min(1, 'Give a password.'),
})
export type SignIn = z.infer<typeof signInSchema>
