import { Dices, Trash2 } from 'lucide-react'
import type { Plant } from '#core/mock-up/planting/grow-planting'
import { areaOf, lengthOf } from '#core/mock-up/planting/grow-planting'
import { joinChanges } from '#core/mock-up/scene/change'
import type { Planting, Scene } from '#core/mock-up/scene/scene'
import { Button } from '../../../components/controls/Button'
import { DraftField } from '../../../components/controls/DraftField'
import { NumberInput } from '../../../components/controls/NumberInput'
import { FigureLine } from '../../../components/FigureLine'
import { plural } from '../../../words/states'
import type { MockUpSession } from '../state/mock-up-session'
import { newId } from '../state/new-id'

interface Props {
  scene: Scene
  session: MockUpSession
  id: string
  plant: number | null
  plants: readonly Plant[]
  onGone: () => void
  onPieces: (ids: readonly string[]) => void
}

/** What grows on an area, how thickly, and one plant of it by itself. */
export function PlantingCard({ scene, session, id, plant, plants, onGone, onPieces }: Props) {
  const planting = scene.plantings[id]
  const change = (next: Partial<Planting>) => session.act({ plantings: { [id]: { ...planting, ...next } } })
  const one = plant === null ? undefined : plants.find(p => p.index === plant)
  const takeOut = () => one && change({ without: [...planting.without, one.index] })
  const makeSingle = () => {
    if (!one) return
    const key = newId()
    const { item, name } = planting.species[one.species]
    const piece = {
      item,
      name,
      position: one.position,
      turn: one.turn,
      scale: one.scale,
      group: planting.group,
      isHidden: false,
      isLocked: false,
      materials: {},
    }
    session.act(
      joinChanges(
        { pieces: { [key]: piece } },
        { plantings: { [id]: { ...planting, without: [...planting.without, one.index] } } },
      ),
    )
    onPieces([key])
  }
  const figure = (
    text: string,
    unit: string | undefined,
    key: 'perM2' | 'leastM' | 'edgeM' | 'clearM' | 'heightM',
    min: number,
    max: number,
  ) => (
    <FigureLine
      text={text}
      unit={unit}
      digits={2}
      min={min}
      max={max}
      value={planting[key]}
      onSettle={v => v !== null && change({ [key]: v })}
    />
  )
  return (
    <div className="flex flex-col gap-3">
      <DraftField
        label="Name of the planting"
        value={planting.name}
        onSettle={name => name !== '' && change({ name })}
        className="font-medium"
      />
      <p className="figures text-xs text-quiet">
        {plural(plants.length, 'plant')}{' '}
        {planting.along ? `along ${lengthOf(planting.outline).toFixed(1)} m` : `on ${areaOf(planting.outline).toFixed(1)} m²`}
      </p>
      {one && (
        <div className="flex flex-wrap items-center gap-2 border-l-2 border-ink pl-2">
          <span className="w-full truncate text-xs">{planting.species[one.species]?.name}</span>
          <Button onClick={makeSingle} title="A piece of its own, where it stands">
            Make single
          </Button>
          <Button onClick={takeOut}>Take out</Button>
        </div>
      )}
      <ul className="flex flex-col gap-1.5" aria-label="Species">
        {planting.species.map((s, k) => (
          <li key={s.item.inputKey} className="flex items-center gap-2">
            <span className="min-w-0 flex-1 truncate" title={s.name}>
              {s.name}
            </span>
            <NumberInput
              label={`Share of ${s.name}`}
              min={0}
              max={1000}
              digits={1}
              value={s.share}
              onSettle={v =>
                v !== null && change({ species: planting.species.map((o, n) => (n === k ? { ...o, share: v } : o)) })
              }
              className="w-16"
            />
            <button
              type="button"
              aria-label={`Take ${s.name} out of the planting`}
              disabled={planting.species.length === 1}
              onClick={() => change({ species: planting.species.filter((_, n) => n !== k) })}
              className="flex size-7 items-center justify-center rounded-sm text-quiet hover:bg-mount hover:text-ink disabled:opacity-40"
            >
              <Trash2 aria-hidden className="size-3.5" />
            </button>
          </li>
        ))}
      </ul>
      <p className="text-xs text-quiet">A plant chosen on the shelf joins it.</p>
      <div className="flex flex-col gap-1.5 border-t border-line pt-3">
        {planting.along ? (
          <AlongFigures along={planting.along} onChange={along => change({ along })} />
        ) : (
          <>
            {figure('Density', '/m²', 'perM2', 0.01, 400)}
            {figure('Least distance', 'm', 'leastM', 0, 100)}
            {figure('Thinner within', 'm', 'edgeM', 0, 100)}
          </>
        )}
        {figure('Clear of pieces', 'm', 'clearM', 0, 100)}
        {planting.on ? (
          <FigureLine
            text="Not steeper than"
            unit="°"
            digits={0}
            min={0}
            max={90}
            placeholder="any"
            value={planting.steepestDeg ?? null}
            onSettle={v => change({ steepestDeg: v ?? undefined })}
          />
        ) : (
          figure('Height of the ground', 'm', 'heightM', -100, 100)
        )}
      </div>
      <div className="flex gap-2">
        <Button onClick={() => change({ seed: (planting.seed + 1) >>> 0 })} title="The same planting, fallen otherwise">
          <Dices aria-hidden className="size-3.5" />
          Another fall
        </Button>
        <Button
          variant="bare"
          onClick={() => {
            session.act({ plantings: { [id]: null } })
            onGone()
          }}
        >
          Take it out
        </Button>
      </div>
    </div>
  )
}

/** One after the other along a line. */
function AlongFigures({
  along,
  onChange,
}: {
  along: NonNullable<Planting['along']>
  onChange: (along: Planting['along']) => void
}) {
  const figure = (text: string, key: keyof typeof along, min: number) => (
    <FigureLine
      text={text}
      unit="m"
      digits={2}
      min={min}
      max={100}
      value={along[key]}
      onSettle={v => v !== null && onChange({ ...along, [key]: v })}
    />
  )
  return (
    <>
      {figure('One every', 'spacingM', 0.02)}
      {figure('Beside its place by', 'strayM', 0)}
    </>
  )
}
