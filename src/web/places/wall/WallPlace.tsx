import { Search, X } from 'lucide-react'
import { useEffect, useRef, useState } from 'react'
import { Link, useLocation, useSearchParams } from 'react-router'
import { ITEM_KINDS } from '#core/standard/categories'
import { STATES } from '#shared/contracts/items.contract'
import type { Session } from '#shared/contracts/session.contract'
import { findingName } from '#shared/finding-words'
import { CategoryPicker, categoryTrail } from '../../components/CategoryPicker'
import { Button } from '../../components/controls/Button'
import { Choice } from '../../components/controls/Choice'
import { CONTROL } from '../../components/controls/control-look'
import { EmptyState, Trouble } from '../../components/Notice'
import { useKey } from '../../components/use-key'
import { api, useGetWallQuery, useListCategoriesQuery } from '../../state/api'
import { useAppDispatch } from '../../state/hooks'
import { trayAdded } from '../../state/tray.slice'
import { KIND_WORDS, plural, STATE_WORDS } from '../../words/states'
import { ChipGrid } from './ChipGrid'
import { PAGE, readAddress, type WallAddress, writeAddress } from './wall-address'

const TYPING_PAUSE_MS = 120
const TRAY_LIMIT = 240

/** Find and compare: everything of the library, narrowed by where one stands, words and filters. */
export function WallPlace({ session }: { session: Session }) {
  const [params, setParams] = useSearchParams()
  const { pathname } = useLocation()
  // With a sheet open over it, the wall keeps the view that it had.
  const kept = useRef(readAddress(params))
  if (pathname === '/wall') kept.current = readAddress(params)
  const address = kept.current
  const change = (patch: Partial<WallAddress>, replace = false) => setParams(writeAddress({ ...address, ...patch }), { replace })
  const { data, error, refetch, isFetching } = useGetWallQuery({ ...address, offset: 0, limit: PAGE })
  const { data: categories = [] } = useListCategoriesQuery()
  const dispatch = useAppDispatch()
  const [loadAll] = api.useLazyGetWallQuery()
  const filtered = Object.values(address).some(v => v !== '')
  const place = categoryTrail(categories, address.category).at(-1)?.title

  const putAllInTray = async () => {
    const { data: all } = await loadAll({ ...address, offset: 0, limit: TRAY_LIMIT })
    if (all) dispatch(trayAdded(all.chips))
  }

  return (
    <div className="flex h-full flex-col">
      <h1 className="sr-only">{place ? `Wall: ${place}` : 'Wall'}</h1>
      <div className="flex h-11 shrink-0 items-center gap-3 px-6">
        <CategoryPicker
          categories={categories}
          counts={data?.facets.categories ?? {}}
          value={address.category}
          onChange={category => change({ category })}
        />
        <SearchLine words={address.words} within={place} onChange={words => change({ words }, true)} />
        <Choice
          label="Kind"
          value={address.kind}
          options={[
            { value: '', text: 'every kind' },
            ...ITEM_KINDS.map(k => ({ value: k, text: KIND_WORDS[k].many, count: data?.facets.kinds[k] ?? 0 })),
          ]}
          className={filterLook(address.kind)}
          onChange={kind => change({ kind })}
        />
        <Choice
          label="State"
          value={address.state}
          options={[
            { value: '', text: 'every state' },
            ...STATES.map(s => ({ value: s, text: STATE_WORDS[s], count: data?.facets.states[s] ?? 0 })),
          ]}
          className={filterLook(address.state)}
          onChange={state => change({ state })}
        />
        {session.libraries.length > 1 && (
          <Choice
            label="Library"
            value={address.library}
            options={[{ value: '', text: 'every library' }, ...session.libraries.map(l => ({ value: l.key, text: l.title }))]}
            className={filterLook(address.library)}
            onChange={library => change({ library })}
          />
        )}
        {address.finding && (
          <button
            type="button"
            onClick={() => change({ finding: '' })}
            title="Only what a check found this in; click to see all"
            className={`${CONTROL} inline-flex shrink-0 items-center gap-1.5 border-ink font-medium`}
          >
            {findingName(address.finding)}
            <X aria-hidden className="size-3.5" />
          </button>
        )}
        <span className="ml-auto flex shrink-0 items-center gap-2">
          <span className="figures text-xs text-quiet" role="status" aria-busy={isFetching}>
            {data ? plural(data.total, 'item') : ''}
          </span>
          {filtered && (
            <Button variant="bare" onClick={() => setParams(new URLSearchParams())} title="Show everything again">
              <X aria-hidden className="size-3.5" />
              Clear
            </Button>
          )}
          {address.category.startsWith('surfaces') && (
            <Link
              to={`/family?${new URLSearchParams({ category: address.category, words: address.words })}`}
              className="rounded-sm px-3 py-1.5 hover:bg-mount"
              title="All of it under one light, by hue, lightness or roughness, with what is too alike"
            >
              As a family
            </Link>
          )}
          {data && data.total > 0 && (
            <Button
              variant="bare"
              onClick={putAllInTray}
              title={`Put the first ${Math.min(TRAY_LIMIT, data.total)} of this view in the tray`}
            >
              All to tray
            </Button>
          )}
        </span>
      </div>
      <div className="min-h-0 flex-1">
        {error && !data ? (
          <Trouble error={error} onRetry={refetch} />
        ) : data && data.total === 0 ? (
          <EmptyState title={filtered ? 'Nothing matches.' : 'The library is empty.'}>
            {filtered ? (
              <>
                <p className="mb-3">Fewer words or another place may find it.</p>
                <Button onClick={() => setParams(new URLSearchParams())}>Show everything</Button>
              </>
            ) : (
              <p>Bring a delivery in at Intake; what is accepted there hangs here.</p>
            )}
          </EmptyState>
        ) : (
          <ChipGrid address={address} total={data?.total ?? 28} />
        )}
      </div>
    </div>
  )
}

function SearchLine({ words, within, onChange }: { words: string; within?: string; onChange: (words: string) => void }) {
  const [text, setText] = useState(words)
  const field = useRef<HTMLInputElement>(null)
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined)
  // What comes back is what was sent, perhaps while somebody typed on; only other words are taken over.
  const sent = useRef(words)
  useEffect(() => {
    if (words === sent.current) return
    sent.current = words
    setText(words)
  }, [words])
  useEffect(() => () => clearTimeout(timer.current), [])
  useKey('/', event => {
    event.preventDefault()
    field.current?.select()
  })
  return (
    <div className="relative w-64 min-w-32 shrink">
      <Search aria-hidden className="pointer-events-none absolute top-2 left-2 size-4 text-quiet" />
      <input
        ref={field}
        type="search"
        value={text}
        onChange={event => {
          setText(event.target.value)
          clearTimeout(timer.current)
          timer.current = setTimeout(() => {
            sent.current = event.target.value
            onChange(event.target.value)
          }, TYPING_PAUSE_MS)
        }}
        placeholder={within ? `Search in ${within}` : 'Search'}
        aria-label={within ? `Search in ${within}` : 'Search'}
        className={`${CONTROL} w-full pl-8`}
      />
    </div>
  )
}

/** A filter that narrows the wall stands out. */
const filterLook = (value: string): string => `max-w-40 shrink-0 ${value ? 'border-ink font-medium' : ''}`
