import { Link, useParams } from 'react-router'
import { EmptyState, Trouble } from '../../../components/Notice'
import { useGetSceneScheduleQuery } from '../../../state/api'
import { ScheduleView, useScheduleLayout } from '../../mock-up/schedule/ScheduleView'

/** What is in an audited scene, and how much of it. */
export function SceneSchedulePlace() {
  const id = Number(useParams().id)
  const [layout, change] = useScheduleLayout()
  const {
    data: schedule,
    error,
    refetch,
  } = useGetSceneScheduleQuery({ id, waste: layout.wastePercent }, { skip: !Number.isInteger(id) })
  if (error) return <Trouble error={error} onRetry={refetch} />
  return (
    <ScheduleView
      from={{ to: `/audits/${id}`, text: schedule?.title ?? 'Scene' }}
      schedule={schedule}
      layout={layout}
      onChange={change}
      address={`/api/audits/${id}/schedule`}
      empty={
        <EmptyState title="Nothing of it can be listed.">
          <Link to={`/audits/${id}`} className="underline">
            To the scene
          </Link>
        </EmptyState>
      }
    />
  )
}
