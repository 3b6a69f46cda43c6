import { hash, verify } from '@node-rs/argon2'
import { asc, eq } from 'drizzle-orm'
import type { Person, Role, SignIn } from '#shared/contracts/session.contract'
import { toPerson } from '../platform/access'
import type { Connection } from '../platform/database'
import { ProblemError } from '../platform/problem'
import { libraryMembers, people } from '../tables/people.table'

/** argon2id with OWASP's second recommended setting (19 MiB, two passes). */
const ARGON2 = { memoryCost: 19_456, timeCost: 2, parallelism: 1 }
export const hashPassword = (password: string): Promise<string> => hash(password, ARGON2)

/** Checked when there is no such person, so that a wrong address takes as long as a wrong password. */
let decoy: Promise<string> | null = null

export async function signIn(db: Connection, { email, password }: SignIn): Promise<Person> {
  const [person] = await db.select().from(people).where(eq(people.email, email.trim().toLowerCase()))
  decoy ??= hashPassword('nobody has this password')
  const matches = await verify(person?.passwordHash ?? (await decoy), password)
  if (!person || !matches || person.passwordHash === null || person.deactivatedAt !== null)
    throw new ProblemError('notSignedIn', 'This e-mail address and password do not belong together.')
  return toPerson(person)
}

export interface NewPerson {
  email: string
  name: string
  role: Role
  password: string
  /** Client libraries whose team they join. */
  libraryIds: number[]
}

export async function addPerson(db: Connection, given: NewPerson): Promise<Person> {
  const [known] = await db.select().from(people).where(eq(people.email, given.email)).orderBy(asc(people.id))
  if (known) return toPerson(known)
  const { email, name, role } = given
  const [person] = await db
    .insert(people)
    .values({ email, name, role, passwordHash: await hashPassword(given.password) })
    .returning()
  if (given.libraryIds.length > 0)
    await db.insert(libraryMembers).values(given.libraryIds.map(libraryId => ({ libraryId, personId: person.id })))
  return toPerson(person)
}

/** Whether it is the password of this person. */
export async function isPasswordOf(db: Connection, personId: number, password: string): Promise<boolean> {
  const [person] = await db.select({ hash: people.passwordHash }).from(people).where(eq(people.id, personId))
  return Boolean(person?.hash) && verify(person.hash!, password)
}

export const setPassword = async (tx: Connection, personId: number, password: string): Promise<void> => {
  await tx
    .update(people)
    .set({ passwordHash: await hashPassword(password) })
    .where(eq(people.id, personId))
}
