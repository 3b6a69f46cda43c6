import { useEffect, useRef } from 'react'
import { api, useAddTrayMutation, useLazyGetTrayQuery, useSaveTrayMutation } from './api'
import { useAppDispatch, useAppSelector } from './hooks'
import { toRequest } from './request'
import { trayOpened, trayOwned } from './tray.slice'

const SAVING_PAUSE_MS = 400

/**
 * Keeps the tray at hand with the server: what is put in here is saved there, what is put in elsewhere comes here when one looks at this
 * page again. What the browser remembers of it bridges the time until the server answers.
 */
export function useTraySync(personId: number): void {
  const { ownerId, id, chips, isNew } = useAppSelector(s => s.tray)
  const isOwn = ownerId === personId
  const dispatch = useAppDispatch()
  const [getTray] = useLazyGetTrayQuery()
  const [addTray] = useAddTrayMutation()
  const [saveTray] = useSaveTrayMutation()
  /** What the server has, as a text of ids; null until that is known. */
  const saved = useRef<string | null>(null)
  const latest = useRef({ id, chips })
  latest.current = { id, chips }
  const idsOf = (list: readonly { id: number }[]) => list.map(c => c.id).join()

  useEffect(() => {
    dispatch(trayOwned(personId))
  }, [personId, dispatch])

  // biome-ignore lint/correctness/useExhaustiveDependencies: once for each tray that is opened
  useEffect(() => {
    let isGone = false
    const load = async () => {
      const before = latest.current
      if (isNew || !isOwn) return
      const wanted =
        before.id ??
        (await dispatch(api.endpoints.getPersonal.initiate(undefined, { forceRefetch: true, subscribe: false }))).data?.trays[0]
          ?.id
      const held = idsOf(before.chips)
      if (wanted === undefined) {
        if (isGone || before.chips.length === 0) return
        const made = await addTray({ itemIds: before.chips.map(c => c.id) })
        if (made.data && !isGone) {
          saved.current = held
          dispatch(trayOpened({ id: made.data.id, chips: before.chips }))
        }
        return
      }
      const { data, error } = await getTray({ id: wanted })
      if (isGone) return
      // Somebody removed it in another page: the next one is as good, or none.
      if ((error as { status?: unknown } | undefined)?.status === 404) {
        saved.current = null
        dispatch(trayOpened({ id: null, chips: [] }))
        return
      }
      // What was put in since it was asked for is not taken out again.
      if (!data || idsOf(latest.current.chips) !== held) return
      if (saved.current !== null && saved.current !== held) return
      saved.current = idsOf(data.chips)
      dispatch(trayOpened({ id: wanted, chips: data.chips }))
    }
    void load()
    const onFocus = () => void load()
    window.addEventListener('focus', onFocus)
    return () => {
      isGone = true
      window.removeEventListener('focus', onFocus)
    }
  }, [id, isNew, isOwn])

  // biome-ignore lint/correctness/useExhaustiveDependencies: what is in it is what is saved
  useEffect(() => {
    const held = idsOf(chips)
    if (!isOwn || held === saved.current || (saved.current === null && chips.length === 0)) return
    const itemIds = chips.map(c => c.id)
    const timer = setTimeout(async () => {
      if (id !== null) {
        saved.current = held
        await saveTray({ id, itemIds })
      } else {
        const made = await addTray({ itemIds })
        if (!made.data) return
        saved.current = held
        dispatch(trayOpened({ id: made.data.id, chips: latest.current.chips }))
      }
    }, SAVING_PAUSE_MS)
    // Whoever closes the page at once has put it in all the same: a request that outlives the page says so.
    const saveLast = () => {
      // What is saved already may have been changed in another page since.
      if (id === null || saved.current === held) return
      clearTimeout(timer)
      const { url, method, body } = toRequest('saveTray', { id, itemIds })
      void fetch(url, {
        method,
        keepalive: true,
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify(body),
      })
    }
    window.addEventListener('pagehide', saveLast)
    return () => {
      clearTimeout(timer)
      window.removeEventListener('pagehide', saveLast)
    }
  }, [id, chips, isOwn])
}
