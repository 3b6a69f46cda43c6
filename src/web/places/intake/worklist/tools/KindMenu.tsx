import { Layers } from 'lucide-react'
import type { BatchItem, Regroup } from '#shared/contracts/intake.contract'
import { ToolMenu, ToolMenuEntry } from '../../../../components/controls/ToolMenu'

interface Props {
  items: readonly BatchItem[]
  onRegroup: (wish: Regroup) => void
}

const FLAT_ROLES = new Set(['baseColor', 'map', 'height', 'roughness', 'opacity', 'emission'])

/** Whether marked rows of one flat picture are maps by themselves, or materials. */
export function KindMenu({ items, onRegroup }: Props) {
  const open = items.filter(i => i.state !== 'accepted')
  const maps = open.filter(i => i.kind === 'map').map(i => i.id)
  const materials = open.filter(i => i.kind === 'material' && isFlat(i)).map(i => i.id)
  if (maps.length + materials.length === 0) return null
  return (
    <ToolMenu icon={Layers} label="Kind">
      {maps.length > 0 && (
        <>
          <ToolMenuEntry
            count={maps.length}
            onClick={() => onRegroup({ action: 'setKind', ids: maps, kind: 'material', tiling: 'repeat' })}
          >
            Materials that repeat
          </ToolMenuEntry>
          <ToolMenuEntry
            count={maps.length}
            onClick={() => onRegroup({ action: 'setKind', ids: maps, kind: 'material', tiling: 'once' })}
          >
            Materials that stand once
          </ToolMenuEntry>
        </>
      )}
      {materials.length > 0 && (
        <ToolMenuEntry
          count={materials.length}
          onClick={() => onRegroup({ action: 'setKind', ids: materials, kind: 'map', tiling: 'repeat' })}
        >
          Maps by themselves
        </ToolMenuEntry>
      )}
    </ToolMenu>
  )
}

/** One picture, and what its alpha was made into. */
const isFlat = ({ files }: BatchItem): boolean => {
  const shown = files.filter(f => FLAT_ROLES.has(f.role))
  return shown.length === 1 || (shown.length === 2 && shown.some(f => f.role === 'opacity'))
}
