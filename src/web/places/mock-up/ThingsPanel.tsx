import { Eye, EyeOff, Lock, LockOpen } from 'lucide-react'
import { type ReactNode, useState } from 'react'
import type { BookedPart } from '#core/mock-up/materials/wearing'
import { isHidden, putInGroup } from '#core/mock-up/scene/pieces'
import type { Group, Piece, Scene } from '#core/mock-up/scene/scene'
import { showAllParts } from '#core/mock-up/stage-model/replace-things'
import { Button } from '../../components/controls/Button'
import { DraftField } from '../../components/controls/DraftField'
import { IconButton } from '../../components/controls/IconButton'
import { plural } from '../../words/states'
import { type Chosen, chosenPieces } from './state/chosen'
import type { MockUpSession } from './state/mock-up-session'
import { newId } from './state/new-id'

interface Props {
  scene: Scene
  session: MockUpSession
  stageParts: readonly BookedPart[]
  /** The table of the materials of the stage's model. */
  onMaterials: () => void
  chosen: Chosen
  onChosen: (chosen: Chosen) => void
  activeGroup: string | null
  onActiveGroup: (group: string | null) => void
  /** What is said of types of parts. */
  types: ReactNode
}

/** Everything that is in the scene, by groups; chosen here by who works without a mouse. */
export function ThingsPanel({
  scene,
  session,
  stageParts,
  onMaterials,
  chosen,
  onChosen,
  activeGroup,
  onActiveGroup,
  types,
}: Props) {
  const [name, setName] = useState('')
  const ids = chosenPieces(chosen)
  const groupOf = (id: string | null) => Object.entries(scene.pieces).filter(([, p]) => p.group === id)
  const change = (id: string, next: Partial<Group>) => session.act({ groups: { [id]: { ...scene.groups[id], ...next } } })
  const addGroup = () => {
    const id = newId()
    const made = { name: name.trim() || 'Group', isHidden: false, isLocked: false }
    session.act(ids.length > 0 ? putInGroup(scene, ids, { id, made }) : { groups: { [id]: made } })
    onActiveGroup(id)
    setName('')
  }
  const choose = (id: string, withShift: boolean) =>
    onChosen({
      kind: 'pieces',
      part: null,
      ids: withShift ? [...ids.filter(i => i !== id), ...(ids.includes(id) ? [] : [id])] : [id],
    })
  const pieceLine = ([id, piece]: [string, Piece]) => (
    <li key={id}>
      <button
        type="button"
        aria-pressed={ids.includes(id)}
        onClick={event => choose(id, event.shiftKey || event.ctrlKey || event.metaKey)}
        className={`flex w-full items-center gap-2 px-2 py-0.5 text-left ${ids.includes(id) ? 'bg-mount font-medium' : 'hover:bg-mount/60'}`}
      >
        <span className={`min-w-0 flex-1 truncate ${isHidden(scene, piece) ? 'text-quiet line-through' : ''}`}>{piece.name}</span>
        {piece.isLocked && <Lock aria-label="locked" className="size-3 text-quiet" />}
      </button>
    </li>
  )
  const plantingsOf = (group: string | null) =>
    Object.entries(scene.plantings)
      .filter(([, p]) => p.group === group)
      .map(([id, p]) => (
        <PlainLine
          key={id}
          text={`${p.name}, planted`}
          isChosen={chosen?.kind === 'planting' && chosen.id === id}
          onChoose={() => onChosen({ kind: 'planting', id, plant: null })}
        />
      ))
  return (
    <div className="flex flex-col gap-3">
      {Object.entries(scene.groups).map(([id, group]) => (
        <section key={id} aria-label={group.name}>
          <div className="flex items-center gap-1">
            <button
              type="button"
              aria-pressed={id === activeGroup}
              title={id === activeGroup ? 'New pieces go in here' : 'Let new pieces go in here'}
              onClick={() => onActiveGroup(id === activeGroup ? null : id)}
              className={`min-w-0 flex-1 truncate border-l-2 pl-2 text-left font-medium ${id === activeGroup ? 'border-ink' : 'border-transparent hover:border-line'}`}
            >
              {group.name}
            </button>
            <IconButton
              look="small"
              label={group.isHidden ? `Show ${group.name}` : `Hide ${group.name}`}
              onClick={() => change(id, { isHidden: !group.isHidden })}
            >
              {group.isHidden ? <EyeOff aria-hidden className="size-3.5" /> : <Eye aria-hidden className="size-3.5 text-quiet" />}
            </IconButton>
            <IconButton
              look="small"
              label={group.isLocked ? `Free ${group.name}` : `Lock ${group.name}`}
              onClick={() => change(id, { isLocked: !group.isLocked })}
            >
              {group.isLocked ? (
                <Lock aria-hidden className="size-3.5" />
              ) : (
                <LockOpen aria-hidden className="size-3.5 text-quiet" />
              )}
            </IconButton>
          </div>
          <ul>
            {groupOf(id).map(pieceLine)}
            {plantingsOf(id)}
          </ul>
        </section>
      ))}
      <ul aria-label="In no group">
        {groupOf(null).map(pieceLine)}
        {plantingsOf(null)}
      </ul>
      {Object.keys(scene.lights).length > 0 && (
        <ul aria-label="Lights">
          {Object.entries(scene.lights).map(([id, light]) => (
            <PlainLine
              key={id}
              text={`${light.name}, ${light.isHidden ? 'off' : 'a light'}`}
              isChosen={chosen?.kind === 'light' && chosen.id === id}
              onChoose={() => onChosen({ kind: 'light', id })}
            />
          ))}
        </ul>
      )}
      {types}
      <section aria-label="Stage">
        <div className="flex items-center gap-2 pl-2.5">
          <p className="font-medium">Stage</p>
          {scene.stage.kind === 'model' && (
            <Button variant="bare" className="ml-auto" onClick={onMaterials}>
              Its materials
            </Button>
          )}
        </div>
        {scene.stage.kind === 'model' && scene.stage.without.length > 0 && (
          <p className="flex items-center gap-2 pl-2.5 text-xs text-quiet">
            {plural(scene.stage.without.length, 'part')} left out
            <button type="button" className="underline" onClick={() => session.act(showAllParts(scene))}>
              Show again
            </button>
          </p>
        )}
        <ul>
          {stageParts.slice(0, MOST_LISTED).map(({ name: part }) => (
            <PlainLine
              key={part}
              text={part}
              isChosen={chosen?.kind === 'stage' && chosen.part === part}
              onChoose={() => onChosen({ kind: 'stage', part })}
            />
          ))}
        </ul>
      </section>
      {stageParts.length > MOST_LISTED && (
        <p className="pl-2.5 text-xs text-quiet">
          and {(stageParts.length - MOST_LISTED).toLocaleString('en')} more: click them in the picture
        </p>
      )}
      <form
        className="flex items-end gap-2 border-t border-line pt-3"
        onSubmit={event => {
          event.preventDefault()
          addGroup()
        }}
      >
        <DraftField label="New group" placeholder="New group" value={name} onSettle={setName} />
        <Button type="submit">{ids.length > 0 ? `Group ${plural(ids.length, 'piece')}` : 'Add'}</Button>
      </form>
    </div>
  )
}

/** A model has thousands of parts, and nobody reads a list of them. */
const MOST_LISTED = 300

const PlainLine = ({ text, isChosen, onChoose }: { text: string; isChosen: boolean; onChoose: () => void }) => (
  <li>
    <button
      type="button"
      aria-pressed={isChosen}
      onClick={onChoose}
      className={`w-full truncate px-2 py-0.5 text-left ${isChosen ? 'bg-mount font-medium' : 'hover:bg-mount/60'}`}
    >
      {text}
    </button>
  </li>
)
