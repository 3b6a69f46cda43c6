import type { Spot } from './scene'

/** The same for the same part, and for no other. */
export const spotKey = ({ piece, part }: Spot): string => `${piece ?? ''}/${part}`

export const isSameSpot = (a: Spot, b: Spot): boolean => a.piece === b.piece && a.part === b.part
