import type { DragEvent } from 'react'
import type { DeliveredMap } from '#core/hand-over/delivered-maps'
import { safeName } from '#core/hand-over/delivered-name'

/** Address of an item's zip, or of one of its maps: of a version and in a profile, or of the approved one and as the house has it. */
export function handOverLink(
  { code }: { code: string },
  wish: { version?: number; profileId?: number; map?: DeliveredMap; isCopy?: boolean } = {},
): string {
  const query = new URLSearchParams(Object.entries(wish).map(([name, value]) => [name, String(value)]))
  return `/api/items/${encodeURIComponent(code)}/hand-over${query.size > 0 ? `?${query}` : ''}`
}

/** What is dragged out of the browser lands in a folder as that file, where the browser can. */
export function offerToDesktop(event: DragEvent, item: { code: string; name: string }, link: string): void {
  const fileName = `${safeName(item.code)}_${safeName(item.name)}.zip`
  event.dataTransfer.setData('DownloadURL', `application/zip:${fileName}:${new URL(link, location.href).href}`)
}
