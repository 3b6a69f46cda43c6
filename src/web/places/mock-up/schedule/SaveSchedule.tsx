import { Download } from 'lucide-react'
import { SCHEDULE_FORMS, type ScheduleForm, type ScheduleLayout } from '#shared/contracts/schedules.contract'
import { ToolMenu, ToolMenuEntry } from '../../../components/controls/ToolMenu'

const FORM_WORDS: Record<ScheduleForm, string> = {
  csv: 'CSV, for any program',
  xlsx: 'XLSX, with pictures',
  pdf: 'PDF, with pictures, to print or send',
}

interface Props {
  /** Where it is to be had, without the form. */
  address: string
  /** What else it depends on, as its address has it: "&mockUps=3,4". */
  query?: string
  layout: ScheduleLayout
  isEmpty: boolean
}

/** Saves a schedule as it is laid out. */
export const SaveSchedule = ({ address, query = '', layout, isEmpty }: Props) =>
  isEmpty ? null : (
    <ToolMenu icon={Download} label="Save">
      {SCHEDULE_FORMS.map(form => (
        <ToolMenuEntry
          key={form}
          onClick={() =>
            window.location.assign(`${address}/${form}?layout=${encodeURIComponent(JSON.stringify(layout))}${query}`)
          }
        >
          {FORM_WORDS[form]}
        </ToolMenuEntry>
      ))}
    </ToolMenu>
  )
