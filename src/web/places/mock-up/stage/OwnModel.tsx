import { formatDistanceToNow } from 'date-fns'
import { Trash2 } from 'lucide-react'
import { useEffect, useState } from 'react'
import { useDropzone } from 'react-dropzone'
import { toast } from 'sonner'
import { MODEL_UNITS, type ModelUnit, UP_AXES, type UpAxis } from '#core/mock-up/stage-model/model-space'
import type { MockUp } from '#shared/contracts/mock-ups.contract'
import type { StageModelView } from '#shared/contracts/stage-models.contract'
import { tellProblem } from '../../../components/bulk-words'
import { Button } from '../../../components/controls/Button'
import { ChoiceField } from '../../../components/controls/Choice'
import { IconButton } from '../../../components/controls/IconButton'
import { Progress } from '../../../components/Notice'
import { useCreateStageModelMutation, useListStageModelsQuery, useRemoveStageModelMutation } from '../../../state/api'
import { plural } from '../../../words/states'
import { useSendScene } from '../../intake/upload/use-send-scene'

const UNIT_WORDS: Record<ModelUnit, string> = {
  asSaid: 'metres, or what the form says',
  mm: 'millimetres',
  cm: 'centimetres',
  in: 'inches',
  ft: 'feet',
}
const UP_WORDS: Record<UpAxis, string> = { y: 'up is y', z: 'up is z' }
/** A building site has no more, and a thing to stand in no less. */
const [LARGEST_M, SMALLEST_M] = [600, 0.5]

const isUnderWay = ({ state }: StageModelView): boolean => state === 'waiting' || state === 'reading'

interface Props {
  mockUp: MockUp
  chosen: string | null
  onChoose: (model: StageModelView & { key: string }) => void
}

/** Models of the project, or one's own, to choose one as the stage; and a place to drop another. */
export function OwnModel({ mockUp, chosen, onChoose }: Props) {
  const projectId = mockUp.project?.id ?? null
  const { data: models = [] } = useListStageModelsQuery(projectId === null ? {} : { project: projectId })
  const [create] = useCreateStageModelMutation()
  /** Was ordered here: it is chosen when it is there. */
  const [wanted, setWanted] = useState<number | null>(null)
  /** The one that could be read otherwise: the one that is chosen, or that would not read. */
  const [looked, setLooked] = useState<number | null>(null)
  useEffect(() => {
    const made = models.find(m => m.id === wanted)
    if (!made || isUnderWay(made)) return
    setWanted(null)
    setLooked(made.id)
    if (made.key !== null) onChoose({ ...made, key: made.key })
  }, [models, wanted, onChoose])
  const read = async (batchId: number, unit: ModelUnit = 'asSaid', up: UpAxis = 'y') => {
    const result = await create({ batchId, projectId, unit, up })
    if (result.data) setWanted(result.data.id)
    else tellProblem(result.error)
  }
  const [remove] = useRemoveStageModelMutation()
  const forget = async ({ id, name }: StageModelView) => {
    const result = await remove({ id })
    if (result.error) return tellProblem(result.error)
    toast(`${name} is forgotten.`)
  }
  const { take, sent } = useSendScene(mockUp.library, batchId => read(batchId))
  const { getRootProps, getInputProps, isDragActive, open } = useDropzone({
    onDropAccepted: files => void take(files),
    noClick: true,
    noKeyboard: true,
  })
  const own = models.find(m => m.key !== null && m.key === chosen)
  const shown = models.find(m => m.id === looked) ?? own
  return (
    <section aria-label="Models" {...getRootProps()} className={isDragActive ? 'outline-2 outline-dashed outline-ink' : ''}>
      <input {...getInputProps()} aria-label="Files of a model" />
      <div className="mb-2 flex items-center gap-3">
        <p className="text-quiet">
          {models.length === 0
            ? 'Drop a model here: glTF, USDZ, OBJ, FBX, Collada, with its files or as a zip.'
            : 'Choose one, or drop another here.'}
        </p>
        <Button className="ml-auto shrink-0" onClick={open}>
          Bring a model
        </Button>
      </div>
      {sent !== null && <Progress share={sent} label="Sending the model" />}
      <ul className="max-h-56 overflow-y-auto">
        {models.map(model => (
          <ModelLine
            key={model.id}
            model={model}
            isChosen={model === own}
            onChoose={() => {
              setLooked(model.id)
              if (model.key !== null) onChoose({ ...model, key: model.key })
            }}
            onForget={() => void forget(model)}
          />
        ))}
      </ul>
      {shown && !isUnderWay(shown) && (
        <Otherwise key={shown.id} model={shown} onRead={(unit, up) => void read(shown.batchId, unit, up)} />
      )}
    </section>
  )
}

