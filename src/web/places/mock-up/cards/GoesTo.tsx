import { typeAt } from '#core/mock-up/materials/part-types'
import { REACHES, type Reach } from '#core/mock-up/materials/wearing'
import type { Scene, Spot } from '#core/mock-up/scene/scene'
import { Choice } from '../../../components/controls/Choice'
import { Line } from '../../../components/Line'

const REACH_WORDS: Record<Reach, string> = {
  part: 'this part',
  alike: 'all that wears the same',
  piece: 'the whole piece',
  instances: 'this part of every instance',
  named: 'every part named like it',
  type: 'every part of its type',
}

/** How far a material goes from a part, in words. */
export function sayReach(scene: Scene, spot: Spot, reach: Reach): string {
  if (reach === 'type') {
    const of = typeAt(scene, spot)
    return of ? `all of type ${of.type.name}` : REACH_WORDS.part
  }
  return reach === 'piece' && spot.piece === null ? 'all named alike here' : REACH_WORDS[reach]
}

interface Props {
  scene: Scene
  spot: Spot
  reach: Reach
  onReach: (reach: Reach) => void
}

/** How far the next material goes: to the part that is chosen, or to others with it. */
export function GoesTo({ scene, spot, reach, onReach }: Props) {
  const isMeant = (r: Reach) => (r !== 'instances' || spot.piece !== null) && (r !== 'type' || typeAt(scene, spot) !== null)
  const offered = REACHES.filter(isMeant)
  return (
    <Line text="Goes to">
      <Choice
        label="A material goes to"
        value={offered.includes(reach) ? reach : 'part'}
        onChange={onReach}
        options={offered.map(value => ({ value, text: sayReach(scene, spot, value) }))}
        className="w-44"
      />
    </Line>
  )
}
