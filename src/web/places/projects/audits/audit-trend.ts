import { format } from 'date-fns'
import type { AuditSummary } from '#shared/contracts/audits.contract'

export type TrendAudit = Pick<AuditSummary, 'title' | 'createdAt' | 'shares'>

/** What is on standard is as pinned, or another item of the library. */
const STANDARD = ['pinned', 'other'] as const

/** In percent. */
export const standardShare = (shares: Partial<Record<string, number>>): number =>
  Math.round(STANDARD.reduce((sum, c) => sum + (shares[c] ?? 0), 0) * 100)

/** Points of the chart over time, the earliest first; audits that are not read have none. */
export const pointsOf = (audits: readonly TrendAudit[]) =>
  audits
    .flatMap(({ title, createdAt, shares }) =>
      shares
        ? [
            {
              at: createdAt,
              title,
              day: format(new Date(createdAt), 'd MMM'),
              bySurface: standardShare(shares.byArea),
              byNumber: standardShare(shares.byCount),
            },
          ]
        : [],
    )
    .sort((a, b) => a.at.localeCompare(b.at))
