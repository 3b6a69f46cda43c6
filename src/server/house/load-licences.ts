import { format } from 'date-fns'
import { findRefusal, type LicenceTerms } from '#core/hand-over/licence'
import type { Connection } from '../platform/database'
import { licences } from '../tables/standard.table'

/** What somebody has said of licences, by their wording. */
export async function loadLicences(db: Connection): Promise<Map<string, LicenceTerms>> {
  const rows = await db.select().from(licences)
  return new Map(rows.map(row => [row.wording, row]))
}

type ForProject = { id: number; code: string } | null

/** Says why things may not be handed over today, by their licence; for a project, or for none. */
export async function loadRefusals(db: Connection, project: ForProject): Promise<(licence: string) => string | null> {
  const known = await loadLicences(db)
  const date = today()
  return licence => findRefusal(known.get(licence) ?? null, project, date)
}

/** Licences that let nothing out today, for a project or for none; in order. */
export async function loadBarred(db: Connection, project: ForProject): Promise<string[]> {
  const [known, date] = [await loadLicences(db), today()]
  return [...known.values()].flatMap(terms => (findRefusal(terms, project, date) === null ? [] : [terms.wording])).sort()
}

const today = (): string => format(new Date(), 'yyyy-MM-dd')
