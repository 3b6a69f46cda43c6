import { Files } from 'lucide-react'
import type { BatchItem, Regroup } from '#shared/contracts/intake.contract'
import { ToolMenu, ToolMenuEntry } from '../../../../components/controls/ToolMenu'
import { roleWord } from '../../../../words/states'

const SIZES_PX = [8192, 4096, 2048, 1024]
/** What an item is the same without. */
const LEAVABLE = ['alternate', 'height', 'ambientOcclusion', 'specular', 'picture', 'document', 'lod', 'standIn']

interface Props {
  items: readonly BatchItem[]
  onRegroup: (wish: Regroup) => void
}

/** Which of their files the marked rows take: one size of each map, and no more kinds of file than are wanted. */
export function FilesMenu({ items, onRegroup }: Props) {
  const open = items.filter(i => i.state !== 'accepted')
  const ids = open.map(i => i.id)
  const withSizes = open.filter(i => i.files.some(f => f.role === 'alternate')).length
  const kinds = LEAVABLE.map(role => ({ role, count: open.flatMap(i => i.files).filter(f => f.role === role).length })).filter(
    k => k.count > 0,
  )
  if (withSizes === 0 && kinds.length === 0) return null
  return (
    <ToolMenu icon={Files} label="Files">
      {withSizes > 0 && (
        <>
          <p className="px-3 py-1 text-xs text-quiet">Of several sizes the one that leads ({withSizes} rows have some)</p>
          {SIZES_PX.map(px => (
            <ToolMenuEntry key={px} onClick={() => onRegroup({ action: 'chooseSize', ids, px, leaveRest: false })}>
              {px / 1024}K, or the next smaller
            </ToolMenuEntry>
          ))}
        </>
      )}
      {kinds.length > 0 && <p className="border-t border-line px-3 pt-2 pb-1 text-xs text-quiet">Leave out for now</p>}
      {kinds.map(({ role, count }) => (
        <ToolMenuEntry key={role} count={count} onClick={() => onRegroup({ action: 'leaveRoles', ids, roles: [role] })}>
          {roleWord(role)}
        </ToolMenuEntry>
      ))}
    </ToolMenu>
  )
}
