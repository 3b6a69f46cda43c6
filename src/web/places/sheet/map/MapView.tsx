import { type CSSProperties, type ReactNode, useState } from 'react'
import { PREVIEW_ASPECT } from '#core/render/rigs/rig'
import type { Sheet } from '#shared/contracts/items.contract'
import { Choice } from '../../../components/controls/Choice'
import { PreviewFrame } from '../../../components/PreviewFrame'
import { AddressLayer, PictureStage, placeIn } from '../../compare/PictureStage'
import { WHOLE } from '../../compare/view-state'

interface Props {
  sheet: Sheet
  share?: number
  about: string
  actions: ReactNode
}

type Shown = 'preview' | 'whole' | 'tiled' | 'alpha'

/** What browsers show as it is. */
const SHOWN_TYPES = /\.(png|jpe?g|webp|gif|avif)$/i

/** A map as its preview, by itself as large as fits, laid edge to edge, or only its alpha; enlarged to its texels by a double click. */
export function MapView({ sheet, share, about, actions }: Props) {
  const [shown, setShown] = useState<Shown>('preview')
  const [view, setView] = useState(WHOLE)
  const file = sheet.files.find(f => f.role === 'map' && SHOWN_TYPES.test(f.path))
  const facts = Object.fromEntries(sheet.facts.map(f => [f.name, f.value]))
  const size = { width: Number(facts.widthPx), height: Number(facts.heightPx) }
  const hasAlpha = String(facts.mapChannels).includes('alpha')
  const options: { value: Shown; text: string }[] = [
    { value: 'preview', text: 'its preview' },
    ...(file
      ? [
          { value: 'whole' as const, text: 'all of it' },
          { value: 'tiled' as const, text: 'four times four' },
        ]
      : []),
    ...(file && hasAlpha ? [{ value: 'alpha' as const, text: 'its alpha alone' }] : []),
  ]
  return (
    <>
      <div className="mb-2 flex min-h-8 items-center gap-3">
        <Choice label="How the map is shown" variant="plain" value={shown} onChange={setShown} options={options} />
        <span className="figures min-w-0 text-2xs text-quiet">
          {shown === 'preview' ? about : `${size.width} × ${size.height} px`}
        </span>
        <span className="ml-auto flex shrink-0 items-center gap-3">{shown === 'preview' && actions}</span>
      </div>
      {shown !== 'preview' && file ? (
        <PictureStage label={`The map ${sheet.name}`} view={view} onView={setView} spot={null} onSpot={() => {}} isOnPage>
          <div className="absolute max-w-none" style={placeIn(view)} data-map-shown={shown}>
            <Laid url={file.url} size={size} shown={shown} />
          </div>
        </PictureStage>
      ) : sheet.preview ? (
        <PictureStage label={`Preview of ${sheet.name}`} view={view} onView={setView} spot={null} onSpot={() => {}} isOnPage>
          <AddressLayer url={sheet.preview.url} alt={`Preview of ${sheet.name}`} view={view} />
        </PictureStage>
      ) : (
        <PreviewFrame url={null} alt="" share={share} />
      )}
    </>
  )
}

const REPEATS = 4
/** Under what is seen through. */
const CHECKS: CSSProperties = {
  backgroundImage: 'conic-gradient(#cecece 25%, #9e9e9e 0 50%, #cecece 0 75%, #9e9e9e 0)',
  backgroundSize: '16px 16px',
}

/** The file itself, in its own proportions in the frame of every picture. */
function Laid({ url, size, shown }: { url: string; size: { width: number; height: number }; shown: Exclude<Shown, 'preview'> }) {
  const aspect = size.width / size.height
  const box: CSSProperties =
    aspect > PREVIEW_ASPECT
      ? { width: '100%', height: `${(100 * PREVIEW_ASPECT) / aspect}%` }
      : { height: '100%', width: `${(100 * aspect) / PREVIEW_ASPECT}%` }
  const image = `url("${url}")`
  const laid: CSSProperties = {
    backgroundImage: image,
    backgroundSize: shown === 'tiled' ? `${100 / REPEATS}% ${100 / REPEATS}%` : '100% 100%',
    imageRendering: shown === 'tiled' ? 'auto' : 'pixelated',
  }
  const alone: CSSProperties = { backgroundColor: 'white', maskImage: image, maskSize: '100% 100%', maskMode: 'alpha' }
  return (
    <div className="flex size-full items-center justify-center">
      <div style={{ ...box, ...(shown === 'alpha' ? { background: 'black' } : CHECKS) }}>
        <div className="size-full" style={shown === 'alpha' ? alone : laid} />
      </div>
    </div>
  )
}
