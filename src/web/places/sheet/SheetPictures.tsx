import { lazy, Suspense, useState } from 'react'
import { Link } from 'react-router'
import { toast } from 'sonner'
import { hasOutside } from '#core/standard/categories'
import type { Preview, Sheet } from '#shared/contracts/items.contract'
import { formatNumber } from '#shared/units'
import { tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { Tabs } from '../../components/controls/Tabs'
import { useRenderFinalMutation } from '../../state/api'
import { useAppSelector } from '../../state/hooks'
import type { Left } from '../../state/live.slice'
import { ItemView } from './ItemView'
import { MapView } from './map/MapView'
import { OwnPictureView } from './OwnPictureView'
import { TurnView } from './TurnView'

const TunePanel = lazy(() => import('./tune/TunePanel'))

type Shown = 'own' | 'picture' | 'loop' | 'tune'

/** An item as it can be looked at: on its rig and from any side, as a loop, tuned, as somebody else pictured it. */
export function SheetPictures({ sheet }: { sheet: Sheet }) {
  const [shown, setShown] = useState<Shown>(sheet.ownPicture ? 'own' : 'picture')
  const share = useAppSelector(s => s.live.byItem[sheet.id])
  const left = useAppSelector(s => s.live.leftByItem[sheet.id])
  const [renderFinal, { isLoading }] = useRenderFinalMutation()
  const askFinal = async () => {
    const result = await renderFinal({ id: sheet.id })
    if (result.error) tellProblem(result.error)
    else toast('The final picture is next in line; it appears here when it is done.')
  }
  const { preview } = sheet
  const mayPicture = sheet.mayEdit && sheet.versions[0]?.id === sheet.version.id
  const views: [Shown, string][] = [
    ['picture', 'Picture'],
    ...(hasOutside(sheet.kind) ? [['loop', 'Loop'] as [Shown, string]] : []),
    ...(sheet.kind === 'material' ? [['tune', 'Tune'] as [Shown, string]] : []),
    ...(mayPicture || sheet.ownPicture ? [['own', 'Own picture'] as [Shown, string]] : []),
  ]
  const actions =
    preview?.quality === 'final' ? (
      <Link
        to={`/compare?of=${sheet.code}.v${sheet.version.number}.draft,${sheet.code}.v${sheet.version.number}.final`}
        className="text-xs underline"
      >
        Compare with the draft
      </Link>
    ) : share === undefined ? (
      <Button onClick={askFinal} disabled={isLoading}>
        Render final
      </Button>
    ) : null
  return (
    <section>
      {views.length > 1 && (
        <div className="mb-1 flex min-h-8 items-center">
          <Tabs label="Pictures of it" tabs={views.map(([value, text]) => ({ value, text }))} value={shown} onChange={setShown} />
        </div>
      )}
      {shown === 'own' ? (
        <OwnPictureView sheet={sheet} mayChange={mayPicture} />
      ) : shown === 'loop' ? (
        <TurnView key={sheet.version.id} sheet={sheet} />
      ) : shown === 'tune' ? (
        <Suspense fallback={null}>
          <TunePanel sheet={sheet} />
        </Suspense>
      ) : sheet.kind === 'map' ? (
        <MapView
          key={sheet.version.id}
          sheet={sheet}
          share={share}
          about={preview ? `laid flat, ${preview.width} × ${preview.height} px` : ''}
          actions={null}
        />
      ) : (
        <ItemView
          key={sheet.version.id}
          sheet={sheet}
          share={share}
          about={share !== undefined ? tellLeft(share, left) : preview ? describePreview(preview) : ''}
          actions={actions}
        />
      )}
    </section>
  )
}

/** In steps of an 8-bit display, as a picture's own error is told. */
function tellLeft(share: number, left: Left | undefined): string {
  const parts = ['rendering']
  if (left?.error) parts.push(`error ${formatNumber(left.error * 255, 1)} of 255`)
  if (left?.secondsLeft) parts.push(`about ${formatWait(left.secondsLeft)} to go`)
  return parts.length > 1 ? parts.join(', ') : `rendering, ${Math.round(share * 100)} %`
}

const formatWait = (seconds: number): string =>
  seconds < 90 ? `${Math.max(1, Math.round(seconds))} s` : `${Math.round(seconds / 60)} min`

/** How the picture was made, and whether it came to its target or only to its sample cap. */
function describePreview({
  quality,
  width,
  height,
  samples,
  seconds,
  achievedError,
  convergedShare,
  isOlder,
  rigTitle,
  rigRevision,
}: Preview): string {
  const kind = quality === 'draft' || convergedShare >= 0.9 ? quality : `${quality}, sample cap reached`
  const from = isOlder ? `, ${rigTitle} revision ${rigRevision}, older than the rig in force` : ''
  const error = `, filtered, error ${formatNumber(achievedError * 255, 1)} of 255`
  return `${kind}${error}, ${width} × ${height} px, ${formatNumber(samples / 1e6, 1)} million samples, ${formatNumber(seconds, 0)} s${from}`
}
