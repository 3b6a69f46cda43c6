import { Download } from 'lucide-react'
import { SCHEDULE_FORMS, type ScheduleForm, type ScheduleLayout } from '#shared/contracts/schedules.contract'
import { ToolMenu, ToolMenuEntry } from '../../../components/controls/ToolMenu'

const FORM_WORDS: Record<ScheduleForm, string> = {
  csv: 'CSV, for any program',
  xlsx: 'XLSX, with pictures',
  pdf: 'PDF, with pictures, to print or send',
}

/** Saves a schedule as it is laid out. */
export const SaveSchedule = ({ id, layout, isEmpty }: { id: number; layout: ScheduleLayout; isEmpty: boolean }) =>
  isEmpty ? null : (
    <ToolMenu icon={Download} label="Save">
      {SCHEDULE_FORMS.map(form => (
        <ToolMenuEntry
          key={form}
          onClick={() =>
            window.location.assign(`/api/mock-ups/${id}/schedule/${form}?layout=${encodeURIComponent(JSON.stringify(layout))}`)
          }
        >
          {FORM_WORDS[form]}
        </ToolMenuEntry>
      ))}
    </ToolMenu>
  )
