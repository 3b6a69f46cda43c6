/** all: every project; projects: those that are named; none: nothing leaves the house. */
export const LICENCE_REACHES = ['all', 'projects', 'none'] as const
export type LicenceReach = (typeof LICENCE_REACHES)[number]

export interface LicenceTerms {
  wording: string
  reach: LicenceReach
  projectIds: readonly number[]
  /** The last day on which it holds, yyyy-mm-dd; null for ever. */
  until: string | null
}

/**
 * Why an item may not be handed over, as a sentence; null when it may.
 * @param terms null where nobody has said what the licence lets out: then it lets out everything
 * @param project null when it is handed over by itself, for no project
 * @param today yyyy-mm-dd
 */
export function findRefusal(
  terms: LicenceTerms | null,
  project: { id: number; code: string } | null,
  today: string,
): string | null {
  if (!terms) return null
  if (terms.reach === 'none') return `Its licence, “${terms.wording}”, lets nothing out of the house.`
  if (terms.until !== null && terms.until < today) return `Its licence, “${terms.wording}”, ran out after ${terms.until}.`
  if (terms.reach === 'all') return null
  if (!project) return `Its licence, “${terms.wording}”, covers some projects only: hand it over from one of them.`
  return terms.projectIds.includes(project.id) ? null : `Its licence, “${terms.wording}”, does not cover ${project.code}.`
}
