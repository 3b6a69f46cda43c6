import { Menu, MenuButton } from '@headlessui/react'
import { ChevronDown, ListTree, SlidersHorizontal, X } from 'lucide-react'
import { lazy, Suspense, useCallback, useRef, useState } from 'react'
import { useLocation, useNavigate, useSearchParams } from 'react-router'
import type { Group } from '#core/find/query/find-order'
import { ITEM_KINDS } from '#core/standard/categories'
import { STATES } from '#shared/contracts/chip.contract'
import type { Category } from '#shared/contracts/items.contract'
import type { Session } from '#shared/contracts/session.contract'
import { tellProblem } from '../../components/bulk-words'
import { CategoryPicker, categoryTrail } from '../../components/CategoryPicker'
import { Button } from '../../components/controls/Button'
import { Choice, type Option } from '../../components/controls/Choice'
import { MenuPanel, ToolMenuEntry } from '../../components/controls/ToolMenu'
import { EmptyState, Skeleton, Trouble } from '../../components/Notice'
import { useDots } from '../../components/use-dots'
import { useKey } from '../../components/use-key'
import { useSettled } from '../../components/use-settled'
import { api, useGetWallQuery, useListCategoriesQuery, useStartBulkMutation } from '../../state/api'
import { treeShown } from '../../state/chip-size.slice'
import { useAppDispatch, useAppSelector } from '../../state/hooks'
import { trayAdded, trayToggled } from '../../state/tray.slice'
import { KIND_WORDS, plural, STATE_WORDS } from '../../words/states'
import { BulkDialog } from './BulkDialog'
import { BulkProgress } from './BulkProgress'
import { ChipGrid, type WantedFocus } from './ChipGrid'
import { LikeBar } from './LikeBar'
import { MineMenu } from './MineMenu'
import { NothingFound } from './NothingFound'
import { FiltersInForce, isInTheLine, listFilters } from './narrow/FiltersInForce'
import { valueWord } from './narrow/facet-words'
import { NarrowPanel } from './narrow/NarrowPanel'
import { OrderMenu } from './OrderMenu'
import { SearchLine } from './SearchLine'
import { TableForm } from './table/TableForm'
import { CategoryTree } from './tree/CategoryTree'
import { WithTree } from './tree/WithTree'
import { usePictureLook } from './use-picture-look'
import { WallFormMenu } from './WallFormMenu'
import { isNarrowed, NOTHING_SET, PAGE, readAddress, readValues, setPart, type WallAddress, writeAddress } from './wall-address'

/** Brings the charts along, which nobody needs for chips. */
const ColorMapForm = lazy(() => import('./colors/ColorMapForm'))

/** So many can be approved, and pinned, in one go. */
const TRAY_LIMIT = 500
/** The largest page that is given. */
const LARGEST_PAGE = 240
/** Who types does not look at counts: they are asked for when the view has stood for so long. */
const SETTLED_MS = 250

