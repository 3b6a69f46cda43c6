import { Link, useParams, useSearchParams } from 'react-router'
import { toast } from 'sonner'
import type { PinQuantity, Schedule, ScheduleRow } from '#shared/contracts/schedules.contract'
import { isSplit, layOutSchedule } from '#shared/schedule-layout'
import { tellProblem } from '../../../components/bulk-words'
import { ManyChoice } from '../../../components/controls/Choice'
import { EmptyState, Trouble } from '../../../components/Notice'
import {
  useGetProjectScheduleQuery,
  useListKeptSchedulesQuery,
  useListMockUpsQuery,
  useSetQuantitiesMutation,
} from '../../../state/api'
import { plural } from '../../../words/states'
import { ScheduleView, useScheduleLayout } from '../../mock-up/schedule/ScheduleView'
import { fillDown } from './fill-down'
import { KeptMenu } from './KeptMenu'
import { QuantityCell } from './QuantityCell'

/** What a project needs of everything that it pins: typed, pasted from a spreadsheet, or measured in mock-ups of it. */
export function ProjectSchedulePlace() {
  const id = Number(useParams().id)
  const [params, setParams] = useSearchParams()
  const asked = (params.get('mockUps') ?? '').split(',').filter(Boolean)
  const [layout, change] = useScheduleLayout()
  const [setQuantities] = useSetQuantitiesMutation()
  const isAsked = Number.isInteger(id)
  const { data: all, isError: isListMissing } = useListMockUpsQuery({ project: id }, { skip: !isAsked })
  // One that was removed since is measured no more.
  const measured = all ? asked.filter(one => all.some(m => String(m.id) === one)) : asked
  const mockUps = measured.join(',')
  const askedAgainst = params.get('against')
  const { data: kept, isError: isKeptMissing } = useListKeptSchedulesQuery({ id }, { skip: !isAsked })
  const against = kept?.find(k => String(k.id) === askedAgainst)
  const setParam = (name: string, value: string) =>
    setParams(
      next => {
        if (value === '') next.delete(name)
        else next.set(name, value)
        return next
      },
      { replace: true },
    )
  const isWaiting = asked.length > 0 && !all && !isListMissing
  const {
    data: schedule,
    error,
    refetch,
  } = useGetProjectScheduleQuery(
    { id, waste: layout.wastePercent, mockUps, ...(against ? { against: against.id } : {}) },
    { skip: !isAsked || isWaiting || (askedAgainst !== null && !kept && !isKeptMissing) },
  )
  if (error) return <Trouble error={error} onRetry={refetch} />

  const save = async (quantities: readonly PinQuantity[]): Promise<PinQuantity[] | null> => {
    const result = await setQuantities({ id, quantities: [...quantities] })
    if (result.error) tellProblem(result.error)
    return result.data?.before ?? null
  }
  const type = async (quantities: readonly PinQuantity[]) => {
    const before = await save(quantities)
    if (before && quantities.length > 1)
      toast(`${plural(quantities.length, 'quantity', 'quantities')} taken over.`, {
        action: { label: 'Undo', onClick: () => void save(before) },
      })
  }
  const paste = (row: ScheduleRow, text: string): boolean => {
    const { quantities, unread } = fillDown(rowsInOrder(schedule, layout), row, text)
    if (unread.length > 0)
      toast.error(
        `Nothing is taken over: ${unread.slice(0, 3).join(', ')} ${unread.length === 1 ? 'is no quantity' : 'are no quantities'}.`,
      )
    else if (quantities.length > 0) void type(quantities)
    return quantities.length > 0 || unread.length > 0
  }

  return (
    <ScheduleView
      from={{ to: `/projects/${id}`, text: schedule?.title ?? 'Project' }}
      schedule={schedule}
      layout={layout}
      onChange={change}
      address={`/api/projects/${id}/schedule`}
      query={`${mockUps === '' ? '' : `&mockUps=${mockUps}`}${against ? `&against=${against.id}` : ''}`}
      quantity={
        // A row that is split over its places is typed where it is whole.
        isSplit(layout.group)
          ? undefined
          : row =>
              row.pin && row.kind !== 'environment' && row.kind !== 'map' ? (
                <QuantityCell
                  row={row}
                  pin={row.pin}
                  onType={amount => void type([{ itemId: row.pin!.itemId, amount }])}
                  onPaste={text => paste(row, text)}
                />
              ) : null
      }
      tools={
        <>
          {all && all.length > 0 && (
            <span className="flex items-center gap-2">
              <span className="text-quiet">Measured in</span>
              <ManyChoice
                label="Measured in"
                none="no mock-up"
                className="w-44"
                values={measured}
                onChange={chosen => setParam('mockUps', chosen.join(','))}
                options={all.map(m => ({ value: String(m.id), text: m.title }))}
              />
            </span>
          )}
          <KeptMenu
            projectId={id}
            kept={kept ?? []}
            against={against}
            onAgainst={chosen => setParam('against', chosen === null ? '' : String(chosen))}
            mockUps={measured.map(Number)}
          />
        </>
      }
      empty={
        <EmptyState title="Nothing is pinned yet.">
          <Link to={`/projects/${id}`} className="underline">
            To the project
          </Link>
        </EmptyState>
      }
    />
  )
}

const rowsInOrder = (schedule: Schedule | undefined, layout: Parameters<typeof layOutSchedule>[1]): ScheduleRow[] =>
  layOutSchedule(schedule?.rows ?? [], layout).flatMap(s => s.rows)
