import { Wrench } from 'lucide-react'
import type { FindingCode } from '#core/findings/finding'
import type { BatchItem } from '#shared/contracts/intake.contract'
import { findingName } from '#shared/finding-words'
import { ToolMenu, ToolMenuEntry } from '../../../../components/controls/ToolMenu'
import { plural } from '../../../../words/states'
import { listFindingKinds } from '../state/worklist-view'

/** Every kind of finding among these rows that can be fixed by itself, each with how many rows it concerns. */
export function FixMenu({ items, onFix }: { items: readonly BatchItem[]; onFix: (codes: FindingCode[]) => void }) {
  const kinds = listFindingKinds(items.filter(i => i.state === 'ready')).filter(k => k.isFixable)
  if (kinds.length === 0) return null
  return (
    <ToolMenu icon={Wrench} label="Fix">
      {kinds.map(k => (
        <ToolMenuEntry key={k.code} count={plural(k.rows, 'item')} onClick={() => onFix([k.code])}>
          {findingName(k.code)}
        </ToolMenuEntry>
      ))}
      {kinds.length > 1 && (
        <ToolMenuEntry isLast onClick={() => onFix(kinds.map(k => k.code))}>
          All of these
        </ToolMenuEntry>
      )}
    </ToolMenu>
  )
}
