import type { Person, Session } from '#shared/contracts/session.contract'
import type { Connection } from '../platform/database'
import type { Settings } from '../platform/settings'
import { studio } from '../tables/people.table'
import { listDemoPeople } from './demo-people'
import { listLibraries } from './libraries'

/** What a page knows of whoever opened it. */
export async function toSession(db: Connection, settings: Settings, person: Person | null): Promise<Session> {
  const [founded] = await db.select({ name: studio.name }).from(studio)
  return {
    person,
    libraries: person ? await listLibraries(db, person) : [],
    studio: founded?.name ?? null,
    outsideSignIn: settings.outsideSignIn?.title ?? null,
    demoPeople: person || settings.demo === 'off' ? [] : listDemoPeople(),
  }
}
