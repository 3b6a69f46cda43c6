import { useState } from 'react'
import { Link, useParams } from 'react-router'
import { Choice } from '../../../components/controls/Choice'
import { EmptyState, Trouble } from '../../../components/Notice'
import { useGetScheduleQuery, useListMockUpVersionsQuery } from '../../../state/api'
import { ScheduleView, useScheduleLayout } from './ScheduleView'

/** What is in a mock-up, how much of it and where: it follows the mock-up, and says what changed since a kept version. */
export function SchedulePlace() {
  const id = Number(useParams().id)
  const [layout, change] = useScheduleLayout()
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
  if (error) return <Trouble error={error} onRetry={refetch} />
  return (
    <ScheduleView
      from={{ to: `/mock-ups/${id}`, text: schedule?.title ?? 'Mock-up' }}
      schedule={schedule}
      layout={layout}
      onChange={change}
      address={`/api/mock-ups/${id}/schedule`}
      query={against === '' ? '' : `&against=${against}`}
      tools={
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
      }
      empty={
        <EmptyState title="Nothing is in it yet.">
          <Link to={`/mock-ups/${id}`} className="underline">
            To the mock-up
          </Link>
        </EmptyState>
      }
    />
  )
}
