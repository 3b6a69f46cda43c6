import { Copy, X } from 'lucide-react'
import { Link, useLocation } from 'react-router'
import type { FloatImage } from '#core/image/image'
import type { CompareKey } from '#shared/compare-key'
import type { Compared } from '#shared/contracts/compare.contract'
import { Choice } from '../../components/controls/Choice'
import type { Spot } from './PictureStage'
import { SaveMenu } from './SaveMenu'
import type { Loaded } from './use-pictures'

interface Props {
  letter: string
  compared: Compared
  compareKey: CompareKey
  loaded: Loaded
  spot: Spot | null
  onKey: (patch: Partial<CompareKey>) => void
  /** The same item once more, to set it beside itself in another version, quality or rig. */
  onAdd: (() => void) | null
  onRemove: (() => void) | null
}

const SMALL_BUTTON = 'flex size-6 items-center justify-center rounded-sm hover:bg-mount'

/** What a picture is, in which version, quality and rig, and what it reads under the pointer. */
export function CompareCaption({ letter, compared, compareKey, loaded, spot, onKey, onAdd, onRemove }: Props) {
  const location = useLocation()
  const { preview } = compared
  return (
    <figcaption className="pt-1">
      <div className="flex items-center gap-2">
        <span className="figures flex size-5 shrink-0 items-center justify-center bg-ink text-xs text-mount">{letter}</span>
        <Link
          to={`/items/${compared.code}`}
          state={{ behind: location }}
          className="min-w-0 truncate font-medium hover:underline"
        >
          {compared.name}
        </Link>
        <span className="figures shrink-0 text-xs text-quiet">{compared.code}</span>
        <span className="ml-auto flex shrink-0">
          {onAdd && (
            <button
              type="button"
              className={SMALL_BUTTON}
              onClick={onAdd}
              aria-label={`${compared.name} once more`}
              title="Once more, for another version, quality or rig"
            >
              <Copy aria-hidden className="size-3.5" />
            </button>
          )}
          {preview?.linearUrl && (
            <SaveMenu
              label={`Save the picture of ${compared.name}`}
              url={`${preview.url}/file?name=${compared.code}-v${compared.version}`}
            />
          )}
          {onRemove && (
            <button
              type="button"
              className={SMALL_BUTTON}
              onClick={onRemove}
              aria-label={`Take ${compared.name} out`}
              title="Out of the comparison"
            >
              <X aria-hidden className="size-3.5" />
            </button>
          )}
        </span>
      </div>
      <div className="flex items-center gap-1">
        {compared.versions.length > 1 ? (
          <Choice
            label={`Version of ${letter}`}
            variant="plain"
            className="text-xs"
            value={String(compared.version)}
            onChange={version => onKey({ version: Number(version) })}
            options={compared.versions.map(v => ({ value: String(v), text: `version ${v}` }))}
          />
        ) : (
          <span className="shrink-0 text-xs whitespace-nowrap text-quiet">version {compared.version}</span>
        )}
        <Choice
          label={`Quality of ${letter}`}
          variant="plain"
          className="text-xs"
          value={compareKey.quality ?? ''}
          onChange={quality => onKey({ quality: quality === '' ? null : quality })}
          options={[
            { value: '', text: `best${preview && compareKey.quality === null ? `: ${preview.quality}` : ' there is'}` },
            { value: 'draft', text: 'draft' },
            { value: 'final', text: 'final' },
          ]}
        />
        <Choice
          label={`Rig of ${letter}`}
          variant="plain"
          className="truncate text-xs"
          value={compared.rig}
          onChange={rig => onKey({ rig })}
          options={compared.rigs.map(r => ({ value: r.name, text: r.title }))}
        />
      </div>
      <p className="figures h-4 truncate text-2xs text-quiet" aria-live="off">
        {loaded.state === 'there' && spot ? describePixel(loaded, spot) : ''}
      </p>
    </figcaption>
  )
}

function describePixel({ picture }: Extract<Loaded, { state: 'there' }>, { u, v }: Spot): string {
  const at = (image: { width: number; height: number }) => {
    const x = Math.min(image.width - 1, Math.max(0, Math.floor(u * image.width)))
    const y = Math.min(image.height - 1, Math.max(0, Math.floor(v * image.height)))
    return { x, y, p: (y * image.width + x) * 3 }
  }
  const { x, y, p } = at(picture.linear)
  const linear = channels(picture.linear, p).map(c => c.toPrecision(3))
  const display = channels(picture.display, p)
  return `${x}, ${y}   linear ${picture.isExact ? '' : '≈ '}${linear.join('  ')}   display ${display.join(' ')}`
}

const channels = ({ data }: Pick<FloatImage, 'data'> | { data: Uint8Array }, p: number): number[] => [
  data[p],
  data[p + 1],
  data[p + 2],
]
