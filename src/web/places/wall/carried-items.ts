import type { DragEvent } from 'react'

/** What items are called while they are carried over the page. */
const TYPE = 'application/x-muscovite-items'

export const carryIds = (event: DragEvent, ids: readonly number[]): void => {
  event.dataTransfer.setData(TYPE, JSON.stringify(ids))
  event.dataTransfer.effectAllowed = 'copyMove'
}

/** Whether items are carried; which ones is told only where they are let go. */
export const isCarrying = (event: DragEvent): boolean => event.dataTransfer.types.includes(TYPE)

export function readCarried(event: DragEvent): number[] {
  try {
    const ids: unknown = JSON.parse(event.dataTransfer.getData(TYPE))
    return Array.isArray(ids) ? ids.filter(id => Number.isInteger(id)) : []
  } catch {
    return []
  }
}
