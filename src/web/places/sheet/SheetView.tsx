import { format } from 'date-fns'
import { Download } from 'lucide-react'
import { lazy, Suspense, useState } from 'react'
import { Link, useLocation } from 'react-router'
import { toast } from 'sonner'
import type { Chip, FindingView, Preview, Sheet } from '#shared/contracts/items.contract'
import { keyFigure } from '#shared/key-figure'
import { formatBytes, formatNumber } from '#shared/units'
import { tellProblem } from '../../components/bulk-words'
import { categoryTrail } from '../../components/CategoryPicker'
import { Button } from '../../components/controls/Button'
import { Tabs } from '../../components/controls/Tabs'
import { Findings } from '../../components/Findings'
import { PathText } from '../../components/PathText'
import { PreviewFrame } from '../../components/PreviewFrame'
import { StateMark } from '../../components/StateMark'
import { useKey } from '../../components/use-key'
import { useFixItemMutation, useListCategoriesQuery, useRenderFinalMutation } from '../../state/api'
import { useAppDispatch, useAppSelector } from '../../state/hooks'
import { trayToggled } from '../../state/tray.slice'
import { KIND_WORDS, roleWord, verbWord } from '../../words/states'
import { FactTable } from './FactTable'
import { FidelityTable } from './FidelityTable'
import { OwnPictureView } from './OwnPictureView'
import { SheetActions } from './SheetActions'
import { StandardSection } from './StandardSection'
import { TurnView } from './TurnView'

const LiveView = lazy(() => import('../../viewer/LiveView'))
const TunePanel = lazy(() => import('./tune/TunePanel'))

type Shown = 'own' | 'rendered' | 'live' | 'turn' | 'tune'

export function SheetView({ sheet }: { sheet: Sheet }) {
  const { data: categories = [] } = useListCategoriesQuery()
  const dispatch = useAppDispatch()
  const inTray = useAppSelector(s => s.tray.chips.some(c => c.id === sheet.id))
  const toggle = () => dispatch(trayToggled(toChip(sheet)))
  useKey(' ', event => {
    if (event.target instanceof HTMLButtonElement) return
    event.preventDefault()
    toggle()
  })
  const trail = categoryTrail(categories, sheet.category)
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_25rem] gap-8">
      <div className="flex min-w-0 flex-col gap-6">
        <Pictures sheet={sheet} />
        {sheet.kind === 'material' && <FidelityTable sheet={sheet} />}
        <FileList sheet={sheet} />
        <History sheet={sheet} />
      </div>
      <div className="flex min-w-0 flex-col gap-6">
        <div>
          <p className="text-xs text-quiet">
            {sheet.library}, {trail.map(c => c.title).join(' / ')}
          </p>
          <h1 className="mt-0.5 text-title">{sheet.name}</h1>
          <p className="mt-1 flex items-center gap-3">
            <span className="figures text-xs">{sheet.code}</span>
            <StateMark state={sheet.state} withWord />
            <span className="text-quiet">
              {KIND_WORDS[sheet.kind].one}, version {sheet.version.number}
            </span>
          </p>
        </div>
        <Origin sheet={sheet} />
        <SheetActions sheet={sheet} inTray={inTray} onTray={toggle} categories={categories} />
        <section>
          <h2 className="mb-2 text-section">Findings</h2>
          <SheetFindings sheet={sheet} />
        </section>
        <StandardSection sheet={sheet} />
        <FactTable sheet={sheet} />
        {sheet.projects.length > 0 && (
          <section>
            <h2 className="mb-2 text-section">Pinned by</h2>
            <ul className="border-t border-line">
              {sheet.projects.map(p => (
                <li key={p.id} className="flex justify-between border-b border-line py-1.5">
                  <Link to={`/projects/${p.id}`} className="hover:underline">
                    {p.title}
                  </Link>
                  <span className="text-quiet">version {p.versionNumber}</span>
                </li>
              ))}
            </ul>
          </section>
        )}
      </div>
    </div>
  )
}

