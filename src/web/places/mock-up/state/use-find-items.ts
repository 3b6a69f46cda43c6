import { useCallback } from 'react'
import type { MockUpItem } from '#shared/contracts/mock-ups.contract'
import { useLazyFindMockUpItemsQuery } from '../../../state/api'

/** Items of the library as a mock-up takes them in; null where the server does not answer. */
export function useFindItems(onItems: (items: readonly MockUpItem[]) => void) {
  const [find] = useLazyFindMockUpItemsQuery()
  return useCallback(
    async (ids: readonly number[]): Promise<readonly MockUpItem[] | null> => {
      const { data } = await find({ ids: ids.join(',') }, true)
      if (data) onItems(data)
      return data ?? null
    },
    [find, onItems],
  )
}
