import { useCallback, useEffect, useRef, useState } from 'react'
import { listKeys } from '#core/mock-up/materials/list-refs'
import type { Scene } from '#core/mock-up/scene/scene'
import type { MockUp, MockUpItem } from '#shared/contracts/mock-ups.contract'
import { api } from '../../../state/api'
import { useAppDispatch } from '../../../state/hooks'

const AGAIN_MS = 500
const MOST_ROUNDS = 40

/** What the scene's references mean, by the keys of their inputs; what somebody else brought in is asked for when it comes. */
export function useKnownItems(mockUp: MockUp, scene: Scene) {
  const dispatch = useAppDispatch()
  const [items, setItems] = useState<ReadonlyMap<string, MockUpItem>>(() => new Map(mockUp.items.map(i => [i.ref.inputKey, i])))
  const asked = useRef(new Set<string>())
  const [round, setRound] = useState(0)
  const addItems = useCallback(
    (more: readonly MockUpItem[]) => setItems(before => new Map([...before, ...more.map(i => [i.ref.inputKey, i] as const)])),
    [],
  )
  useEffect(() => {
    const unknown = listKeys(scene).filter(key => !items.has(key) && !asked.current.has(key))
    if (unknown.length === 0 || round > MOST_ROUNDS) return
    for (const key of unknown) asked.current.add(key)
    void dispatch(api.endpoints.getMockUp.initiate({ id: mockUp.id }, { forceRefetch: true, subscribe: false })).then(
      ({ data }) => {
        if (data) addItems(data.items)
        const still = unknown.filter(key => !data?.items.some(i => i.ref.inputKey === key))
        if (still.length === 0) return
        // The scene is ahead of what is saved: asked again when that has come there.
        for (const key of still) asked.current.delete(key)
        setTimeout(() => setRound(n => n + 1), AGAIN_MS)
      },
    )
  }, [scene, items, mockUp.id, dispatch, addItems, round])
  return { items, addItems }
}
