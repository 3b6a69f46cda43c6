import { format } from 'date-fns'
import { History } from 'lucide-react'
import { useState } from 'react'
import { toast } from 'sonner'
import type { KeptSchedule } from '#shared/contracts/schedules.contract'
import { tellProblem } from '../../../components/bulk-words'
import { ToolMenu, ToolMenuEntry } from '../../../components/controls/ToolMenu'
import { NameDialog } from '../../../components/dialogs/NameDialog'
import { useEditKeptScheduleMutation, useKeepScheduleMutation } from '../../../state/api'

interface Props {
  projectId: number
  kept: readonly KeptSchedule[]
  /** The one that the schedule is held against. */
  against: KeptSchedule | undefined
  onAgainst: (id: number | null) => void
  /** Mock-ups that it is measured in. */
  mockUps: readonly number[]
}

/** Schedules that were kept: the one that is shown is held against one of them, or kept beside them. */
export function KeptMenu({ projectId, kept, against, onAgainst, mockUps }: Props) {
  const [isNaming, setNaming] = useState(false)
  const [keep] = useKeepScheduleMutation()
  const [edit] = useEditKeptScheduleMutation()
  const keepNow = async (name: string) => {
    const result = await keep({ id: projectId, name, mockUps: [...mockUps] })
    if (result.error) return tellProblem(result.error)
    setNaming(false)
    toast.success(`Kept as ${name}. A later schedule can be held against it.`)
  }
  const setRemoved = async ({ id }: KeptSchedule, isRemoved: boolean): Promise<boolean> => {
    const result = await edit({ id: projectId, kept: id, isRemoved })
    if (result.error) tellProblem(result.error)
    return !result.error
  }
  const takeAway = async (one: KeptSchedule) => {
    onAgainst(null)
    if (!(await setRemoved(one, true))) return
    const bringBack = async () => {
      if (await setRemoved(one, false)) onAgainst(one.id)
    }
    toast(`${one.name} is taken away.`, { action: { label: 'Undo', onClick: () => void bringBack() } })
  }
  return (
    <>
      <ToolMenu icon={History} label={against ? `Against ${against.name}` : 'Against…'}>
        {against && <ToolMenuEntry onClick={() => onAgainst(null)}>Against nothing</ToolMenuEntry>}
        {kept.map(one => (
          <ToolMenuEntry key={one.id} onClick={() => onAgainst(one.id)} count={format(new Date(one.at), 'd MMM yyyy')}>
            <span className={`min-w-0 truncate ${one.id === against?.id ? 'font-medium' : ''}`}>{one.name}</span>
          </ToolMenuEntry>
        ))}
        <ToolMenuEntry isLast={kept.length > 0} onClick={() => setNaming(true)}>
          Keep it as it stands…
        </ToolMenuEntry>
        {against && <ToolMenuEntry onClick={() => void takeAway(against)}>Take {against.name} away</ToolMenuEntry>}
      </ToolMenu>
      {isNaming && (
        <NameDialog
          title="Keep the schedule as it stands"
          hint="Such as “Tender, 1 December”"
          onKeep={keepNow}
          onClose={() => setNaming(false)}
        />
      )}
    </>
  )
}
