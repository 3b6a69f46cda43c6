import type { MockUp } from '#shared/contracts/mock-ups.contract'
import { useGetSessionQuery } from '../../../state/api'

/**
 * Libraries whose items may stand in a mock-up, as a filter of the wall: the house's and that of those who see it; of one's own, which nobody
 * else sees, every one.
 */
export function useOpenLibraries({ project, isShared, isTemplate, library }: MockUp): string {
  const { data: session } = useGetSessionQuery()
  if (!project && !isShared && !isTemplate) return ''
  const house = (session?.libraries ?? []).filter(l => l.kind === 'house').map(l => l.key)
  return [...new Set([...house, library])].join('|')
}
