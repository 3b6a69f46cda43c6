import { useState } from 'react'
import { toast } from 'sonner'
import type { ModelStage } from '#core/mock-up/stage-model/stage-of-model'
import type { MockUp, MockUpItem } from '#shared/contracts/mock-ups.contract'
import type { ProposedMaterials } from '#shared/contracts/stage-models.contract'
import { smallestOf } from '#shared/picture-widths'
import { tellProblem } from '../../../components/bulk-words'
import { Button } from '../../../components/controls/Button'
import { CONTROL } from '../../../components/controls/control-look'
import { Modal } from '../../../components/dialogs/Modal'
import { Trouble } from '../../../components/Notice'
import { useEnterFirst } from '../../../components/use-enter-first'
import { useSettled } from '../../../components/use-settled'
import {
  useGetWallQuery,
  useListStageModelsQuery,
  useProposeStageMaterialsQuery,
  useRememberStageMaterialsMutation,
} from '../../../state/api'
import { plural } from '../../../words/states'
import type { MockUpSession } from '../state/mock-up-session'
import { useFindItems } from '../state/use-find-items'

type Row = ProposedMaterials['materials'][number]
/** Of materials by name, the code of what each is to be; null for its own. */
type Draft = Readonly<Record<string, string | null>>

const REASONS = { before: 'decision before', code: 'code', name: 'name', look: 'look' } as const
/** From here on a proposal is taken with the others. */
const SURE = 0.6
const LARGE_M2 = 10

interface Props {
  mockUp: MockUp
  stage: ModelStage
  /** Libraries whose materials may be put on, as a filter of the wall. */
  library: string
  session: MockUpSession
  onItems: (items: readonly MockUpItem[]) => void
  onClose: () => void
}

/** The materials that the stage's model came with, and what each of them is in the house: decided in one table. */
export function StageMaterials(props: Props) {
  const { mockUp, stage, onClose } = props
  const { data: models } = useListStageModelsQuery(mockUp.project ? { project: mockUp.project.id } : {})
  const model = models?.find(m => m.key === stage.model.key)
  const { data, error, refetch } = useProposeStageMaterialsQuery({ id: model?.id ?? 0 }, { skip: !model })
  return (
    <Modal title={`Materials of ${stage.model.name}`} width="frame" onClose={onClose}>
      {error ? (
        <Trouble error={error} onRetry={refetch} />
      ) : data && model ? (
        <Table {...props} modelId={model.id} proposed={data} />
      ) : models && !model ? (
        <p className="text-quiet">
          The model came with another mock-up and is not yours to decide about. Give its parts materials one by one.
        </p>
      ) : (
        <p role="status" className="text-quiet">
          Looking for what they could be
        </p>
      )}
    </Modal>
  )
}

function Table({
  stage,
  library,
  session,
  onItems,
  onClose,
  modelId,
  proposed,
}: Props & { modelId: number; proposed: ProposedMaterials }) {
  const [remember] = useRememberStageMaterialsMutation()
  const before: Draft = Object.fromEntries(proposed.materials.map(({ name }) => [name, stage.wears[name]?.material.code ?? null]))
  const [draft, setDraft] = useState<Draft>(before)
  const [found, setFound] = useState<readonly MockUpItem[]>([])
  const known = new Map([...proposed.items, ...found].map(item => [item.ref.code, item]))
  const changed = proposed.materials.filter(({ name }) => draft[name] !== before[name])
  const sure = proposed.materials.filter(m => draft[m.name] === null && (m.proposals[0]?.confidence ?? 0) >= SURE)
  const decided = proposed.materials.filter(m => draft[m.name] !== null).length
  const put = async () => {
    const wears = { ...stage.wears }
    for (const { name } of changed) {
      const item = known.get(draft[name] ?? '')
      if (item) wears[name] = { material: item.ref, turnDeg: 0, offsetM: [0, 0], mapping: 'own', override: {} }
      else delete wears[name]
    }
    onItems(changed.flatMap(({ name }) => known.get(draft[name] ?? '') ?? []))
    session.act({ stage: { ...stage, wears } })
    onClose()
    toast(`${plural(changed.length, 'material')} decided.`, { action: { label: 'Undo', onClick: () => session.undo() } })
    const kept = await remember({ id: modelId, choices: Object.fromEntries(changed.map(({ name }) => [name, draft[name]])) })
    if (kept.error) tellProblem(kept.error)
  }
  return (
    <div className="flex min-h-0 flex-col gap-3">
      <div className="flex items-center gap-3">
        <p className="text-quiet" role="status">
          {decided} of {proposed.materials.length} are of the house
        </p>
        <Button
          className="ml-auto"
          disabled={sure.length === 0}
          onClick={() => setDraft({ ...draft, ...Object.fromEntries(sure.map(m => [m.name, m.proposals[0].code])) })}
        >
          {sure.length === 0 ? 'No sure proposal is left' : `Take ${plural(sure.length, 'sure proposal')}`}
        </Button>
      </div>
      <ul aria-label="Materials" className="max-h-[52vh] overflow-y-auto border-y border-line">
        {proposed.materials.map(row => (
          <MaterialRow
            key={row.name}
            row={row}
            library={library}
            known={known}
            code={draft[row.name]}
            onCode={code => setDraft({ ...draft, [row.name]: code })}
            onFound={item => {
              setFound([...found, item])
              setDraft({ ...draft, [row.name]: item.ref.code })
            }}
          />
        ))}
      </ul>
      <div className="flex justify-end gap-2">
        <Button variant="bare" onClick={onClose}>
          Leave it
        </Button>
        <Button variant="next" disabled={changed.length === 0} onClick={() => void put()}>
          {changed.length === 0 ? 'Put them on' : `Put ${changed.length} on`}
        </Button>
      </div>
    </div>
  )
}

