import { createContext, useContext } from 'react'
import type { Location } from 'react-router'
import type { FindingCode } from '#core/findings/finding'
import type { BatchItem, EditBatchItems, Regroup } from '#shared/contracts/intake.contract'
import type { Category } from '#shared/contracts/items.contract'

export type RowPatch = Omit<EditBatchItems, 'ids'>

/** What is done to a row; the same functions for all of them. */
export interface RowActions {
  onExpand: (id: number, expanded: boolean) => void
  onMark: (id: number, range: boolean) => void
  onChange: (id: number, patch: RowPatch) => void
  onFix: (id: number, codes: FindingCode[], more?: { subject?: string; takeBack?: boolean }) => void
  onRegroup: (wish: Regroup) => void
  /** Accepts it, or with it everything that is marked. */
  onAccept: (item: BatchItem) => void
}

/** What all rows of a worklist share. It changes seldom: a row is rendered again when the row itself changed. */
export interface WorklistShared {
  batchId: number
  categories: readonly Category[]
  mayEdit: boolean
  actions: RowActions
  location: Location
}

const Shared = createContext<WorklistShared | null>(null)
export const WorklistProvider = Shared.Provider

export function useWorklist(): WorklistShared {
  const shared = useContext(Shared)
  if (!shared) throw new Error('A row stands in a worklist.')
  return shared
}

/** Accepted rows, and those of somebody who may only look, are not changed. */
export const useFrozen = (item: BatchItem): boolean => !useWorklist().mayEdit || item.state === 'accepted'