interface LineProps {
  model: StageModelView
  isChosen: boolean
  onChoose: () => void
  onForget: () => void
}

function ModelLine({ model: m, isChosen, onChoose, onForget }: LineProps) {
  return (
    <li className="flex items-center border-t border-line">
      <button
        type="button"
        disabled={isUnderWay(m)}
        aria-pressed={isChosen}
        onClick={onChoose}
        className={`grid min-w-0 flex-1 grid-cols-[minmax(0,1fr)_auto] gap-3 px-2 py-1.5 text-left ${isChosen ? 'bg-mount' : 'enabled:hover:bg-mount/60'}`}
      >
        <span className="min-w-0">
          <span className="block truncate font-medium">{m.name}</span>
          <span className="block text-xs text-quiet">
            {isUnderWay(m)
              ? 'being read'
              : m.state === 'failed'
                ? m.message
                : `${plural(m.parts, 'part')}, ${plural(m.materials, 'material')}, ${plural(m.triangles, 'triangle')}`}
          </span>
          {m.missing.length > 0 && (
            <span className="block truncate text-xs" title={m.missing.join(', ')}>
              {plural(m.missing.length, 'file')} did not come along: {m.missing.join(', ')}
            </span>
          )}
        </span>
        <span className="figures text-right text-xs text-quiet">
          {m.sizeM && saySize(m.sizeM)}
          <span className="block">{formatDistanceToNow(new Date(m.createdAt), { addSuffix: true })}</span>
        </span>
      </button>
      <IconButton label={`Forget ${m.name}`} look="bare" onClick={onForget}>
        <Trash2 aria-hidden className="size-4" />
      </IconButton>
    </li>
  )
}

const saySize = ([width, height, depth]: readonly number[]): string =>
  `${[width, depth, height].map(v => v.toLocaleString('en', { maximumFractionDigits: v < 10 ? 2 : 1 })).join(' × ')} m`

/** Read again with other lengths, or lying on its side no more; with a hint where its size says that it has to be. */
function Otherwise({ model, onRead }: { model: StageModelView; onRead: (unit: ModelUnit, up: UpAxis) => void }) {
  const [unit, setUnit] = useState(model.unit)
  const [up, setUp] = useState(model.up)
  const longest = Math.max(...(model.sizeM ?? [1]))
  const isOdd = longest > LARGEST_M || longest < SMALLEST_M
  return (
    <div className="mt-3 border-t border-line pt-3">
      {model.state === 'failed' && <p className="mb-2 font-medium">{model.name} would not read as it is.</p>}
      {isOdd && (
        <p className="mb-2 border-l-2 border-ink pl-2">
          It is {saySize(model.sizeM ?? [0, 0, 0])}. Its lengths are perhaps in another unit.
        </p>
      )}
      <div className="flex items-end gap-3">
        <ChoiceField
          label="Its lengths are in"
          value={unit}
          onChange={setUnit}
          options={MODEL_UNITS.map(value => ({ value, text: UNIT_WORDS[value] }))}
        />
        <ChoiceField
          label="Its axes"
          value={up}
          onChange={setUp}
          options={UP_AXES.map(value => ({ value, text: UP_WORDS[value] }))}
        />
        <Button disabled={unit === model.unit && up === model.up} onClick={() => onRead(unit, up)}>
          Read it so
        </Button>
      </div>
    </div>
  )
}
