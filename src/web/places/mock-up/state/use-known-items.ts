import { useCallback, useEffect, useRef, useState } from 'react'
import { listKeys } from '#core/mock-up/list-refs'
import type { Scene } from '#core/mock-up/scene'
import type { MockUp, MockUpItem } from '#shared/contracts/mock-ups.contract'
import { api } from '../../../state/api'
import { useAppDispatch } from '../../../state/hooks'

/** What the scene's references mean, by the keys of their inputs; what somebody else brought in is asked for when it comes. */
export function useKnownItems(mockUp: MockUp, scene: Scene) {
  const dispatch = useAppDispatch()
  const [items, setItems] = useState<ReadonlyMap<string, MockUpItem>>(() => new Map(mockUp.items.map(i => [i.ref.inputKey, i])))
  const asked = useRef(new Set<string>())
  const addItems = useCallback(
    (more: readonly MockUpItem[]) => setItems(before => new Map([...before, ...more.map(i => [i.ref.inputKey, i] as const)])),
    [],
  )
  useEffect(() => {
    const unknown = listKeys(scene).filter(key => !items.has(key) && !asked.current.has(key))
    if (unknown.length === 0) return
    for (const key of unknown) asked.current.add(key)
    void dispatch(api.endpoints.getMockUp.initiate({ id: mockUp.id }, { forceRefetch: true, subscribe: false })).then(
      ({ data }) => {
        if (data) addItems(data.items)
      },
    )
  }, [scene, items, mockUp.id, dispatch, addItems])
  return { items, addItems }
}
