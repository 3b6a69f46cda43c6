import { useState } from 'react'
import { MAP_ROLES } from '#core/material/texture-set'
import type { BatchItem, Regroup } from '#shared/contracts/intake.contract'
import { Button } from '../../../../components/controls/Button'
import { CheckBox } from '../../../../components/controls/CheckBox'
import { Choice } from '../../../../components/controls/Choice'
import { PathText } from '../../../../components/PathText'
import { roleWord } from '../../../../words/states'

type Role = Extract<Regroup, { action: 'setRole' }>['role']
const MATERIAL_ROLES: readonly Role[] = [...MAP_ROLES, 'alternate', 'picture', 'document']
const isMaterialRole = (role: string): role is Role => (MATERIAL_ROLES as readonly string[]).includes(role)

/** The files of a row with what each is; files can be given another role, a row of their own, or be left out. */
export function RowFiles({ item, frozen, onRegroup }: { item: BatchItem; frozen: boolean; onRegroup: (wish: Regroup) => void }) {
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set())
  const paths = item.files.map(f => f.path).filter(p => chosen.has(p))
  const toggle = (path: string) => {
    const next = new Set(chosen)
    if (!next.delete(path)) next.add(path)
    setChosen(next)
  }
  const send = (wish: Regroup) => {
    setChosen(new Set())
    onRegroup(wish)
  }
  return (
    <div>
      <ul className="text-xs">
        {item.files.map(f => (
          <li key={f.path} className="grid grid-cols-[1.25rem_10rem_minmax(0,1fr)] items-center gap-2 py-0.5">
            {frozen ? (
              <span />
            ) : (
              <CheckBox
                label={`Choose the file ${f.path}`}
                isLabelHidden
                checked={chosen.has(f.path)}
                onChange={() => toggle(f.path)}
              />
            )}
            {frozen || item.kind !== 'material' || !isMaterialRole(f.role) ? (
              <span className="truncate text-quiet">{roleWord(f.role)}</span>
            ) : (
              <Choice
                label={`What ${f.path} is`}
                variant="plain"
                className="-ml-1 text-quiet"
                value={f.role}
                onChange={role => send({ action: 'setRole', itemId: item.id, path: f.path, role })}
                options={MATERIAL_ROLES.map(role => ({ value: role, text: roleWord(role) }))}
              />
            )}
            <PathText path={f.path} />
          </li>
        ))}
      </ul>
      {paths.length > 0 && (
        <p className="mt-2 flex flex-wrap gap-2">
          <Button disabled={paths.length === item.files.length} onClick={() => send({ action: 'split', itemId: item.id, paths })}>
            Make a row of {paths.length === 1 ? 'it' : `these ${paths.length}`}
          </Button>
          <Button onClick={() => send({ action: 'leave', itemId: item.id, paths })}>
            Leave {paths.length === 1 ? 'it' : `these ${paths.length}`} out
          </Button>
        </p>
      )}
    </div>
  )
}
