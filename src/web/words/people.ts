import type { TokenScope } from '#shared/contracts/people.contract'
import type { Role } from '#shared/contracts/session.contract'

export const ROLE_WORDS: Record<Role, string> = { lead: 'library lead', artist: 'artist', guest: 'guest' }

export const SCOPE_WORDS: Record<TokenScope, string> = {
  read: 'may look',
  bring: 'may look and bring deliveries',
  all: 'may do what I may',
}
