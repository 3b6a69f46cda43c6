import { toast } from 'sonner'
import type { FindingCode } from '#core/findings/finding'
import type { Batch, BatchItem, MapSourceFolder, Regroup } from '#shared/contracts/intake.contract'
import { tellBulk, tellProblem } from '../../../../components/bulk-words'
import {
  useAcceptRowsMutation,
  useChooseFixesMutation,
  useEditBatchItemsMutation,
  useMapSourceFolderMutation,
  useRegroupMutation,
  useRenameBatchItemsMutation,
  useTakeBackRowsMutation,
  useUndoRegroupMutation,
} from '../../../../state/api'
import { useAppDispatch } from '../../../../state/hooks'
import { rowsChanged, rowsPatched } from '../../../../state/rows.slice'
import { plural } from '../../../../words/states'
import { REGROUP_WORDS } from './regroup-words'
import type { RowPatch } from './worklist-context'
import { describeAccepted } from './worklist-view'

/** Everything that is done to a batch's rows; each says what it did, and how it is undone. */
export function useBatchChanges({ id: batchId, maker }: Pick<Batch, 'id' | 'maker'>) {
  const dispatch = useAppDispatch()
  const [edit] = useEditBatchItemsMutation()
  const [accept, { isLoading: isAccepting }] = useAcceptRowsMutation()
  const [takeBack] = useTakeBackRowsMutation()
  const [choose] = useChooseFixesMutation()
  const [mapSourceFolder] = useMapSourceFolderMutation()
  const [regroup] = useRegroupMutation()
  const [undoRegroup] = useUndoRegroupMutation()
  const [renameRows] = useRenameBatchItemsMutation()

  return {
    isAccepting,
    /** Shown at once; where the server refuses, the rows are read again as they are. */
    change: async (ids: number[], patch: RowPatch) => {
      dispatch(rowsPatched({ batchId, ids, patch }))
      const result = await edit({ batchId, ids, ...patch })
      if (result.error) tellProblem(result.error)
      dispatch(rowsChanged({ batchId, ids }))
    },
    fix: async (ids: number[], codes: FindingCode[], more: { subject?: string; takeBack?: boolean } = {}) => {
      const result = await choose({ batchId, ids, codes, ...more })
      if (result.error) return tellProblem(result.error)
      if (!result.data || more.takeBack) return
      const { changed } = result.data
      tellBulk(n => `${plural(n, 'item')} in line to be fixed; the files as delivered stay.`, result.data, {
        label: 'Undo',
        onClick: () => choose({ batchId, ids: changed, codes, ...more, takeBack: true }),
      })
    },
    mapSourceFolders: async (list: MapSourceFolder[]) => {
      for (const wish of list) {
        const result = await mapSourceFolder({ batchId, ...wish })
        if (result.error) return tellProblem(result.error)
      }
      toast(`${plural(list.length, 'source folder')} decided${maker ? ` and remembered for ${maker}` : ''}.`)
    },
    regroupRows: async (wish: Regroup) => {
      const result = await regroup({ batchId, ...wish })
      if (!result.data) return tellProblem(result.error)
      const { undo } = result.data
      toast(REGROUP_WORDS[wish.action], {
        action: {
          label: 'Undo',
          onClick: async () => {
            const back = await undoRegroup({ batchId, undo })
            if (back.error) tellProblem(back.error)
          },
        },
      })
    },
    nameByPattern: async (rows: readonly BatchItem[]) => {
      const names = rows.map(i => ({ id: i.id, name: i.proposedName ?? i.name }))
      const before = rows.map(i => ({ id: i.id, name: i.name }))
      const result = await renameRows({ batchId, names })
      if (result.error) return tellProblem(result.error)
      toast(`${plural(rows.length, 'row')} named by the pattern.`, {
        action: { label: 'Undo', onClick: () => renameRows({ batchId, names: before }) },
      })
    },
    /** Whether it was done. */
    acceptThem: async (rows: readonly BatchItem[]): Promise<boolean> => {
      const result = await accept({ batchId, ids: rows.map(i => i.id) })
      if (!result.data) {
        tellProblem(result.error)
        return false
      }
      const { changed } = result.data
      const done = new Set(changed)
      tellBulk(() => describeAccepted(rows.filter(i => done.has(i.id))), result.data, {
        label: 'Undo',
        onClick: () => takeBack({ batchId, ids: changed }),
      })
      return true
    },
  }
}
export type BatchChanges = ReturnType<typeof useBatchChanges>
