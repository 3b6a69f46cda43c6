import { X } from 'lucide-react'
import { useMemo } from 'react'
import { toast } from 'sonner'
import { leaveType, proposeTypes, takeTypes } from '#core/mock-up/materials/part-types'
import { type BookedPart, ownNames } from '#core/mock-up/materials/wearing'
import type { PartType, Scene, Spot } from '#core/mock-up/scene/scene'
import { isSameSpot } from '#core/mock-up/scene/spots'
import type { MockUpItem } from '#shared/contracts/mock-ups.contract'
import { Button } from '../../components/controls/Button'
import { IconButton } from '../../components/controls/IconButton'
import { plural } from '../../words/states'
import type { MockUpSession } from './state/mock-up-session'
import { newId } from './state/new-id'

interface Props {
  scene: Scene
  session: MockUpSession
  stageParts: readonly BookedPart[]
  items: ReadonlyMap<string, MockUpItem>
  /** The part that is chosen. */
  spot: Spot | null
  /** Chooses a part of a type, so that the next material goes onto all of it. */
  onType: (spot: Spot) => void
}

/** Types of parts that there are, and those that the names of a model's parts say. */
export function TypesSection({ scene, session, stageParts, items, spot, onType }: Props) {
  const proposed = useMemo(
    () =>
      proposeTypes(
        scene,
        stageParts.map(p => p.name),
      ),
    [scene, stageParts],
  )
  const types = Object.entries(scene.types).sort(([, a], [, b]) => a.name.localeCompare(b.name, 'en', { numeric: true }))
  if (types.length === 0 && proposed.length === 0) return null
  const undo = { label: 'Undo', onClick: () => session.undo() }
  const take = () => {
    const own = ownNames({ stageParts })
    session.act(takeTypes(scene, proposed, newId, s => (s.piece === null ? own.get(s.part) : undefined)))
    toast(`${plural(proposed.length, 'type')} taken over; nothing looks different for it.`, { action: undo })
  }
  const drop = (type: PartType) => {
    session.act(leaveType(scene, type.spots))
    toast(`${type.name} is a type no more; its parts keep what they wear.`, { action: undo })
  }
  const parts = proposed.reduce((sum, p) => sum + p.spots.length, 0)
  return (
    <section aria-label="Types of parts">
      <p className="pl-2.5 font-medium">Types</p>
      <ul>
        {types.map(([id, type]) => (
          <li key={id} className="flex items-center gap-1">
            <button
              type="button"
              aria-pressed={spot !== null && type.spots.some(s => isSameSpot(s, spot))}
              title={`Choose ${type.name}: what is put on goes onto all of it`}
              onClick={() => onType(type.spots[0])}
              className="flex min-w-0 flex-1 items-baseline gap-2 px-2 py-0.5 text-left hover:bg-mount/60 aria-pressed:bg-mount aria-pressed:font-medium"
            >
              <span className="shrink-0">{type.name}</span>
              <span className="min-w-0 flex-1 truncate text-xs font-normal text-quiet">{sayFinish(type, items)}</span>
              <span className="figures text-xs font-normal text-quiet">{type.spots.length}</span>
            </button>
            <IconButton look="small" label={`Let ${type.name} be no type any more`} onClick={() => drop(type)}>
              <X aria-hidden className="size-3.5 text-quiet" />
            </IconButton>
          </li>
        ))}
      </ul>
      {proposed.length > 0 && (
        <Button className="mt-1 ml-2" title={proposed.map(p => `${p.name}: ${p.spots.length}`).join(', ')} onClick={take}>
          Take {plural(proposed.length, 'type')} of {plural(parts, 'part')} from their names
        </Button>
      )}
    </section>
  )
}

const sayFinish = ({ finish }: PartType, items: ReadonlyMap<string, MockUpItem>): string =>
  finish ? (items.get(finish.material.inputKey)?.name ?? finish.material.code) : 'as it came'
