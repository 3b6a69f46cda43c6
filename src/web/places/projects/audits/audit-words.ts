import type { AuditClass } from '#core/audit/reference'

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