/** Find and compare: everything of the library, narrowed by where one stands, words and filters. */
export function WallPlace({ session }: { session: Session }) {
  const [params, setParams] = useSearchParams()
  const location = useLocation()
  const navigate = useNavigate()
  // With a sheet open over it, the wall keeps the view that it had.
  const kept = useRef(readAddress(params))
  if (location.pathname === '/wall') kept.current = readAddress(params)
  const address = kept.current
  const change = (patch: Partial<WallAddress>, replace = false) => setParams(writeAddress({ ...address, ...patch }), { replace })
  const { data, error, refetch, isFetching } = useGetWallQuery({ ...setPart(address), counts: 'no', offset: 0, limit: PAGE })
  const settled = useSettled(setPart(address), SETTLED_MS)
  const { data: counted } = useGetWallQuery({ ...settled, offset: 0, limit: 1 })
  const { data: categories = [] } = useListCategoriesQuery()
  const dispatch = useAppDispatch()
  const dots = useDots()
  const { form, hasTree } = useAppSelector(s => s.chipSize)
  const inTray = useAppSelector(s => s.tray.chips)
  const [loadAll] = api.useLazyGetWallQuery()
  const [isNarrowing, setNarrowing] = useState(false)
  const [isChanging, setChanging] = useState(false)
  const [bulkId, setBulkId] = useState<number | null>(null)
  const [wanted, setWanted] = useState<WantedFocus | null>(null)
  const onReached = useCallback(() => setWanted(null), [])
  const narrow = () => {
    setNarrowing(!isNarrowing)
    // Whoever has chosen goes on with what was found.
    if (isNarrowing) setWanted({ words: address.words })
  }
  useKey('n', narrow)
  useKey('t', () => dispatch(treeShown(!hasTree)))
  // Other things are like a picture whatever stood in the line before.
  const { read, isReading } = usePictureLook(look =>
    setParams(writeAddress({ ...NOTHING_SET, category: address.category, like: look })),
  )
  const narrowed = isNarrowed(address)
  const place = categoryTrail(categories, address.category).at(-1)?.title
  const facets = counted?.facets ?? null
  const filters = listFilters(address, facets, dots.meaningOf).filter(f => !isInTheLine(f, address))
  const countOf = (facet: 'kind' | 'state', value: string) => facets?.terms[facet]?.find(v => v.value === value)?.count ?? 0
  const openSheet = (code: string) => navigate(`/items/${code}`, { state: { behind: location } })

  const [startBulk] = useStartBulkMutation()
  const moveTo = async (ids: number[], { path }: Category) => {
    const result = await startBulk({ ids, action: { do: 'category', category: path } })
    if (result.data) setBulkId(result.data.id)
    else tellProblem(result.error)
  }

  const putAllInTray = async () => {
    for (let offset = 0; offset < Math.min(TRAY_LIMIT, data?.total ?? 0); offset += LARGEST_PAGE) {
      const limit = Math.min(LARGEST_PAGE, TRAY_LIMIT - offset)
      const { data: page, error: trouble } = await loadAll({ ...setPart(address), counts: 'no', offset, limit })
      if (trouble) return tellProblem(trouble)
      if (page) dispatch(trayAdded(page.chips))
    }
  }

  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: a picture can be chosen by a button as well
    <div
      className="flex h-full flex-col"
      onDragOver={event => {
        if (event.dataTransfer.types.includes('Files')) event.preventDefault()
      }}
      onDrop={event => {
        if (!event.dataTransfer.types.includes('Files')) return
        event.preventDefault()
        read(event.dataTransfer.files)
      }}
    >
      <h1 className="sr-only">{place ? `Wall: ${place}` : 'Wall'}</h1>
      <div className="flex h-11 shrink-0 items-center gap-2 px-6">
        <button
          type="button"
          aria-pressed={hasTree}
          aria-label="The house tree beside the wall"
          title="The house tree beside the wall (T)"
          onClick={() => dispatch(treeShown(!hasTree))}
          className={`-mr-1 flex size-7 shrink-0 items-center justify-center rounded-sm hover:bg-mount ${hasTree ? 'bg-mount text-ink' : 'text-quiet'}`}
        >
          <ListTree aria-hidden className="size-4" />
        </button>
        <CategoryPicker
          categories={categories}
          counts={facets?.categories ?? {}}
          value={address.category}
          onChange={category => change({ category })}
        />
        <SearchLine
          address={address}
          within={place}
          onChange={change}
          onEverywhere={words => setParams(writeAddress({ ...NOTHING_SET, words }))}
          onPicture={read}
          isReading={isReading}
          onOpen={openSheet}
          onToChips={words => setWanted({ words })}
        />
        <Choice
          label="Kind"
          value={address.kind}
          options={[
            { value: '', text: 'every kind' },
            ...severalOf(address.kind, 'kinds'),
            ...ITEM_KINDS.map(k => ({ value: k, text: KIND_WORDS[k].many, count: countOf('kind', k) })),
          ]}
          className={filterLook(address.kind)}
          onChange={kind => change({ kind })}
        />
        <Choice
          label="State"
          value={address.state}
          options={[
            { value: '', text: 'every state' },
            ...severalOf(address.state, 'states'),
            ...STATES.map(s => ({ value: s, text: STATE_WORDS[s], count: countOf('state', s) })),
          ]}
          className={filterLook(address.state)}
          onChange={state => change({ state })}
        />
        {session.libraries.length > 1 && (
          <Choice
            label="Library"
            value={address.library}
            options={[
              { value: '', text: 'every library' },
              ...severalOf(address.library, 'libraries'),
              ...session.libraries.map(l => ({ value: l.key, text: l.title })),
            ]}
            className={filterLook(address.library)}
            onChange={library => change({ library })}
          />
        )}
        <Button
          variant={isNarrowing ? 'plain' : 'bare'}
          aria-expanded={isNarrowing}
          onClick={narrow}
          title="By everything else that tells these apart (N)"
        >
          <SlidersHorizontal aria-hidden className="size-3.5" />
          Narrow
        </Button>
        <span className="ml-auto flex shrink-0 items-center">
          <span className="figures text-xs text-quiet" role="status" aria-busy={isFetching}>
            {data ? plural(data.total, 'item') : ''}
          </span>
          {/* What is like something stands in the order of its likeness. */}
          {address.like === '' && <OrderMenu address={address} mayGroup={form === 'chips'} onChange={patch => change(patch)} />}
          <WallFormMenu />
          <MineMenu isNarrowed={narrowed} onBulk={setBulkId} />
          {narrowed && (
            <Button
              variant="bare"
              className="px-2"
              onClick={() => setParams(new URLSearchParams())}
              title="Show everything again"
            >
              <X aria-hidden className="size-3.5" />
              <span className="max-[1400px]:sr-only">Clear</span>
            </Button>
          )}
          {data && data.total > 0 && (
            <Menu>
              <MenuButton as={Button} variant="bare" className="px-2" title="With everything in view">
                All
                <ChevronDown aria-hidden className="size-3.5 text-quiet" />
              </MenuButton>
              <MenuPanel anchor="bottom end" className="w-64">
                <ToolMenuEntry onClick={putAllInTray} count={Math.min(TRAY_LIMIT, data.total)}>
                  {data.total > TRAY_LIMIT ? `The first ${TRAY_LIMIT} to tray` : 'All to tray'}
                </ToolMenuEntry>
                <ToolMenuEntry onClick={() => setChanging(true)} count={data.total}>
                  Change all…
                </ToolMenuEntry>
                {address.category.startsWith('surfaces') && !address.category.includes('|') && (
                  <ToolMenuEntry
                    onClick={() =>
                      navigate(`/family?${new URLSearchParams({ category: address.category, words: address.words })}`)
                    }
                  >
                    As a family, under one light
                  </ToolMenuEntry>
                )}
              </MenuPanel>
            </Menu>
          )}
        </span>
      </div>
      {isNarrowing && facets && <NarrowPanel facets={facets} address={address} meaningOf={dots.meaningOf} onChange={change} />}
      <div className={isNarrowing ? 'pt-2' : ''}>
        <FiltersInForce filters={filters} onChange={change} />
      </div>
      {bulkId !== null && <BulkProgress id={bulkId} onNext={setBulkId} />}
      {address.like !== '' && <LikeBar address={address} kind={data?.chips[0]?.kind ?? 'material'} onChange={change} />}
      {data && data.takenFor.length > 0 && (
        <p role="status" className="px-6 pb-2 text-quiet">
          {data.takenFor.map(({ typed, meant }) => (
            <span key={typed} className="mr-4">
              “{typed}” was taken for <span className="font-medium text-ink">{meant}</span>.
            </span>
          ))}
        </p>
      )}
      <WithTree
        tree={
          hasTree && (
            <CategoryTree
              categories={categories}
              counts={facets?.categories ?? {}}
              value={address.category}
              onChange={category => change({ category })}
              onDropItems={session.person?.role === 'lead' ? moveTo : null}
              onClose={() => dispatch(treeShown(false))}
            />
          )
        }
      >
        {error && !data ? (
          <Trouble error={error} onRetry={refetch} />
        ) : data && data.total === 0 && !narrowed ? (
          <EmptyState title="The library is empty.">
            <p>Bring a delivery in at Intake; what is accepted there hangs here.</p>
          </EmptyState>
        ) : data?.nothing ? (
          <NothingFound
            nothing={data.nothing}
            address={address}
            inTray={chip => inTray.some(c => c.id === chip.id)}
            onChange={change}
            onClear={() => setParams(new URLSearchParams())}
            onOpen={chip => openSheet(chip.code)}
            onTray={chip => dispatch(trayToggled(chip))}
            meaningOf={dots.meaningOf}
          />
        ) : form === 'table' ? (
          <TableForm
            address={address}
            categories={categories}
            mayEdit={session.person?.role === 'lead'}
            onChange={patch => change(patch)}
            wanted={wanted}
            onReached={onReached}
          />
        ) : form === 'colors' ? (
          <Suspense fallback={<Skeleton className="m-6 h-64" />}>
            <ColorMapForm
              address={address}
              onOpen={(code, neighbours) => navigate(`/items/${code}`, { state: { behind: location, neighbours } })}
            />
          </Suspense>
        ) : (
          <ChipGrid
            address={address}
            total={data?.total ?? 28}
            groups={data?.groups ?? null}
            titleOf={value => groupTitle(address.group, value, categories)}
            onGroup={address.group === 'color' ? null : value => change({ [address.group]: value, group: '' })}
            wanted={wanted}
            onReached={onReached}
            onLike={chip => setParams(writeAddress({ ...NOTHING_SET, like: chip.code }))}
          />
        )}
      </WithTree>
      {isChanging && data && (
        <BulkDialog
          address={writeAddress(address).toString()}
          total={data.total}
          mayEdit={session.person?.role === 'lead'}
          categories={categories}
          onClose={() => setChanging(false)}
          onStarted={setBulkId}
        />
      )}
    </div>
  )
}

/** What a group of the view is called. */
function groupTitle(group: Group | '', value: string, categories: readonly Category[]): string {
  if (value === '') return group === 'color' ? 'Without a colour' : `Without a ${group}`
  if (group === 'category')
    return (
      categoryTrail(categories, value)
        .map(c => c.title)
        .join(', ') || value
    )
  if (group === '' || group === 'color') return `${value.charAt(0).toUpperCase()}${value.slice(1)}`
  const word = valueWord(group, value)
  return `${word.charAt(0).toUpperCase()}${word.slice(1)}`
}

/** Where several are chosen, a line that says so. */
const severalOf = (text: string, what: string): Option[] =>
  readValues(text).length > 1 ? [{ value: text, text: `${readValues(text).length} ${what}` }] : []

/** A filter that narrows the wall stands out. */
const filterLook = (value: string): string => `max-w-40 shrink-0 ${value ? 'border-ink font-medium' : ''}`
