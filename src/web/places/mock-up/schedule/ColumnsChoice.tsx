import { SCHEDULE_COLUMNS, type ScheduleColumn } from '#shared/contracts/schedules.contract'
import { COLUMN_WORDS } from '#shared/schedule-layout'
import { ManyChoice } from '../../../components/controls/Choice'

interface Props {
  columns: readonly ScheduleColumn[]
  onChange: (columns: ScheduleColumn[]) => void
}

/** Which columns a schedule has; the last one stays. */
export const ColumnsChoice = ({ columns, onChange }: Props) => (
  <ManyChoice
    label="Columns"
    none="columns"
    className="w-52"
    values={[...columns]}
    onChange={chosen => {
      const wanted = SCHEDULE_COLUMNS.filter(c => chosen.includes(c))
      if (wanted.length > 0) onChange(wanted)
    }}
    options={SCHEDULE_COLUMNS.map(value => ({ value, text: COLUMN_WORDS[value] }))}
  />
)
