import { useCallback } from 'react'
import { toast } from 'sonner'
import type { Chip } from '#shared/contracts/chip.contract'
import { useGetPersonalQuery, useSetDotsMutation } from '../state/api'
import { patchChips } from '../state/chips'
import { useAppDispatch } from '../state/hooks'
import { trayDotted } from '../state/tray.slice'
import { plural } from '../words/states'
import { tellProblem } from './bulk-words'

/** Puts dots on and off, at once on the screen. */
export function useDots() {
  const dispatch = useAppDispatch()
  const [setDots] = useSetDotsMutation()
  const { data: personal } = useGetPersonalQuery()
  const show = (ids: readonly number[], color: number, on: boolean) => {
    dispatch(trayDotted({ ids: [...ids], color, on }))
    return dispatch(
      patchChips(new Set(ids), chip => {
        chip.dots = on ? [...new Set([...chip.dots, color])].sort() : chip.dots.filter(d => d !== color)
      }),
    )
  }
  /** On all that have none of it, or off all where every one has. */
  const toggle = async (chips: readonly Pick<Chip, 'id' | 'dots'>[], color: number) => {
    if (chips.length === 0) return
    const on = !chips.every(c => c.dots.includes(color))
    const ids = chips.map(c => c.id)
    const undo = show(ids, color, on)
    const result = await setDots({ ids, color, on })
    if (result.error) {
      undo()
      dispatch(trayDotted({ ids, color, on: !on }))
      tellProblem(result.error)
    } else if (result.data && ids.length > 1) {
      const { changed } = result.data
      toast(`${plural(changed.length, 'item')} ${on ? 'marked' : 'not marked any more'}.`, {
        action: {
          label: 'Undo',
          onClick: () => {
            show(changed, color, !on)
            void setDots({ ids: changed, color, on: !on })
          },
        },
      })
    }
  }
  const meanings = personal?.meanings
  const meaningOf = useCallback((color: number) => meanings?.[color - 1] || `dot ${color}`, [meanings])
  return { toggle, meaningOf }
}
