import { X } from 'lucide-react'
import type { LookGroup } from '#core/find/looks/look'
import { isLookText } from '#core/find/looks/look-text'
import type { ItemKind } from '#core/standard/categories'
import { readValues, toggleValue, type WallAddress } from './wall-address'

interface Props {
  address: WallAddress
  kind: ItemKind
  onChange: (patch: Partial<WallAddress>) => void
}

const SIDES: Readonly<Record<ItemKind, readonly [LookGroup, string][]>> = {
  material: [
    ['color', 'Colour'],
    ['pattern', 'Pattern'],
    ['scale', 'Scale'],
    ['relief', 'Relief'],
    ['surface', 'Gloss and metal'],
  ],
  model: [
    ['shape', 'Proportions'],
    ['size', 'Size'],
  ],
  environment: [['light', 'Light']],
  light: [['light', 'Light']],
  map: [
    ['color', 'Colour'],
    ['pattern', 'Pattern'],
    ['scale', 'Scale'],
    ['tone', 'Values'],
  ],
}
const STEPS: readonly [number, string][] = [
  [0, 'not at all'],
  [1, 'as usual'],
  [3, 'above all'],
]

const readWeights = (text: string): Map<string, number> =>
  new Map(
    text
      .split(',')
      .filter(Boolean)
      .map(part => [part.split(':')[0], Number(part.split(':')[1])]),
  )

/** What things in view are to be like, and which sides of it count. */
export function LikeBar({ address, kind, onChange }: Props) {
  const weights = readWeights(address.likeWeights)
  const weigh = (group: LookGroup, weight: number) => {
    weights.set(group, weight)
    onChange({
      likeWeights: [...weights]
        .filter(([, w]) => w !== 1)
        .map(([g, w]) => `${g}:${w}`)
        .join(),
    })
  }
  const without = (text: string) => {
    const like = toggleValue(address.like, text)
    onChange(like === '' ? { like, likeWeights: '' } : { like })
  }
  return (
    <section aria-label="Like" className="flex shrink-0 flex-wrap items-center gap-x-5 gap-y-1.5 px-6 pb-2">
      <span className="flex items-center gap-1.5">
        <span className="text-quiet">Like</span>
        {readValues(address.like).map(text => (
          <button
            key={text}
            type="button"
            onClick={() => without(text)}
            aria-label={isLookText(text) ? 'Without the picture' : `Without ${text}`}
            title="Without this"
            className="inline-flex h-6 items-center gap-1.5 rounded-sm border border-edge bg-mount pr-1 pl-2 text-xs hover:border-ink"
          >
            {isLookText(text) ? (
              <>
                <span className="flex h-3.5 w-16 overflow-hidden border border-line">
                  {colorsOf(text).map(({ hex, share }) => (
                    <span key={hex} style={{ backgroundColor: `#${hex}`, width: `${share}%` }} />
                  ))}
                </span>
                <span className="font-medium">a picture</span>
              </>
            ) : (
              <span className="figures font-medium">{text}</span>
            )}
            <X aria-hidden className="size-3 text-quiet" />
          </button>
        ))}
      </span>
      {SIDES[kind].length > 1 &&
        SIDES[kind].map(([group, title]) => (
          <fieldset key={group} className="flex items-center gap-1.5">
            <legend className="sr-only">{title} counts</legend>
            <span aria-hidden className="text-xs text-quiet">
              {title}
            </span>
            <span className="flex">
              {STEPS.map(([weight, word], step) => (
                <label
                  key={weight}
                  title={`${title} counts ${word}`}
                  className="cursor-pointer border border-edge first:rounded-l-sm last:rounded-r-sm not-first:-ml-px has-checked:bg-ink has-focus-visible:outline-2 has-focus-visible:outline-ink"
                >
                  <input
                    type="radio"
                    name={`weight-${group}`}
                    aria-label={`${title} counts ${word}`}
                    checked={(weights.get(group) ?? 1) === weight}
                    onChange={() => weigh(group, weight)}
                    className="sr-only"
                  />
                  <Marks count={step} isOn={(weights.get(group) ?? 1) === weight} />
                </label>
              ))}
            </span>
          </fieldset>
        ))}
    </section>
  )
}

/** None, one or two strokes. */
const Marks = ({ count, isOn }: { count: number; isOn: boolean }) => (
  <svg
    viewBox="0 0 20 18"
    aria-hidden="true"
    className={`block h-5 w-5.5 ${isOn ? 'stroke-mount' : 'stroke-quiet'}`}
    strokeWidth={2}
  >
    {count === 0 && <circle cx={10} cy={9} r={2.5} fill="none" strokeWidth={1.5} />}
    {count === 1 && <line x1={10} x2={10} y1={5} y2={13} />}
    {count === 2 && (
      <>
        <line x1={7.5} x2={7.5} y1={4} y2={14} />
        <line x1={12.5} x2={12.5} y1={4} y2={14} />
      </>
    )}
  </svg>
)

/** Colours of a picture as its text has them. */
const colorsOf = (text: string): { hex: string; share: string }[] =>
  text
    .slice(text.indexOf(':') + 1)
    .split(';')[0]
    .split(',')
    .map(entry => ({ hex: entry.split('.')[0], share: entry.split('.')[1] }))
