import { useState } from 'react'
import { toast } from 'sonner'
import { leaveType, markOf, putInType, renameType, typeAt } from '#core/mock-up/materials/part-types'
import { listReached, ownNames, type Reach } from '#core/mock-up/materials/wearing'
import type { Scene, Spot } from '#core/mock-up/scene/scene'
import { isSameSpot } from '#core/mock-up/scene/spots'
import { Choice } from '../../../components/controls/Choice'
import { DraftField } from '../../../components/controls/DraftField'
import { Line } from '../../../components/Line'
import { plural } from '../../../words/states'
import type { MockUpSession } from '../state/mock-up-session'
import { newId } from '../state/new-id'
import type { Staged } from '../state/use-staged'

const NONE = ''
const NEW = '+'

interface Props {
  scene: Scene
  session: MockUpSession
  staged: Staged
  spot: Spot
  reach: Reach
}

/** The type that a part is of, as a wall's build-up: its finish goes onto all of them, and is taken off by it. */
export function TypeRow({ scene, session, staged, spot, reach }: Props) {
  const [isNaming, setNaming] = useState(false)
  const of = typeAt(scene, spot)
  const mark = markOf(spot.part)
  const own = ownNames(staged.book)
  const ownOf = (s: Spot) => (s.piece === null ? own.get(s.part) : undefined)
  // A part goes into a type with those that a material would go to with it; the others of its own type are there already.
  // What the one in hand wears is the finish of a new type.
  const isInHand = (s: Spot) => isSameSpot(s, spot)
  const spots = () => {
    const reached = listReached(scene, spot, reach === 'type' ? 'part' : reach, staged.book)
    return [...reached.filter(isInHand), ...reached.filter(s => !isInHand(s))]
  }
  const put = (to: Parameters<typeof putInType>[2], name: string, parts = spots()) => {
    session.act(putInType(scene, parts, to, ownOf))
    if (parts.length > 1)
      toast(`${parts.length} parts are of type ${name}, and wear its finish.`, {
        action: { label: 'Undo', onClick: () => session.undo() },
      })
  }
  const begin = (name: string) => {
    setNaming(false)
    if (!name) return
    const known = Object.entries(scene.types).find(([, t]) => t.name.toLowerCase() === name.toLowerCase())
    put(known ? { id: known[0] } : { id: newId(), begun: { name: name.slice(0, 40) } }, name)
  }
  const alike =
    of && mark === of.type.name.toUpperCase()
      ? staged.book.stageParts
          .map(({ name }): Spot => ({ piece: null, part: name }))
          .filter(s => markOf(s.part) === mark && typeAt(scene, s)?.id !== of.id)
      : []
  return (
    <section aria-label="Type of this part" className="flex flex-col gap-1.5">
      <Line text="Type">
        {isNaming ? (
          <span className="flex w-44">
            <DraftField
              label="Name of the new type"
              value={mark ?? ''}
              placeholder="such as W3"
              className="w-full"
              onSettle={begin}
            />
          </span>
        ) : (
          <Choice
            label="Type"
            value={of?.id ?? NONE}
            onChange={id => {
              if (id === NEW && mark) begin(mark)
              else if (id === NEW) setNaming(true)
              else if (id === NONE) session.act(leaveType(scene, spots()))
              else put({ id }, scene.types[id].name)
            }}
            options={[
              { value: NONE, text: 'none' },
              ...Object.entries(scene.types).map(([value, t]) => ({ value, text: t.name, count: t.spots.length })),
              { value: NEW, text: mark ? `A new one: ${mark}` : 'A new one…' },
            ]}
            className="w-44"
          />
        )}
      </Line>
      {of && (
        <>
          <Line text="Its name">
            <span className="flex w-44">
              <DraftField
                label="Name of the type"
                value={of.type.name}
                className="w-full"
                onSettle={name => session.act(renameType(scene, of.id, name))}
              />
            </span>
          </Line>
          <p className="text-xs text-quiet">
            {plural(of.type.spots.length, 'part')} of it. What goes onto all of them is taken off as the finish of {of.type.name}.
          </p>
        </>
      )}
      {of && alike.length > 0 && (
        <button type="button" className="self-start text-xs underline" onClick={() => put({ id: of.id }, of.type.name, alike)}>
          {plural(alike.length, 'more part')} with {mark} in the name
        </button>
      )}
    </section>
  )
}