/** Where an item came from that was copied or moved. */
function Origin({ sheet: { copiedFrom, formerCodes } }: { sheet: Sheet }) {
  const location = useLocation()
  if (!copiedFrom && formerCodes.length === 0) return null
  return (
    <p className="-mt-4 text-xs text-quiet">
      {copiedFrom &&
        (copiedFrom.code === null ? (
          `Copied from another library, version ${copiedFrom.versionNumber}. `
        ) : (
          <>
            Copied from{' '}
            <Link to={`/items/${copiedFrom.code}`} state={location.state} className="figures underline hover:text-ink">
              {copiedFrom.code}
            </Link>{' '}
            {copiedFrom.name}, version {copiedFrom.versionNumber}.{' '}
          </>
        ))}
      {formerCodes.length > 0 && `Was ${formerCodes.join(', ')} before it came into this library.`}
    </p>
  )
}

/** Findings of the version, each with its fix; what is fixed comes as the next version. */
function SheetFindings({ sheet }: { sheet: Sheet }) {
  const [fix, { isLoading }] = useFixItemMutation()
  const isCurrent = sheet.versions[0]?.id === sheet.version.id
  const fixable = sheet.findings.filter(f => f.fix !== null)
  const onFix = async (list: readonly FindingView[]) => {
    const result = await fix({ id: sheet.id, findingIds: list.flatMap(f => f.id ?? []) })
    if (result.error) tellProblem(result.error)
    else toast('It is being fixed; the next version appears here when it is measured.')
  }
  if (sheet.findings.length === 0) return <p className="text-quiet">Every check passed.</p>
  return (
    <>
      <Findings list={sheet.findings} onFix={sheet.mayEdit && isCurrent ? f => onFix([f]) : undefined} />
      {sheet.mayEdit && isCurrent && fixable.length > 1 && (
        <Button className="mt-3" disabled={isLoading} onClick={() => onFix(fixable)}>
          Fix all {fixable.length}
        </Button>
      )}
    </>
  )
}

const toChip = (s: Sheet): Chip => ({
  id: s.id,
  code: s.code,
  name: s.name,
  kind: s.kind,
  category: s.category,
  state: s.state,
  library: s.library,
  figure: keyFigure(s.kind, Object.fromEntries(s.facts.map(f => [f.name, f.value]))),
  preview: s.ownPicture?.url ?? s.preview?.url ?? null,
  isOlderPreview: s.ownPicture === null && (s.preview?.isOlder ?? false),
  isOwnPicture: s.ownPicture !== null,
})

function Pictures({ sheet }: { sheet: Sheet }) {
  const [shown, setShown] = useState<Shown>(sheet.ownPicture ? 'own' : 'rendered')
  const share = useAppSelector(s => s.live.byItem[sheet.id])
  const [renderFinal, { isLoading }] = useRenderFinalMutation()
  const askFinal = async () => {
    const result = await renderFinal({ id: sheet.id })
    if (result.error) tellProblem(result.error)
    else toast('The final picture is next in line; it appears here when it is done.')
  }
  const { preview } = sheet
  const mayPicture = sheet.mayEdit && sheet.versions[0]?.id === sheet.version.id
  const views: [Shown, string][] = [
    ['rendered', 'Rendered'],
    ['live', 'Live'],
    ...(sheet.kind !== 'environment' ? [['turn', 'Turn'] as [Shown, string]] : []),
    ...(sheet.kind === 'material' ? [['tune', 'Tune'] as [Shown, string]] : []),
    ...(mayPicture || sheet.ownPicture ? [['own', 'Own picture'] as [Shown, string]] : []),
  ]
  const live = shown === 'live'
  return (
    <section>
      <div className="mb-2 flex min-h-8 items-center gap-4">
        <Tabs label="Pictures of it" tabs={views.map(([value, text]) => ({ value, text }))} value={shown} onChange={setShown} />
        <span className="figures ml-auto min-w-0 text-right text-2xs text-quiet">
          {shown === 'tune' || shown === 'turn' || shown === 'own'
            ? ''
            : live
              ? 'drag to turn, wheel to come closer'
              : share !== undefined
                ? `rendering, ${Math.round(share * 100)} %`
                : preview
                  ? describePreview(preview)
                  : ''}
        </span>
        {shown === 'rendered' && preview?.quality === 'final' && (
          <Link
            to={`/compare?of=${sheet.code}.v${sheet.version.number}.draft,${sheet.code}.v${sheet.version.number}.final`}
            className="text-xs underline"
          >
            Compare with the draft
          </Link>
        )}
        {shown === 'rendered' && preview?.quality !== 'final' && share === undefined && (
          <Button onClick={askFinal} disabled={isLoading}>
            Render final
          </Button>
        )}
      </div>
      {shown === 'own' ? (
        <OwnPictureView sheet={sheet} mayChange={mayPicture} />
      ) : shown === 'turn' ? (
        <TurnView key={sheet.version.id} sheet={sheet} />
      ) : shown === 'tune' ? (
        <Suspense fallback={null}>
          <TunePanel sheet={sheet} />
        </Suspense>
      ) : live ? (
        <div className="aspect-[4/3] w-full bg-mount" data-live-view>
          <Suspense fallback={null}>
            <LiveView sheet={sheet} />
          </Suspense>
        </div>
      ) : (
        <PreviewFrame url={preview?.url ?? null} alt={`Preview of ${sheet.name}`} share={share} />
      )}
    </section>
  )
}

