import { useState } from 'react'
import { Link, useLocation, useNavigate, useParams } from 'react-router'
import { CLASS_WORDS } from '#shared/audit-words'
import type { Beside } from '#shared/contracts/audits.contract'
import { formatNumber } from '#shared/units'
import { Choice } from '../../../components/controls/Choice'
import { EmptyState, Skeleton, Trouble } from '../../../components/Notice'
import { PageHead } from '../../../components/Page'
import { useKey } from '../../../components/use-key'
import { useGetBesidePicturesQuery, useGetBesideQuery, useListAuditedScenesQuery } from '../../../state/api'
import { plural } from '../../../words/states'
import { ChangesTable } from './ChangesTable'

type Pair = Beside['materials'][number]

const nameOf = ({ project, title }: Beside['own']): string => (project ? `${project}, ${title}` : title)

/** Two audited scenes beside each other: whether they show the same, and what makes the difference. */
export function BesidePlace() {
  const params = useParams()
  const [id, other] = [Number(params.id), params.other === undefined ? null : Number(params.other)]
  const navigate = useNavigate()
  const { data: scenes = [] } = useListAuditedScenesQuery()
  const { data, error, refetch } = useGetBesideQuery({ id, other: other ?? 0 }, { skip: other === null })
  const own = scenes.find(s => s.id === id)
  const others = scenes.filter(s => s.id !== id)
  return (
    <div className="flex h-full flex-col px-6 pt-4">
      <PageHead
        from={{ to: `/audits/${id}`, text: own ? nameOf(own) : 'Scene' }}
        title="Beside another scene"
        facts={data && `${plural(data.materials.length, 'material')} and ${plural(data.models.length, 'model')} in both`}
        actions={
          <Choice
            label="The other scene"
            value={other === null ? '' : String(other)}
            onChange={next => navigate(`/audits/${id}/beside/${next}`, { replace: true })}
            options={[
              ...(other === null ? [{ value: '', text: 'Choose a scene' }] : []),
              ...others.map(s => ({ value: String(s.id), text: nameOf(s) })),
            ]}
            className="w-72"
          />
        }
      />
      {error ? (
        <Trouble error={error} onRetry={refetch} />
      ) : other === null ? (
        <EmptyState title={others.length === 0 ? 'No other scene was audited yet.' : 'Which scene shall stand beside it?'}>
          <p>
            {others.length === 0
              ? 'Audit one in its project, then hold the two beside each other.'
              : 'What both have is compared: materials and how large they are laid, models, lights, and the sky and exposure of views.'}
          </p>
        </EmptyState>
      ) : data ? (
        <Both key={`${id} ${other}`} beside={data} />
      ) : (
        <div role="status" aria-label="Reading both scenes">
          <p className="mb-2 text-quiet">Reading both scenes</p>
          <Skeleton className="h-80" />
        </div>
      )}
    </div>
  )
}

/** One line of the list: what both scenes have, and what is different about it. */
interface Line {
  key: string
  kind: 'material' | 'model' | 'light' | 'view'
  name: string
  code: string | null
  changes: Beside['views'][number]['changes']
  /** Of a model or a light. */
  thing?: Beside['models'][number]
}

const KINDS: readonly { kind: Line['kind']; title: string }[] = [
  { kind: 'view', title: 'Views' },
  { kind: 'material', title: 'Materials' },
  { kind: 'model', title: 'Models' },
  { kind: 'light', title: 'Lights' },
]

const linesOf = ({ materials, models, lights, views }: Beside): Line[] => [
  ...views.map((v, k) => ({ key: `view ${k}`, kind: 'view' as const, code: null, ...v })),
  ...materials.map(m => ({
    ...{ key: `material ${m.code}`, kind: 'material' as const, name: m.itemName || m.own.name },
    ...{ code: m.code, changes: m.changes },
  })),
  ...models.map(m => ({ key: `model ${m.code}`, kind: 'model' as const, ...m, thing: m })),
  ...lights.map((l, k) => ({ key: `light ${k}`, kind: 'light' as const, ...l, thing: l })),
]

function Both({ beside }: { beside: Beside }) {
  const lines = linesOf(beside)
  const [key, setKey] = useState<string | null>(null)
  const at = Math.max(
    0,
    lines.findIndex(line => line.key === key),
  )
  const current = lines[at]
  useKey('j', () => setKey(lines[Math.min(lines.length - 1, at + 1)]?.key ?? null))
  useKey('k', () => setKey(lines[Math.max(0, at - 1)]?.key ?? null))
  if (!current)
    return (
      <EmptyState title="They have nothing in common.">
        <Only beside={beside} />
      </EmptyState>
    )
  const same = lines.filter(line => line.changes.length === 0).length
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[20rem_minmax(0,1fr)] gap-8">
      <div className="min-h-0 overflow-y-auto pb-8">
        <p className="mb-2 text-quiet">
          {same === lines.length ? 'All of it is the same in both.' : `${same} of ${lines.length} are the same in both.`}
        </p>
        {KINDS.map(({ kind, title }) => {
          const listed = lines.filter(line => line.kind === kind)
          return (
            listed.length > 0 && (
              <section key={kind} className="mb-4">
                <h2 className="mb-1 font-medium">{title}</h2>
                <ul aria-label={`${title} of both`}>
                  {listed.map(line => (
                    <LineButton key={line.key} line={line} isCurrent={line === current} onChoose={() => setKey(line.key)} />
                  ))}
                </ul>
              </section>
            )
          )
        })}
        <Only beside={beside} />
      </div>
      <OneLine key={current.key} line={current} beside={beside} />
    </div>
  )
}

