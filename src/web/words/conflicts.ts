import type { ConflictKind, Decision } from '#shared/contracts/intake.contract'

/** Read before the name of what the library holds. */
export const CONFLICT_WORDS: Record<ConflictKind, string> = {
  identical: 'To the pixel the same as',
  newerFiles: 'Another state of',
  nearDuplicate: 'Looks nearly the same as',
  sameName: 'Has the same name as',
}

export const DECISION_WORDS: Record<Decision, string> = {
  keepBoth: 'Keep both',
  newVersion: 'Make it a new version',
  link: 'Keep what is there, link it',
}
