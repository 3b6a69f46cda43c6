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

/** The names of parameters and maps as they come, in words. */
export const changeWord = (what: string): string => {
  const text = what.replace(/([a-z0-9])([A-Z])/g, (_, a: string, b: string) => `${a} ${b.toLowerCase()}`)
  return text.charAt(0).toUpperCase() + text.slice(1).replaceAll('color', 'colour')
}