function LineButton({ line, isCurrent, onChoose }: { line: Line; isCurrent: boolean; onChoose: () => void }) {
  const { name, code, changes } = line
  return (
    <li className="border-t border-line">
      <button
        type="button"
        aria-pressed={isCurrent}
        onClick={onChoose}
        className={`grid w-full grid-cols-[minmax(0,1fr)_auto] gap-2 px-2 py-1.5 text-left ${isCurrent ? 'bg-mount' : 'hover:bg-mount/60'}`}
      >
        <span className="min-w-0">
          <span className="block truncate font-medium">{name}</span>
          {code !== null && <span className="figures text-xs text-quiet">{code}</span>}
        </span>
        <span className={`text-xs ${changes.length > 0 ? 'font-medium' : 'text-quiet'}`}>
          {changes.length > 0 ? plural(changes.length, 'difference') : 'the same'}
        </span>
      </button>
    </li>
  )
}

/** What one line is about, and what is different about it. */
function OneLine({ line, beside }: { line: Line; beside: Beside }) {
  const { own, other, materials } = beside
  const material = line.kind === 'material' ? materials.find(m => m.code === line.code) : undefined
  if (material) return <OnePair pair={material} beside={beside} />
  const { thing } = line
  return (
    <section aria-label={line.name} className="min-h-0 overflow-y-auto pb-8">
      <h2 className="truncate text-section">{line.name}</h2>
      {line.code !== null && <ItemLink code={line.code} />}
      {thing?.preview && <img src={thing.preview} alt="" className="mt-3 w-64 bg-mount" />}
      <div className="mt-4 max-w-2xl">
        {thing && thing.code !== null && (
          <p className="mb-3 text-quiet">
            {[
              { scene: other, standing: thing.other },
              { scene: own, standing: thing.own },
            ].map(({ scene, standing }) => (
              <span key={scene.id} className="block">
                {nameOf(scene)}: {CLASS_WORDS[standing.class]}, version {standing.version}
              </span>
            ))}
          </p>
        )}
        {line.changes.length > 0 ? (
          <>
            <h3 className="mb-1 font-medium">What makes the difference</h3>
            <ChangesTable changes={line.changes} heads={[nameOf(other), nameOf(own)]} />
          </>
        ) : (
          <p>{SAME_WORDS[line.kind]}</p>
        )}
      </div>
    </section>
  )
}

const SAME_WORDS: Record<Line['kind'], string> = {
  view: 'Sky, exposure, lens and standpoint are the same, as far as both scenes say them.',
  material: 'Parameters, maps and the size of a repeat are the same.',
  model: 'Parts, triangles, size and how many there are are the same.',
  light: 'Kind, intensity, colour and beam are the same.',
}

function ItemLink({ code }: { code: string }) {
  const location = useLocation()
  return (
    <Link to={`/items/${code}`} state={{ behind: location }} className="figures text-ink underline">
      {code}
    </Link>
  )
}

function OnePair({ pair, beside: { own, other } }: { pair: Pair; beside: Beside }) {
  const { data: pictures, error } = useGetBesidePicturesQuery({ id: own.id, other: other.id, code: pair.code })
  return (
    <section aria-label={pair.itemName || pair.code} className="min-h-0 overflow-y-auto pb-8">
      <h2 className="truncate text-section">{pair.itemName || pair.own.name}</h2>
      <p className="mb-4 text-quiet">
        <ItemLink code={pair.code} />
      </p>
      <div className="mb-1 grid max-w-2xl grid-cols-2 gap-2">
        {[
          { scene: other, used: pair.other, url: pictures?.other },
          { scene: own, used: pair.own, url: pictures?.own },
        ].map(({ scene, used, url }) => (
          <figure key={scene.id} className="min-w-0">
            {url ? (
              <img src={url} alt={`As it is in ${nameOf(scene)}`} className="w-full bg-mount" />
            ) : (
              <Skeleton className="aspect-[4/3] w-full" />
            )}
            <figcaption className="mt-1 text-xs">
              <span className="block truncate font-medium">{nameOf(scene)}</span>
              <span className="text-quiet">
                {CLASS_WORDS[used.class]}, version {used.version}, {formatNumber(used.areaM2)} m²
              </span>
            </figcaption>
          </figure>
        ))}
      </div>
      <p role="status" className="mb-5 min-h-4 text-xs">
        {pictures
          ? `On the rig: FLIP ${pictures.flipMean.toFixed(3)}, ΔE00 ${pictures.deltaE00.toFixed(1)} of the means`
          : error
            ? 'They could not be rendered.'
            : 'Rendering both on the rig'}
      </p>
      {pair.changes.length > 0 ? (
        <div className="max-w-2xl">
          <h3 className="mb-1 font-medium">What makes the difference</h3>
          <ChangesTable changes={pair.changes} heads={[nameOf(other), nameOf(own)]} />
        </div>
      ) : (
        <p>{SAME_WORDS.material}</p>
      )}
    </section>
  )
}

function Only({ beside: { own, other, onlyOwn, onlyOther } }: { beside: Beside }) {
  return [
    { scene: own, codes: onlyOwn },
    { scene: other, codes: onlyOther },
  ].map(({ scene, codes }) =>
    codes.length > 0 ? (
      <p key={scene.id} className="mb-2 text-xs text-quiet">
        Only in {nameOf(scene)}: <span className="figures">{codes.join(', ')}</span>
      </p>
    ) : null,
  )
}
