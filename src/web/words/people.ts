import type { TokenScope } from '#shared/contracts/people.contract'
import type { OutsideRefusal, Role } from '#shared/contracts/session.contract'

export const ROLE_WORDS: Record<Role, string> = { lead: 'library lead', artist: 'artist', guest: 'guest' }

export const REFUSAL_WORDS: Record<OutsideRefusal, string> = {
  away: 'The sign-in service does not answer. Try again in a moment, or use your password.',
  failed: 'Signing in did not come to its end. Try again, or use your password.',
  unverified: 'The sign-in service does not say that your e-mail address is yours. Whoever looks after it can confirm it.',
  unknown: 'Nobody with your e-mail address is invited here. Ask a library lead for an invitation.',
  letOut: 'You may not come in any more; a library lead can say why.',
}

export const SCOPE_WORDS: Record<TokenScope, string> = {
  read: 'may look',
  bring: 'may look and bring deliveries',
  all: 'may do what I may',
}
