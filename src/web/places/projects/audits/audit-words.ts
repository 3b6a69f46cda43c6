import type { AuditClass } from '#core/audit/reference'

/** From what most wants a decision to what wants none. */
export const CLASS_ORDER: readonly AuditClass[] = ['altered', 'older', 'missing', 'withdrawn', 'foreign', 'other', 'pinned']

export const CLASS_WORDS: Record<AuditClass, string> = {
  pinned: 'as pinned',
  older: 'older version',
  altered: 'altered here',
  other: 'not pinned',
  foreign: 'foreign',
  withdrawn: 'withdrawn',
  missing: 'files missing',
}

export const CLASS_HINTS: Record<AuditClass, string> = {
  pinned: 'The version that counts, untouched.',
  older: 'A version before the one that counts.',
  altered: 'An item of the library that was changed in this scene.',
  other: 'An item of the library that is not among the pins.',
  foreign: 'Nothing that the library knows.',
  withdrawn: 'An item that went from the library.',
  missing: 'Pictures that it asks for did not come along.',
}

/** Greys from what is as it should be to what is not; the words stand beside them. */
export const CLASS_TONES: Record<AuditClass, string> = {
  pinned: 'bg-ink',
  other: 'bg-ink/70',
  older: 'bg-ink/50',
  altered: 'bg-ink/35',
  withdrawn: 'bg-ink/25',
  missing: 'bg-ink/15',
  foreign: 'bg-mount',
}

/** The names of parameters and maps as they come, in words. */
export const changeWord = (what: string): string => {
  const text = what.replace(/([a-z0-9])([A-Z])/g, (_, a: string, b: string) => `${a} ${b.toLowerCase()}`)
  return text.charAt(0).toUpperCase() + text.slice(1).replaceAll('color', 'colour')
}
