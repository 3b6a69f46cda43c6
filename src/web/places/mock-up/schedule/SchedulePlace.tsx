import { useState } from 'react'
import { Link, useParams } from 'react-router'
import {
  DEFAULT_LAYOUT,
  SCHEDULE_GROUPS,
  type Schedule,
  type ScheduleLayout,
  scheduleLayoutSchema,
} from '#shared/contracts/schedules.contract'
import { GROUP_WORDS, layOutSchedule, totalOf } from '#shared/schedule-layout'
import { formatNumber } from '#shared/units'
import { Choice, optionsOf } from '../../../components/controls/Choice'
import { NumberInput } from '../../../components/controls/NumberInput'
import { EmptyState, Skeleton, Trouble } from '../../../components/Notice'
import { Page, PageHead } from '../../../components/Page'
import { useGetScheduleQuery, useListMockUpVersionsQuery } from '../../../state/api'
import { readRemembered, remember } from '../../../state/remembered'
import { plural } from '../../../words/states'
import { ColumnsChoice } from './ColumnsChoice'
import { SaveSchedule } from './SaveSchedule'
import { ScheduleTable } from './ScheduleTable'
import { TemplatesMenu } from './TemplatesMenu'

/** What is in a mock-up, how much of it and where: it follows the mock-up, and says what changed since a kept version. */
export function SchedulePlace() {
  const id = Number(useParams().id)
  const [layout, setLayout] = useState<ScheduleLayout>(() =>
    readRemembered('schedule layout', scheduleLayoutSchema, DEFAULT_LAYOUT),
  )
  const [against, setAgainst] = useState('')
  const { data: kept = [] } = useListMockUpVersionsQuery({ id }, { skip: !Number.isInteger(id) })
  const {
    data: schedule,
    error,
    refetch,
  } = useGetScheduleQuery(
    { id, waste: layout.wastePercent, ...(against === '' ? {} : { against: Number(against) }) },
    { skip: !Number.isInteger(id) },
  )
  const change = (next: Partial<ScheduleLayout>) => {
    const changed = { ...layout, ...next }
    setLayout(changed)
    remember('schedule layout', changed)
  }
  if (error) return <Trouble error={error} onRetry={refetch} />
  return (
    <Page>
      <div className="mx-auto max-w-[100rem]">
        <PageHead
          from={{ to: `/mock-ups/${id}`, text: schedule?.title ?? 'Mock-up' }}
          title="Schedule"
          facts={schedule && <Facts schedule={schedule} />}
          actions={schedule && <SaveSchedule id={id} layout={layout} isEmpty={schedule.rows.length === 0} />}
        />
        <div className="mb-4 flex flex-wrap items-center gap-2">
          <Choice
            label="Grouped"
            value={layout.group}
            onChange={group => change({ group })}
            options={optionsOf(SCHEDULE_GROUPS, GROUP_WORDS)}
            className="w-44"
          />
          <Choice
            label="Sorted"
            value={layout.sort}
            onChange={sort => change({ sort })}
            options={[
              { value: 'code', text: 'by code' },
              { value: 'name', text: 'by name' },
              { value: 'quantity', text: 'by quantity' },
            ]}
            className="w-36"
          />
          <ColumnsChoice columns={layout.columns} onChange={columns => change({ columns })} />
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
                change({
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
          <span className="flex items-center gap-2">
            <span className="text-quiet">Against</span>
            <Choice
              label="Against a kept version"
              value={against}
              onChange={setAgainst}
              options={[{ value: '', text: 'nothing' }, ...kept.map(v => ({ value: String(v.id), text: v.name }))]}
              className="w-44"
            />
          </span>
          <span className="ml-auto">
            <TemplatesMenu layout={layout} onTake={change} />
          </span>
        </div>
        {!schedule ? (
          <Skeleton className="h-96" />
        ) : schedule.rows.length === 0 ? (
          <EmptyState title="Nothing is in it yet.">
            <Link to={`/mock-ups/${id}`} className="underline">
              To the mock-up
            </Link>
          </EmptyState>
        ) : (
          <ScheduleTable schedule={schedule} sections={layOutSchedule(schedule.rows, layout)} columns={layout.columns} />
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
