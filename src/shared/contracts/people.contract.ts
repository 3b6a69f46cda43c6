import { z } from 'zod'
import { ITEM_KINDS } from '#core/standard/categories'
import { personSchema, ROLES } from './session.contract'

const name = z.string().trim().min(1, 'Give a name.').max(120)
const email = z.email('Give an e-mail address.').max(200)
/** Length is what makes a password strong (NIST SP 800-63B, 5.1.1.2). */
const password = z.string().min(10, 'A password has at least 10 characters.').max(200)
const ids = z.array(z.number().int().positive()).max(500)

export const memberSchema = personSchema.extend({
  /** Of the libraries that the asker may know of, those that this person may see. */
  libraries: z.array(z.object({ id: z.number(), title: z.string(), kind: z.enum(['house', 'client']) })),
  /** Of a guest: projects that are shown to them. */
  projects: z.array(z.object({ id: z.number(), title: z.string() })),
  isActive: z.boolean(),
  /** Whether they have chosen a password. */
  hasJoined: z.boolean(),
  /** Browsers that are signed in as this person; only leads are told. */
  sessions: z.number().nullable(),
})
export type Member = z.infer<typeof memberSchema>

/** A browser that is signed in. */
export const openSessionSchema = z.object({
  /** Names it, and lets nobody in. */
  key: z.string(),
  /** Such as "Firefox on Linux". */
  browser: z.string(),
  begunAt: z.string().nullable(),
  /** To the day. */
  seenAt: z.string().nullable(),
  isThis: z.boolean(),
})
export type OpenSession = z.infer<typeof openSessionSchema>

export const invitePersonSchema = z.object({ name, email, role: z.enum(ROLES), libraryIds: ids.default([]) })
export type InvitePerson = z.infer<typeof invitePersonSchema>

export const changePersonSchema = z.object({
  name: name.optional(),
  role: z.enum(ROLES).optional(),
  isActive: z.boolean().optional(),
  /** Client libraries whose team they are on, of those that the asker may see; others stay as they are. */
  libraryIds: ids.optional(),
})
export type ChangePerson = z.infer<typeof changePersonSchema>

/** What is to be handed over; it works once, for a week. */
export const handedLinkSchema = z.object({
  path: z.string(),
  /** Whether it went out by mail as well; none where no mail server is set. */
  mail: z.enum(['sent', 'failed', 'none']),
})
export type HandedLink = z.infer<typeof handedLinkSchema>

export const LINK_PURPOSES = ['found', 'join', 'reset'] as const
/** What a link is for, told to whoever opens it. */
export const openedLinkSchema = z.object({
  purpose: z.enum(LINK_PURPOSES),
  studio: z.string().nullable(),
  name: z.string().nullable(),
  email: z.string().nullable(),
})
export type OpenedLink = z.infer<typeof openedLinkSchema>

export const choosePasswordSchema = z.object({ password })
export const changePasswordSchema = z.object({ current: z.string().min(1, 'Give your password as it is.'), next: password })
export type ChangePassword = z.infer<typeof changePasswordSchema>

/** A category of a tree from a file: dotted lower-case words from the top, each with its parent before it. */
const treeCategorySchema = z.object({
  path: z
    .string()
    .regex(/^[a-z][a-zA-Z0-9]*(\.[a-z][a-zA-Z0-9]*)*$/, 'A path has words with dots between, such as surfaces.timber.'),
  title: z.string().trim().min(1).max(80),
  kind: z.enum(ITEM_KINDS),
  prefix: z.string().regex(/^[A-Z]{3}$/, 'Codes begin with three capitals.'),
})
export const treeFileSchema = z.array(treeCategorySchema).min(1).max(5000)
export type TreeFile = z.infer<typeof treeFileSchema>

export const foundStudioSchema = z.object({
  studio: z.string().trim().min(1, 'Give the studio a name.').max(120),
  name,
  email,
  password,
  /** The house tree as it ships, its first level alone, or one from a file. */
  tree: z.union([z.enum(['shipped', 'empty']), treeFileSchema]).default('shipped'),
})
export type FoundStudio = z.infer<typeof foundStudioSchema>

export const TOKEN_SCOPES = ['read', 'bring', 'all'] as const
export type TokenScope = (typeof TOKEN_SCOPES)[number]
export const newTokenSchema = z.object({
  title: z.string().trim().min(1, 'Say what it is for.').max(80),
  scope: z.enum(TOKEN_SCOPES),
})
export type NewToken = z.infer<typeof newTokenSchema>
export const apiTokenSchema = z.object({
  id: z.number(),
  title: z.string(),
  scope: z.enum(TOKEN_SCOPES),
  createdAt: z.string(),
  lastUsedAt: z.string().nullable(),
})
export type ApiToken = z.infer<typeof apiTokenSchema>

const libraryTitle = z.string().trim().min(1, 'Give the library a title.').max(120)
export const newLibrarySchema = z.object({ title: libraryTitle })
export const changeLibrarySchema = z.object({ title: libraryTitle.optional(), isArchived: z.boolean().optional() })
export const managedLibrarySchema = z.object({
  id: z.number(),
  title: z.string(),
  kind: z.enum(['house', 'client']),
  isArchived: z.boolean(),
  items: z.number(),
  people: z.number(),
})
export type ManagedLibrary = z.infer<typeof managedLibrarySchema>
