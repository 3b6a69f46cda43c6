import { type ReactNode, useState } from 'react'
import {
  DEFAULT_LAYOUT,
  SCHEDULE_GROUPS,
  type Schedule,
  type ScheduleLayout,
  type ScheduleRow,
  scheduleLayoutSchema,
} from '#shared/contracts/schedules.contract'
import { GROUP_WORDS, showSchedule, totalOf } from '#shared/schedule-layout'
import { formatNumber } from '#shared/units'
import { Choice, optionsOf } from '../../../components/controls/Choice'
import { NumberInput } from '../../../components/controls/NumberInput'
import { Skeleton } from '../../../components/Notice'
import { Page, PageHead } from '../../../components/Page'
import { readRemembered, remember } from '../../../state/remembered'
import { plural } from '../../../words/states'
import { ColumnsChoice } from './ColumnsChoice'
import { SaveSchedule } from './SaveSchedule'
import { ScheduleTable } from './ScheduleTable'
import { TemplatesMenu } from './TemplatesMenu'

/** How schedules are laid out here, as this browser had it last. */
export function useScheduleLayout() {
  const [layout, setLayout] = useState<ScheduleLayout>(() =>
    readRemembered('schedule layout', scheduleLayoutSchema, DEFAULT_LAYOUT),
  )
  const change = (next: Partial<ScheduleLayout>) => {
    const changed = { ...layout, ...next }
    setLayout(changed)
    remember('schedule layout', changed)
  }
  return [layout, change] as const
}

interface Props {
  /** What it is the schedule of. */
  from: { to: string; text: string }
  /** Undefined until it is there. */
  schedule: Schedule | undefined
  layout: ScheduleLayout
  onChange: (next: Partial<ScheduleLayout>) => void
  /** Where it is saved as a file, without the form. */
  address: string
  /** What else that depends on, as an address has it: "&mockUps=3,4". */
  query?: string
  /** A row's quantity where it is typed here; null where it stands as it is. */
  quantity?: (row: ScheduleRow) => ReactNode
  /** What else can be chosen for it. */
  tools?: ReactNode
  /** Where nothing is in it. */
  empty: ReactNode
}

/** A schedule with what lays it out. */
export function ScheduleView({ from, schedule, layout, onChange, address, query, quantity, tools, empty }: Props) {
  return (
    <Page>
      <div className="mx-auto max-w-[100rem]">
        <PageHead
          from={from}
          title="Schedule"
          facts={schedule && <Facts schedule={schedule} />}
          actions={
            <>
              <TemplatesMenu layout={layout} onTake={onChange} />
              {schedule && (
                <SaveSchedule
                  address={address}
                  query={query}
                  layout={layout}
                  isEmpty={schedule.rows.length + schedule.gone.length === 0}
                />
              )}
            </>
          }
        />
        <div className="mb-4 flex flex-wrap items-center gap-2">
          <Choice
            label="Grouped"
            value={layout.group}
            onChange={group => onChange({ group })}
            options={optionsOf(SCHEDULE_GROUPS, GROUP_WORDS)}
            className="w-44"
          />
          <Choice
            label="Sorted"
            value={layout.sort}
            onChange={sort => onChange({ sort })}
            options={[
              { value: 'code', text: 'by code' },
              { value: 'name', text: 'by name' },
              { value: 'quantity', text: 'by quantity' },
            ]}
            className="w-36"
          />
          <ColumnsChoice columns={layout.columns} onChange={columns => onChange({ columns })} />
          <span className="flex items-center gap-2">
            <span className="text-quiet">Waste</span>
            <NumberInput
              label="Waste in percent"
              unit="%"
              digits={1}
              min={0}
              max={100}
              value={layout.wastePercent}
              onSettle={v =>
                v !== null &&
                onChange({
                  wastePercent: v,
                  columns:
                    v > 0 && !layout.columns.includes('gross')
                      ? layout.columns.flatMap(c => (c === 'quantity' ? [c, 'gross' as const] : [c]))
                      : layout.columns,
                })
              }
              className="w-24"
            />
          </span>
          {tools}
        </div>
        {!schedule ? (
          <div role="status" className="relative">
            <Skeleton className="h-96" />
            <p className="absolute top-4 left-4 text-quiet">Measuring…</p>
          </div>
        ) : schedule.rows.length + schedule.gone.length === 0 ? (
          empty
        ) : (
          <ScheduleTable {...showSchedule(schedule, layout)} quantity={quantity} />
        )}
      </div>
    </Page>
  )
}

function Facts({ schedule: { rows, missing, project } }: { schedule: Schedule }) {
  const [cost, weight] = [totalOf(rows, 'cost'), totalOf(rows, 'weightKg')]
  return (
    <>
      {[
        project,
        plural(rows.length, 'line'),
        cost === null ? null : `costs ${formatNumber(cost, 2)} as far as prices are known`,
        weight === null ? null : `${formatNumber(weight, 0)} kg as far as weights are known`,
        missing.length > 0 ? `not measured: ${missing.join(', ')}` : null,
      ]
        .filter(Boolean)
        .join(' · ')}
    </>
  )
}
