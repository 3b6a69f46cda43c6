import { useCallback, useState } from 'react'
import type { Opening, Stage } from '#core/mock-up/scene/scene'
import type { MockUp } from '#shared/contracts/mock-ups.contract'
import { Button } from '../../../components/controls/Button'
import { Choice } from '../../../components/controls/Choice'
import { NumberField, NumberInput } from '../../../components/controls/NumberInput'
import { Modal } from '../../../components/dialogs/Modal'
import type { MockUpSession } from '../state/mock-up-session'
import { OwnModel } from './OwnModel'

export const STAGE_WORDS: Record<Stage['kind'], string> = {
  empty: 'open ground',
  terrace: 'a terrace on ground',
  room: 'a room',
  model: 'a model of your own',
}
/** What is built here, by its measures. */
export type BuiltKind = Exclude<Stage['kind'], 'model'>

const WALLS: Record<Opening['wall'], string> = { north: 'north', east: 'east', south: 'south', west: 'west' }

/** A stage of a kind, with measures to begin from. */
export function beginStage(kind: BuiltKind, materials: Stage['materials'] = {}): Stage {
  switch (kind) {
    case 'empty':
      return { kind, materials }
    case 'terrace':
      return { kind, materials, widthM: 6, depthM: 4 }
    case 'room':
      return {
        kind,
        materials,
        widthM: 5,
        depthM: 4.5,
        heightM: 2.8,
        openings: [
          { wall: 'west', leftM: 1.2, sillM: 0.4, widthM: 2.2, heightM: 2 },
          { wall: 'south', leftM: 0.6, sillM: 0, widthM: 3.8, heightM: 2.5 },
        ],
      }
    default:
      return kind satisfies never
  }
}

interface Props {
  mockUp: MockUp
  stage: Stage
  session: MockUpSession
  onClose: () => void
  /** The materials of a model are to be decided. */
  onMaterials: () => void
  /** Which kind it is opened with. */
  begins?: Stage['kind']
}

/** What things stand in: of which kind, how large, and where its walls are open. */
export function StageDialog({ mockUp, stage, session, onClose, onMaterials, begins = stage.kind }: Props) {
  const [kind, setKind] = useState(begins)
  const [draft, setDraft] = useState(stage)
  const keep = () => {
    session.act({ stage: draft })
    onClose()
    // Another model has materials that nobody has decided about.
    if (draft.kind === 'model' && (stage.kind !== 'model' || stage.model.key !== draft.model.key)) onMaterials()
  }
  const choose = useCallback(
    ({ key, name }: { key: string; name: string }) =>
      // What was decided for names goes on for the same names; what stands in the place of parts of another model is no matter here.
      setDraft(now =>
        now.kind === 'model'
          ? { ...now, model: { key, name }, without: now.model.key === key ? now.without : [] }
          : { kind: 'model', materials: {}, model: { key, name }, wears: {}, without: [] },
      ),
    [],
  )
  const size = (label: string, key: 'widthM' | 'depthM' | 'heightM', value: number) => (
    <NumberField
      label={label}
      unit="m"
      digits={3}
      min={0.5}
      max={key === 'heightM' ? 100 : 500}
      value={value}
      onSettle={v => v !== null && setDraft({ ...draft, [key]: v } as Stage)}
    />
  )
  const setOpenings = (openings: Opening[]) => draft.kind === 'room' && setDraft({ ...draft, openings })
  return (
    <Modal title="The stage" width="wide" onClose={onClose}>
      <div className="flex flex-col gap-4">
        <Choice
          label="Kind of stage"
          value={kind}
          onChange={next => {
            setKind(next)
            if (next !== 'model') setDraft(beginStage(next, draft.kind === 'model' ? {} : draft.materials))
            else if (stage.kind === 'model') setDraft(stage)
          }}
          options={(Object.keys(STAGE_WORDS) as Stage['kind'][]).map(value => ({ value, text: STAGE_WORDS[value] }))}
          className="w-56"
        />
        {kind === 'model' && (
          <OwnModel mockUp={mockUp} chosen={draft.kind === 'model' ? draft.model.key : null} onChoose={choose} />
        )}
        {kind !== 'model' && draft.kind !== 'empty' && draft.kind !== 'model' && (
          <div className="grid grid-cols-3 gap-3">
            {size('Width', 'widthM', draft.widthM)}
            {size('Depth', 'depthM', draft.depthM)}
            {draft.kind === 'room' && size('Height', 'heightM', draft.heightM)}
          </div>
        )}
        {kind === 'room' && draft.kind === 'room' && (
          <section aria-label="Openings">
            <div className="mb-2 flex items-center">
              <h3 className="font-medium">Openings</h3>
              <Button
                className="ml-auto"
                onClick={() =>
                  setOpenings([...draft.openings, { wall: 'north', leftM: 1, sillM: 0.9, widthM: 1.4, heightM: 1.4 }])
                }
              >
                Add one
              </Button>
            </div>
            {draft.openings.length === 0 && <p className="text-quiet">None yet: without one no daylight comes in.</p>}
            {draft.openings.length > 0 && (
              <div className="grid grid-cols-[7rem_repeat(4,1fr)_4.5rem] items-center gap-x-2 gap-y-1.5">
                {['Wall', 'From the left', 'Sill', 'Width', 'Height', ''].map(text => (
                  <span key={text} className="text-xs text-quiet">
                    {text}
                  </span>
                ))}
                {draft.openings.map((opening, k) => {
                  const change = (next: Partial<Opening>) =>
                    setOpenings(draft.openings.map((o, n) => (n === k ? { ...o, ...next } : o)))
                  const figure = (label: string, key: 'leftM' | 'sillM' | 'widthM' | 'heightM') => (
                    <NumberInput
                      label={`${label} of opening ${k + 1}`}
                      unit="m"
                      digits={3}
                      min={key === 'widthM' || key === 'heightM' ? 0.01 : 0}
                      max={500}
                      value={opening[key]}
                      onSettle={v => v !== null && change({ [key]: v })}
                    />
                  )
                  return (
                    <div key={k} className="contents">
                      <Choice
                        label={`Wall of opening ${k + 1}`}
                        value={opening.wall}
                        onChange={wall => change({ wall })}
                        options={(Object.keys(WALLS) as Opening['wall'][]).map(value => ({ value, text: WALLS[value] }))}
                      />
                      {figure('From the left', 'leftM')}
                      {figure('Sill', 'sillM')}
                      {figure('Width', 'widthM')}
                      {figure('Height', 'heightM')}
                      <Button variant="bare" onClick={() => setOpenings(draft.openings.filter((_, n) => n !== k))}>
                        Close
                      </Button>
                    </div>
                  )
                })}
              </div>
            )}
          </section>
        )}
        <div className="flex justify-end gap-2">
          <Button variant="bare" onClick={onClose}>
            Leave it
          </Button>
          <Button variant="next" disabled={kind !== draft.kind} onClick={keep}>
            {kind === 'model' ? 'Stand in it' : 'Build it so'}
          </Button>
        </div>
      </div>
    </Modal>
  )
}
