import { useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import { toast } from 'sonner'
import { type CompareKey, formatCompareKey, parseCompareKey, parseCompareKeys } from '#shared/compare-key'
import type { Compared } from '#shared/contracts/compare.contract'
import { Button } from '../../components/controls/Button'
import { EmptyState, Skeleton, Trouble } from '../../components/Notice'
import { toImageData } from '../../components/tracing/to-image-data'
import { useKey } from '../../components/use-key'
import { useGetComparisonQuery } from '../../state/api'
import { CompareCaption } from './CompareCaption'
import { LETTERS, LoadedLayer } from './LoadedLayer'
import { type PairMode, PairView } from './PairView'
import { PictureStage, type Spot } from './PictureStage'
import { SaveMenu } from './SaveMenu'
import { usePictures } from './use-pictures'
import { type View, WHOLE, zoomAt } from './view-state'

const MODES = ['side', 'wiper', 'blink', 'difference'] as const
type Mode = (typeof MODES)[number]
const MODE_WORDS: Record<Mode, string> = { side: 'Side by side', wiper: 'Wiper', blink: 'Blink', difference: 'Difference' }

/** Two to six pictures under one light: beside each other, over each other, and in numbers. The address holds what is compared. */
export function ComparePlace() {
  const [params, setParams] = useSearchParams()
  const keys = parseCompareKeys(params.get('of') ?? '')
  const mode = MODES.find(m => m === params.get('view')) ?? 'side'
  const of = keys.map(formatCompareKey).join(',')
  const { data, error, refetch } = useGetComparisonQuery({ of }, { skip: keys.length === 0 })
  const change = (patch: Record<string, string | null>) =>
    setParams(
      old => {
        const next = new URLSearchParams(old)
        for (const [name, value] of Object.entries(patch)) value === null ? next.delete(name) : next.set(name, value)
        return next
      },
      { replace: true },
    )
  MODES.forEach((m, k) => {
    // biome-ignore lint/correctness/useHookAtTopLevel: the list of modes never changes
    useKey(String(k + 1), () => change({ view: m === 'side' ? null : m }))
  })
  if (keys.length === 0)
    return (
      <EmptyState title="Nothing to compare yet.">
        <p>
          Put two to six items in the tray on the <Link to="/wall">Wall</Link>, then choose Compare.
        </p>
      </EmptyState>
    )
  if (error) return <Trouble error={error} onRetry={refetch} />
  if (!data) return <Skeleton className="m-6 h-96" />
  const setKey = (index: number, patch: Partial<CompareKey>) => {
    const next = keys.map((k, i) => formatCompareKey(i === index ? { ...k, ...patch } : k))
    change({ of: next.join(',') })
  }
  const pair = readPair(params.get('pair'), data.length)
  return (
    <Comparison
      compared={data}
      mode={data.length > 1 ? mode : 'side'}
      pair={pair}
      onMode={m => change({ view: m === 'side' ? null : m })}
      onPair={p => change({ pair: p.join('-') })}
      onKey={setKey}
      onAdd={index =>
        change({
          of: [...keys.slice(0, index + 1), keys[index], ...keys.slice(index + 1)].slice(0, 6).map(formatCompareKey).join(','),
        })
      }
      onRemove={index =>
        change({
          of: keys
            .filter((_, i) => i !== index)
            .map(formatCompareKey)
            .join(','),
          pair: null,
        })
      }
    />
  )
}

function readPair(text: string | null, count: number): [number, number] {
  const [a, b] = (text ?? '').split('-').map(Number)
  const fits = (v: number) => Number.isInteger(v) && v >= 0 && v < count
  return fits(a) && fits(b) && a !== b ? [a, b] : [0, Math.min(1, count - 1)]
}

interface ComparisonProps {
  compared: Compared[]
  mode: Mode
  pair: [number, number]
  onMode: (mode: Mode) => void
  onPair: (pair: [number, number]) => void
  onKey: (index: number, patch: Partial<CompareKey>) => void
  onAdd: (index: number) => void
  onRemove: (index: number) => void
}

function Comparison({ compared, mode, pair, onMode, onPair, onKey, onAdd, onRemove }: ComparisonProps) {
  const [view, setView] = useState<View>(WHOLE)
  const [spot, setSpot] = useState<Spot | null>(null)
  const pictures = usePictures(compared, p => toImageData(p.display))
  useKey('0', () => setView(WHOLE))
  const copy = async () => {
    await navigator.clipboard.writeText(window.location.href)
    toast('The address is copied. A colleague who may see these items sees this comparison.')
  }
  const caption = (index: number) => (
    <CompareCaption
      letter={LETTERS[index]}
      compared={compared[index]}
      compareKey={parseCompareKey(compared[index].key)!}
      loaded={pictures[index]}
      spot={spot}
      onKey={patch => onKey(index, patch)}
      onAdd={compared.length < 6 ? () => onAdd(index) : null}
      onRemove={compared.length > 1 ? () => onRemove(index) : null}
    />
  )
  return (
    <div className="flex h-full flex-col">
      <div className="flex h-11 shrink-0 items-center gap-4 px-6">
        <h1 className="sr-only">Compare</h1>
        {/* biome-ignore lint/a11y/useSemanticElements: a row of buttons, not of fields */}
        <div role="group" aria-label="Way of comparing" className="flex gap-1">
          {MODES.map((m, k) => (
            <button
              key={m}
              type="button"
              aria-pressed={mode === m}
              disabled={compared.length < 2 && m !== 'side'}
              title={`Key ${k + 1}`}
              onClick={() => onMode(m)}
              className={`border-b-2 px-2 py-1 disabled:opacity-45 ${mode === m ? 'border-ink font-medium' : 'border-transparent text-quiet hover:text-ink'}`}
            >
              {MODE_WORDS[m]}
            </button>
          ))}
        </div>
        <span className="ml-auto flex items-center gap-1">
          <span className="figures w-14 text-right text-xs text-quiet">{Math.round(view.scale * 100)} %</span>
          <Button variant="bare" aria-label="Smaller" onClick={() => setView(v => zoomAt(v, 0.5, 0.5, 0.5))}>
            −
          </Button>
          <Button variant="bare" aria-label="Larger" onClick={() => setView(v => zoomAt(v, 2, 0.5, 0.5))}>
            +
          </Button>
          <Button variant="bare" onClick={() => setView(WHOLE)} disabled={view.scale === 1}>
            Whole
          </Button>
          <Button onClick={copy}>Copy address</Button>
          {compared.length > 1 && compared.every(c => c.preview?.linearUrl) && (
            <SaveMenu
              word="Save"
              label="Save these pictures in one"
              url={`/api/compare/file?of=${encodeURIComponent(compared.map(c => c.key).join(','))}`}
            />
          )}
        </span>
      </div>
      <div className="min-h-0 flex-1 overflow-auto px-6 pb-4">
        {mode === 'side' ? (
          <div className={`mx-auto grid gap-4 ${GRIDS[compared.length]}`}>
            {compared.map((c, index) => (
              <figure key={`${index}-${c.key}`} data-compared={c.code}>
                <PictureStage label={`${LETTERS[index]}: ${c.name}`} {...{ view, spot }} onView={setView} onSpot={setSpot}>
                  <LoadedLayer loaded={pictures[index]} view={view} />
                </PictureStage>
                {caption(index)}
              </figure>
            ))}
          </div>
        ) : (
          <PairView
            mode={mode as PairMode}
            compared={compared}
            pictures={pictures}
            pair={pair}
            onPair={onPair}
            {...{ view, spot }}
            onView={setView}
            onSpot={setSpot}
            caption={caption}
          />
        )}
      </div>
    </div>
  )
}

/** Columns and width by count, so that everything stands on one screen. */
const GRIDS: Record<number, string> = {
  1: 'max-w-3xl grid-cols-1',
  2: 'grid-cols-2',
  3: 'grid-cols-3',
  4: 'max-w-[44rem] grid-cols-2',
  5: 'max-w-6xl grid-cols-3',
  6: 'max-w-6xl grid-cols-3',
}
