import type { OwnPicture } from '#shared/contracts/own-picture.contract'
import { PICTURE_FAULT_WORDS } from '#shared/finding-words'

/** "75 of 100: another aspect than 4 : 3, too dark" */
export const describeScore = ({ score, faults }: Pick<OwnPicture, 'score' | 'faults'>): string =>
  faults.length === 0 ? `${score} of 100` : `${score} of 100: ${faults.map(f => PICTURE_FAULT_WORDS[f]).join(', ')}`
