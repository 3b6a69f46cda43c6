import type { Chip } from '#shared/contracts/chip.contract'
import { api } from './api'
import type { AppDispatch, RootState } from './store'
import { trayRefreshed } from './tray.slice'

const MOST_AT_ONCE = 500

/** Changes chips wherever a page of the wall shows them; returns how to change them back. */
export const patchChips =
  (ids: ReadonlySet<number>, change: (chip: Chip) => void) =>
  (dispatch: AppDispatch, getState: () => RootState): (() => void) => {
    const undo = api.util.selectCachedArgsForQuery(getState(), 'getWall').map(args =>
      dispatch(
        api.util.updateQueryData('getWall', args, ({ chips }) => {
          for (const chip of chips) if (ids.has(chip.id)) change(chip)
        }),
      ),
    )
    return () => {
      for (const patch of undo) patch.undo()
    }
  }

/** Reads chips anew, and puts them in the place of those on the wall and in the tray: their pictures are there. */
export const refreshChips = (ids: readonly number[]) => async (dispatch: AppDispatch, getState: () => RootState) => {
  const state = getState()
  const shown = new Set([
    ...state.tray.chips.map(c => c.id),
    ...api.util.selectCachedArgsForQuery(state, 'getWall').flatMap(
      args =>
        api.endpoints.getWall
          .select(args)(state)
          .data?.chips.map(c => c.id) ?? [],
    ),
  ])
  const asked = ids.filter(id => shown.has(id))
  for (let at = 0; at < asked.length; at += MOST_AT_ONCE) {
    const { data } = await dispatch(
      api.endpoints.getChips.initiate(
        { ids: asked.slice(at, at + MOST_AT_ONCE).join() },
        { subscribe: false, forceRefetch: true },
      ),
    )
    if (!data) continue
    const fresh = new Map(data.map(chip => [chip.id, chip]))
    dispatch(patchChips(new Set(fresh.keys()), chip => Object.assign(chip, fresh.get(chip.id))))
    dispatch(trayRefreshed(data))
  }
}
