import type { Role } from '#shared/contracts/session.contract'

export const ROLE_WORDS: Record<Role, string> = { lead: 'library lead', artist: 'artist' }
