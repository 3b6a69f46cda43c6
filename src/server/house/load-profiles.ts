import { asc, eq } from 'drizzle-orm'
import type { Profile } from '#core/hand-over/profile'
import { profileSchema } from '#shared/contracts/profiles.contract'
import type { Connection } from '../platform/database'
import { notFound } from '../platform/problem'
import { profiles } from '../tables/standard.table'

export interface HouseProfile {
  id: number
  name: string
  profile: Profile
  isHouse: boolean
}

/** As it holds: what was kept before a profile had more to say is as it ships. */
export const readProfile = (kept: Partial<Profile>): Profile => profileSchema.parse(kept)

/** Every profile of the house, the one of all first. */
export async function loadProfiles(db: Connection): Promise<HouseProfile[]> {
  const rows = await db.select().from(profiles).orderBy(asc(profiles.name))
  return rows
    .map(({ id, name, profile, isHouse }) => ({ id, name, profile: readProfile(profile), isHouse }))
    .sort((a, b) => Number(b.isHouse) - Number(a.isHouse))
}

/** @param id null for the one of all @throws ProblemError when there is none of this id */
export async function loadProfile(db: Connection, id: number | null): Promise<HouseProfile> {
  const [row] = await db
    .select()
    .from(profiles)
    .where(id === null ? eq(profiles.isHouse, true) : eq(profiles.id, id))
  if (!row) throw notFound('This profile')
  return { id: row.id, name: row.name, profile: readProfile(row.profile), isHouse: row.isHouse }
}
