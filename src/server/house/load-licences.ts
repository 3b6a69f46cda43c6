import { format } from 'date-fns'
import { findRefusal, type LicenceTerms } from '#core/hand-over/licence'
import type { Connection } from '../platform/database'
import { licences } from '../tables/standard.table'

/** What somebody has said of licences, by their wording. */
export async function loadLicences(db: Connection): Promise<Map<string, LicenceTerms>> {
  const rows = await db.select().from(licences)
  return new Map(rows.map(row => [row.wording, row]))
}

/** Says why things may not be handed over today, by their licence; for a project, or for none. */
export async function loadRefusals(
  db: Connection,
  project: { id: number; code: string } | null,
): Promise<(licence: string) => string | null> {
  const known = await loadLicences(db)
  const today = format(new Date(), 'yyyy-MM-dd')
  return licence => findRefusal(known.get(licence) ?? null, project, today)
}
