import { format } from 'date-fns'
import { Download } from 'lucide-react'
import { useState } from 'react'
import { Link, useLocation, useSearchParams } from 'react-router'
import { RECORD_SUBJECTS, type RecordEntry, type RecordSubject, recordQuerySchema } from '#shared/contracts/record.contract'
import { factWord } from '#shared/units'
import { Button } from '../../components/controls/Button'
import { Choice, optionsOf } from '../../components/controls/Choice'
import { CONTROL } from '../../components/controls/control-look'
import { DraftField } from '../../components/controls/DraftField'
import { type Column, Table } from '../../components/controls/Table'
import { EmptyState, Skeleton, Trouble } from '../../components/Notice'
import { Page, PageHead } from '../../components/Page'
import { useListMembersQuery, useListRecordQuery } from '../../state/api'
import { verbWord } from '../../words/states'

const SUBJECT_WORDS: Record<RecordSubject, string> = {
  item: 'items',
  batch: 'deliveries',
  project: 'projects',
  feed: 'feeds',
  standard: 'the standard',
  person: 'people',
  library: 'libraries',
}

/** Who did what to what, when, and what was another after it. The address holds what is shown. */
export function RecordPlace() {
  const [params, setParams] = useSearchParams()
  const parsed = recordQuerySchema.safeParse(Object.fromEntries(params))
  const query = parsed.success ? parsed.data : recordQuerySchema.parse({})
  const { data, error, refetch, isFetching } = useListRecordQuery(query)
  const { data: members = [] } = useListMembersQuery()
  // Pages that were looked at, so that one goes back through them.
  const [earlier, setEarlier] = useState<number[]>([])
  const change = (patch: Record<string, string | number | undefined>) => {
    const next = new URLSearchParams(params)
    for (const [key, value] of Object.entries(patch)) {
      if (value === undefined || value === '') next.delete(key)
      else next.set(key, String(value))
    }
    setParams(next, { replace: true })
  }
  const filter = (patch: Record<string, string | undefined>) => {
    setEarlier([])
    change({ ...patch, before: undefined })
  }
  const day = (key: 'from' | 'to', label: string) => (
    <label className="flex items-center gap-2 text-xs text-quiet">
      {label}
      <input
        type="date"
        value={query[key] ?? ''}
        onChange={event => filter({ [key]: event.target.value })}
        className={`${CONTROL} figures text-ink`}
      />
    </label>
  )
  const last = data?.entries.at(-1)
  return (
    <Page>
      <div className="mx-auto max-w-[100rem]">
        <PageHead
          from={{ to: '/upkeep', text: 'Upkeep' }}
          title="Who did what"
          actions={
            <a
              href={`/api/record.csv?${new URLSearchParams([...params].filter(([key]) => key !== 'before'))}`}
              download="record.csv"
              className="inline-flex h-8 items-center gap-1.5 rounded-sm border border-edge bg-mount px-3 hover:border-ink"
            >
              <Download aria-hidden className="size-3.5" />
              As CSV
            </a>
          }
        />
        <div className="mb-3 flex flex-wrap items-center gap-3">
          <DraftField
            label="Code, name or deed"
            value={query.words}
            className="w-56"
            placeholder="code, name or deed"
            onSettle={words => filter({ words })}
          />
          <Choice
            label="Of what"
            value={query.subject}
            onChange={subject => filter({ subject })}
            options={[{ value: '', text: 'of everything' }, ...optionsOf(RECORD_SUBJECTS, SUBJECT_WORDS)]}
          />
          <Choice
            label="By whom"
            value={String(query.person ?? '')}
            onChange={person => filter({ person })}
            options={[{ value: '', text: 'by everybody' }, ...members.map(m => ({ value: String(m.id), text: m.name }))]}
          />
          {day('from', 'from')}
          {day('to', 'to')}
        </div>
        {error ? (
          <Trouble error={error} onRetry={refetch} />
        ) : !data ? (
          <Skeleton className="h-96" />
        ) : data.entries.length === 0 ? (
          <EmptyState title="Nothing of that kind happened.">Fewer words, or other days, may show more.</EmptyState>
        ) : (
          <div aria-busy={isFetching}>
            <Table label="What happened" columns={COLUMNS} rows={data.entries} keyOf={e => e.id} />
            <p className="mt-4 flex gap-2">
              <Button
                disabled={earlier.length === 0}
                onClick={() => {
                  change({ before: earlier.at(-1) || undefined })
                  setEarlier(earlier.slice(0, -1))
                }}
              >
                Later ones
              </Button>
              <Button
                disabled={!data.hasMore}
                onClick={() => {
                  setEarlier([...earlier, query.before ?? 0])
                  change({ before: last?.id })
                }}
              >
                Earlier ones
              </Button>
            </p>
          </div>
        )}
      </div>
    </Page>
  )
}

const COLUMNS: Column<RecordEntry>[] = [
  {
    head: 'When',
    width: 'w-36',
    cell: e => <span className="text-xs tabular-nums">{format(new Date(e.at), 'd MMM yyyy, HH:mm')}</span>,
  },
  { head: 'Who', width: 'w-40', cell: e => e.person ?? <span className="text-quiet">by itself</span> },
  { head: 'Did what', width: 'w-52', cell: e => verbWord(e.verb) },
  { head: 'To what', cell: e => <Subject entry={e} /> },
  { head: 'From what, to what', cell: e => <Changes entry={e} /> },
]

function Subject({ entry: { subject, code, name } }: { entry: RecordEntry }) {
  const location = useLocation()
  return (
    <span>
      {subject === 'item' && code ? (
        <Link to={`/items/${code}`} state={{ behind: location }} className="hover:underline">
          {name}
        </Link>
      ) : (
        name
      )}
      {code && <span className="figures ml-2 text-xs text-quiet">{code}</span>}
    </span>
  )
}

const SHOWN = 3

function Changes({ entry: { changes } }: { entry: RecordEntry }) {
  const more = changes.length - SHOWN
  return (
    <span className="text-xs text-quiet" title={changes.map(c => `${c.what}: ${c.from} → ${c.to}`).join('\n')}>
      {changes.slice(0, SHOWN).map(({ what, from, to }) => (
        <span key={what} className="block max-w-96 truncate">
          {factWord(what)} {from && <span className="line-through decoration-1">{from}</span>} {from && '→'}{' '}
          <span className="text-ink">{to || 'none'}</span>
        </span>
      ))}
      {more > 0 && `and ${more} more`}
    </span>
  )
}
