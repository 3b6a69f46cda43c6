import { LayoutTemplate } from 'lucide-react'
import { useState } from 'react'
import { toast } from 'sonner'
import type { ScheduleLayout } from '#shared/contracts/schedules.contract'
import { tellProblem } from '../../../components/bulk-words'
import { ToolMenu, ToolMenuEntry } from '../../../components/controls/ToolMenu'
import { NameDialog } from '../../../components/dialogs/NameDialog'
import {
  useDropScheduleTemplateMutation,
  useGetSessionQuery,
  useKeepScheduleTemplateMutation,
  useListScheduleTemplatesQuery,
} from '../../../state/api'

/** Layouts that the house keeps: taken by everybody, kept and taken away by a lead. */
export function TemplatesMenu({ layout, onTake }: { layout: ScheduleLayout; onTake: (layout: ScheduleLayout) => void }) {
  const { data: templates = [] } = useListScheduleTemplatesQuery()
  const { data: session } = useGetSessionQuery()
  const [keep] = useKeepScheduleTemplateMutation()
  const [drop] = useDropScheduleTemplateMutation()
  const [isNaming, setNaming] = useState(false)
  const isLead = session?.person?.role === 'lead'
  const current = templates.find(t => JSON.stringify(t.layout) === JSON.stringify(layout))
  const save = async (given: string) => {
    const result = await keep({ name: given, layout })
    if (result.error) return tellProblem(result.error)
    setNaming(false)
    toast.success(`The house keeps this layout as ${given}.`)
  }
  const takeAway = async () => {
    if (!current) return
    const result = await drop({ id: current.id })
    if (result.error) return tellProblem(result.error)
    toast(`${current.name} is taken away.`, {
      action: { label: 'Undo', onClick: () => void keep({ name: current.name, layout: current.layout }) },
    })
  }
  if (templates.length === 0 && !isLead) return null
  return (
    <>
      <ToolMenu icon={LayoutTemplate} label={current?.name ?? 'Templates'}>
        {templates.map(t => (
          <ToolMenuEntry key={t.id} onClick={() => onTake(t.layout)} count={t.id === current?.id ? '•' : undefined}>
            {t.name}
          </ToolMenuEntry>
        ))}
        {isLead && (
          <ToolMenuEntry isLast={templates.length > 0} onClick={() => setNaming(true)}>
            Keep this layout…
          </ToolMenuEntry>
        )}
        {isLead && current && <ToolMenuEntry onClick={() => void takeAway()}>Take {current.name} away</ToolMenuEntry>}
      </ToolMenu>
      {isNaming && (
        <NameDialog
          title="Keep this layout"
          hint="One that is there already is replaced"
          onKeep={save}
          onClose={() => setNaming(false)}
        />
      )}
    </>
  )
}
