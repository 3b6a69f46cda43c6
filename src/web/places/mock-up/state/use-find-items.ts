import { useCallback } from 'react'
import type { MockUpItem } from '#shared/contracts/mock-ups.contract'
import { tellProblem } from '../../../components/bulk-words'
import { useLazyFindMockUpItemsQuery } from '../../../state/api'

/** Items of the library as a mock-up takes them in; null, and said, where the server does not answer. */
export function useFindItems(onItems: (items: readonly MockUpItem[]) => void) {
  const [find] = useLazyFindMockUpItemsQuery()
  return useCallback(
    async (ids: readonly number[]): Promise<readonly MockUpItem[] | null> => {
      const { data, error } = await find({ ids: ids.join(',') }, true)
      if (data) onItems(data)
      else tellProblem(error)
      return data ?? null
    },
    [find, onItems],
  )
}
