import { lazy, Suspense } from 'react'
import { Link, useLocation } from 'react-router'
import { toast } from 'sonner'
import type { Chip } from '#shared/contracts/chip.contract'
import type { FindingView, Sheet } from '#shared/contracts/items.contract'
import { keyFigure } from '#shared/key-figure'
import { tellProblem } from '../../components/bulk-words'
import { categoryTrail } from '../../components/CategoryPicker'
import { Button } from '../../components/controls/Button'
import { DotChoice } from '../../components/Dots'
import { Findings } from '../../components/Findings'
import { StateMark } from '../../components/StateMark'
import { useDots } from '../../components/use-dots'
import { useKey } from '../../components/use-key'
import { useFixItemMutation, useListCategoriesQuery } from '../../state/api'
import { useAppDispatch, useAppSelector } from '../../state/hooks'
import { trayToggled } from '../../state/tray.slice'
import { KIND_WORDS } from '../../words/states'
import { FactTable } from './FactTable'
import { FidelityTable } from './FidelityTable'
import { SheetActions } from './SheetActions'
import { SheetFiles } from './SheetFiles'
import { SheetHistory } from './SheetHistory'
import { SheetPictures } from './SheetPictures'
import { StandardSection } from './StandardSection'
import { UsedBy } from './UsedBy'

// Charts come with what is drawn in them.
const LightCurve = lazy(() => import('./LightCurve'))

export function SheetView({ sheet }: { sheet: Sheet }) {
  const { data: categories = [] } = useListCategoriesQuery()
  const dispatch = useAppDispatch()
  const inTray = useAppSelector(s => s.tray.chips.some(c => c.id === sheet.id))
  const dots = useDots()
  const toggle = () => dispatch(trayToggled(toChip(sheet)))
  useKey(' ', event => {
    if (event.target instanceof HTMLButtonElement) return
    event.preventDefault()
    toggle()
  })
  const lightCurve = sheet.files.find(f => f.role === 'photometry')
  const trail = categoryTrail(categories, sheet.category)
  return (
    // Pictures no wider than a final has pixels, so that it is not enlarged on a large window.
    <div className="grid grid-cols-[minmax(0,48rem)_minmax(25rem,1fr)] gap-8">
      <div className="flex min-w-0 flex-col gap-6">
        <SheetPictures sheet={sheet} />
        {sheet.kind === 'material' && <FidelityTable sheet={sheet} />}
        {lightCurve && (
          <Suspense fallback={null}>
            <LightCurve file={lightCurve} />
          </Suspense>
        )}
        <SheetFiles sheet={sheet} />
        <SheetHistory sheet={sheet} />
      </div>
      <div className="flex min-w-0 flex-col gap-6">
        <div>
          <div className="flex items-center gap-3">
            <p className="min-w-0 flex-1 text-xs text-quiet">
              {sheet.library}, {trail.map(c => c.title).join(' / ')}
            </p>
            <DotChoice colors={sheet.dots} meaningOf={dots.meaningOf} onToggle={color => dots.toggle([sheet], color)} />
          </div>
          <h1 className="mt-0.5 text-title">{sheet.name}</h1>
          <div className="mt-1 flex items-center gap-3">
            <span className="figures text-xs">{sheet.code}</span>
            <StateMark state={sheet.state} withWord />
            <span className="text-quiet">
              {KIND_WORDS[sheet.kind].one}, version {sheet.version.number}
            </span>
          </div>
        </div>
        <Origin sheet={sheet} />
        <SheetActions sheet={sheet} inTray={inTray} onTray={toggle} categories={categories} />
        <section>
          <h2 className="mb-2 text-section">Findings</h2>
          <SheetFindings sheet={sheet} />
        </section>
        <StandardSection sheet={sheet} />
        <FactTable sheet={sheet} />
        {sheet.projects.length > 0 && <UsedBy sheet={sheet} />}
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
  dots: s.dots,
})