/** How the picture was made, and whether it came to its noise target or only to its sample cap. */
function describePreview({
  quality,
  width,
  height,
  samples,
  seconds,
  convergedShare,
  isOlder,
  rigTitle,
  rigRevision,
}: Preview): string {
  const kind = quality === 'draft' ? 'draft, denoised' : convergedShare >= 0.95 ? 'final' : 'final, sample cap reached'
  const from = isOlder ? `, ${rigTitle} revision ${rigRevision}, older than the rig in force` : ''
  return `${kind}, ${width} × ${height} px, ${formatNumber(samples / 1e6, 1)} million samples, ${formatNumber(seconds, 0)} s${from}`
}

function FileList({ sheet }: { sheet: Sheet }) {
  return (
    <section>
      <h2 className="mb-2 text-section">Files of version {sheet.version.number}</h2>
      <ul className="border-t border-line">
        {sheet.files.map(f => (
          <li key={f.url} className="grid grid-cols-[9rem_minmax(0,1fr)_5rem_2rem] items-center gap-3 border-b border-line py-1">
            <span>{roleWord(f.role)}</span>
            <PathText path={f.path} title={`${f.path}\nSHA-256 ${f.hash}`} className="text-xs" />
            <span className="figures text-right text-xs">{formatBytes(f.size)}</span>
            <a
              href={`${f.url}?download`}
              className="flex size-7 items-center justify-center rounded-sm hover:bg-mount"
              aria-label={`Download ${f.path}`}
            >
              <Download aria-hidden className="size-4" />
            </a>
          </li>
        ))}
      </ul>
    </section>
  )
}

function History({ sheet }: { sheet: Sheet }) {
  const location = useLocation()
  return (
    <section className="grid grid-cols-2 gap-8">
      <div>
        <h2 className="mb-2 text-section">Versions</h2>
        <ul className="border-t border-line">
          {sheet.versions.map(v => (
            <li key={v.id} className="border-b border-line py-1.5">
              <Link
                to={`/items/${sheet.code}?version=${v.number}`}
                state={location.state}
                replace
                className={v.id === sheet.version.id ? 'font-medium' : 'hover:underline'}
              >
                Version {v.number}
              </Link>
              {v.isApproved && <span className="ml-2 text-xs text-quiet">approved</span>}
              {v.id !== sheet.version.id && (
                <Link
                  to={`/compare?of=${sheet.code}.v${v.number},${sheet.code}.v${sheet.version.number}`}
                  className="ml-2 text-xs text-quiet underline hover:text-ink"
                >
                  compare
                </Link>
              )}
              <span className="block text-xs text-quiet">
                {v.author}, {format(new Date(v.createdAt), 'd MMM yyyy HH:mm')}
                {v.note && `. ${v.note}`}
              </span>
            </li>
          ))}
        </ul>
      </div>
      <div>
        <h2 className="mb-2 text-section">What happened</h2>
        <ul className="border-t border-line">
          {sheet.events.map(e => (
            <li key={e.id} className="border-b border-line py-1.5">
              {e.person} {verbWord(e.verb)}
              <span className="block text-xs text-quiet">
                {format(new Date(e.at), 'd MMM yyyy HH:mm')}
                {describeChange(e.before, e.after)}
              </span>
            </li>
          ))}
        </ul>
      </div>
    </section>
  )
}

/** "state: draft to approved" of a before and an after. */
function describeChange(before: unknown, after: unknown): string {
  if (typeof before !== 'object' || typeof after !== 'object' || !before || !after) return ''
  const old = before as Record<string, unknown>
  const changed = Object.entries(after).filter(([key, value]) => key in old && old[key] !== value)
  return changed.map(([key, value]) => `, ${key} ${old[key]} to ${value}`).join('')
}