interface RowProps {
  row: Row
  library: string
  known: ReadonlyMap<string, MockUpItem>
  code: string | null
  onCode: (code: string | null) => void
  onFound: (item: MockUpItem) => void
}

function MaterialRow({ row, library, known, code, onCode, onFound }: RowProps) {
  const [isSearching, setSearching] = useState(false)
  const others = code !== null && !row.proposals.some(p => p.code === code) ? [code] : []
  return (
    <li className="grid grid-cols-[1.75rem_13rem_minmax(0,1fr)] items-center gap-3 border-b border-line py-1.5 last:border-b-0">
      <span aria-hidden className="size-7 border border-line" style={{ backgroundColor: row.color }} />
      <span className="min-w-0">
        <span className="block truncate font-medium" title={row.name}>
          {row.name}
        </span>
        <span className="figures block text-xs text-quiet">
          {row.areaM2.toLocaleString('en', { maximumFractionDigits: row.areaM2 < LARGE_M2 ? 2 : 0 })} m²,{' '}
          {plural(row.parts, 'part')}
        </span>
      </span>
      <span className="flex min-w-0 flex-wrap items-center gap-1.5">
        {others.map(other => (
          <Proposal
            key={other}
            item={known.get(other)}
            text={known.get(other)?.name ?? other}
            note="chosen"
            isTaken
            onTake={() => onCode(null)}
          />
        ))}
        {row.proposals.map(({ code: own, confidence, reasons }) => (
          <Proposal
            key={own}
            item={known.get(own)}
            text={known.get(own)?.name ?? own}
            note={`${Math.round(confidence * 100)} % by ${reasons.map(r => REASONS[r]).join(', ')}`}
            isTaken={own === code}
            onTake={() => onCode(own === code ? null : own)}
          />
        ))}
        {isSearching ? (
          <Search
            library={library}
            onChoose={item => {
              setSearching(false)
              onFound(item)
            }}
            onLeave={() => setSearching(false)}
          />
        ) : (
          <Button variant="bare" onClick={() => setSearching(true)} aria-label={`Another material for ${row.name}`}>
            {row.proposals.length + others.length === 0 ? 'Find one' : 'Another'}
          </Button>
        )}
      </span>
    </li>
  )
}

interface ProposalProps {
  item: MockUpItem | undefined
  text: string
  note: string
  isTaken: boolean
  onTake: () => void
}

function Proposal({ item, text, note, isTaken, onTake }: ProposalProps) {
  return (
    <button
      type="button"
      aria-pressed={isTaken}
      title={`${text}, ${note}`}
      onClick={onTake}
      className={`flex w-40 items-center gap-2 border py-0.5 pr-2 pl-0.5 text-left ${isTaken ? 'border-ink bg-mount' : 'border-line hover:bg-mount/60'}`}
    >
      {item?.preview ? (
        <img src={smallestOf(item.preview)} alt="" className="size-8 shrink-0 object-cover" />
      ) : (
        <span className="size-8 shrink-0 bg-mount" />
      )}
      <span className="min-w-0">
        <span className="block truncate text-xs">{text}</span>
        <span className="block truncate text-2xs text-quiet">{note}</span>
      </span>
    </button>
  )
}

const SHOWN = 6

interface SearchProps {
  library: string
  onChoose: (item: MockUpItem) => void
  onLeave: () => void
}

/** Any other material of the library, by its name or code. */
function Search({ library, onChoose, onLeave }: SearchProps) {
  const [words, setWords] = useState('')
  const settled = useSettled(words.trim(), 150)
  const { data, isFetching } = useGetWallQuery(
    { words: settled, library, kind: 'material', state: 'approved', counts: 'no', offset: 0, limit: SHOWN } as never,
    { skip: settled === '' },
  )
  const find = useFindItems(items => items[0] && onChoose(items[0]))
  const isCurrent = settled !== '' && settled === words.trim() && !isFetching
  const chips = settled === '' ? [] : (data?.chips ?? [])
  const first = useEnterFirst(isCurrent ? chips : null, chip => void find([chip.id]))
  return (
    <span className="flex w-full flex-wrap items-center gap-1.5">
      <input
        type="search"
        aria-label="A material by name or code"
        placeholder="Name or code"
        value={words}
        // It was asked for by a click on the button that stood here.
        ref={field => field?.focus()}
        onChange={event => {
          setWords(event.target.value)
          first.forget()
        }}
        onKeyDown={event => {
          if (event.key === 'Enter') first.enter()
          if (event.key !== 'Escape') return
          event.stopPropagation()
          onLeave()
        }}
        className={`${CONTROL} w-44`}
      />
      {chips.map(chip => (
        <button
          key={chip.id}
          type="button"
          onClick={() => void find([chip.id])}
          className="flex w-40 items-center gap-2 border border-line p-0.5 pr-2 text-left hover:bg-mount/60"
        >
          {chip.preview ? (
            <img src={smallestOf(chip.preview)} alt="" className="size-7 object-cover" />
          ) : (
            <span className="size-7 bg-mount" />
          )}
          <span className="truncate text-xs">{chip.name}</span>
        </button>
      ))}
      {settled !== '' && data && chips.length === 0 && <span className="text-xs text-quiet">Nothing is called that.</span>}
    </span>
  )
}
