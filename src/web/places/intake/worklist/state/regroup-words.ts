import type { Regroup } from '#shared/contracts/intake.contract'

/** What is said after a sorting by hand. */
export const REGROUP_WORDS: Record<Regroup['action'], string> = {
  split: 'The files are a row of their own.',
  merge: 'The rows are one.',
  leave: 'Left out; they stand at the end of the page.',
  take: 'The files are in a row now.',
  setRole: 'It is measured again as that.',
  chooseSize: 'Measured again at that size.',
  setKind: 'Measured again as that.',
  leaveRoles: 'Left out; they stand at the end of the page and can be taken in later.',
}
