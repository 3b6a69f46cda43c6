import { Download, Inbox } from 'lucide-react'
import { Fragment, useMemo, useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import { toast } from 'sonner'
import type { AuditClass } from '#core/audit/reference'
import { hasEveryWord } from '#core/find/words/fold-words'
import { CLASS_ORDER, CLASS_WORDS } from '#shared/audit-words'
import { MOST_TAKEN_OUT, SCENE_FILE_FORMS, type SceneAuditView } from '#shared/contracts/audits.contract'
import { formatBytes, formatNumber } from '#shared/units'
import { tellProblem } from '../../../components/bulk-words'
import { Button } from '../../../components/controls/Button'
import { Choice } from '../../../components/controls/Choice'
import { ListSearch } from '../../../components/controls/ListSearch'
import { ToolMenu, ToolMenuEntry } from '../../../components/controls/ToolMenu'
import { EmptyState, Progress, Skeleton, Trouble } from '../../../components/Notice'
import { PageHead } from '../../../components/Page'
import { useKey } from '../../../components/use-key'
import { useCorrectSceneMutation, useGetAuditQuery, useRemoveAuditMutation, useTakeOutOfSceneMutation } from '../../../state/api'
import { plural } from '../../../words/states'
import { SharesBar } from './SharesBar'
import { keyOfThing, ThingList } from './ThingList'
import { type Thing, ThingView } from './ThingView'

/** A scene looked through: what in it is as pinned, what is not and why, and the way back. */
export function AuditPlace() {
  const id = Number(useParams().id)
  const { data: audit, error, refetch } = useGetAuditQuery({ id }, { skip: !Number.isInteger(id) })
  if (error) return <Trouble error={error} onRetry={refetch} />
  if (!audit)
    return (
      <div className="px-6 py-5">
        <Skeleton className="h-96" />
      </div>
    )
  return <Audit key={audit.id} audit={audit} />
}

const thingsOf = ({ materials, models, lights }: SceneAuditView): Thing[] =>
  [
    ...materials.map(m => ({ kind: 'material' as const, ...m })),
    ...joinAlike(models).map(m => ({ kind: 'model' as const, ...m })),
    ...lights.map(l => ({ kind: 'light' as const, ...l })),
  ].sort((a, b) => CLASS_ORDER.indexOf(a.class) - CLASS_ORDER.indexOf(b.class))

/** Models of one version about which there is nothing to say stand in one line, with how often they are there. */
function joinAlike(models: SceneAuditView['models']): SceneAuditView['models'] {
  const joined = new Map<string, SceneAuditView['models'][number]>()
  for (const m of models) {
    const isPlain = m.code !== null && m.changes.length + m.remarks.length === 0 && !m.isCorrectable
    const key = isPlain ? `${m.class} ${m.code} ${m.version}` : `${m.node}`
    const known = joined.get(key)
    joined.set(key, known ? { ...known, uses: known.uses + m.uses } : m)
  }
  return [...joined.values()]
}

/** So many are seen at a look. */
const FEW = 12

function Audit({ audit }: { audit: SceneAuditView }) {
  const things = useMemo(() => thingsOf(audit), [audit])
  const [shownClass, setShownClass] = useState<AuditClass | 'all'>('all')
  const [picked, setLeft] = useState<ReadonlySet<string> | null>(null)
  // Of editable copies what is different is meant.
  const left = useMemo(() => picked ?? new Set(things.filter(t => t.isCopy).map(keyOfThing)), [picked, things])
  const [at, setAt] = useState<string | null>(null)
  const [correct, { isLoading }] = useCorrectSceneMutation()
  const [words, setWords] = useState('')
  const shown = useMemo(
    () =>
      things.filter(
        t => (shownClass === 'all' || t.class === shownClass) && hasEveryWord(`${t.name} ${t.code ?? ''} ${t.itemName}`, words),
      ),
    [things, shownClass, words],
  )
  const current = shown.find(t => keyOfThing(t) === at) ?? shown[0]
  const wanted = things.filter(t => t.isCorrectable && !left.has(keyOfThing(t)))
  const isWriting = audit.correction?.state === 'waiting' || audit.correction?.state === 'writing'
  const putBack = async () => {
    const result = await correct({
      id: audit.id,
      materials: wanted.flatMap(t => (t.kind === 'material' ? [t.index] : [])),
      models: wanted.flatMap(t => (t.kind === 'model' ? [t.node] : [])),
      lights: wanted.flatMap(t => (t.kind === 'light' ? [t.node] : [])),
    })
    if (result.error) tellProblem(result.error)
  }
  const go = (by: number) => {
    const next = shown[Math.min(shown.length - 1, Math.max(0, shown.indexOf(current) + by))]
    if (next) setAt(keyOfThing(next))
  }
  useKey('j', () => go(1))
  useKey('k', () => go(-1))
  const mark = (key: string, on: boolean) => {
    const next = new Set(left)
    if (on) next.delete(key)
    else next.add(key)
    setLeft(next)
  }
  return (
    <div className="flex h-full flex-col px-6 pt-4">
      <PageHead
        from={
          audit.projectId === null
            ? { to: '/projects', text: 'Projects' }
            : { to: `/projects/${audit.projectId}`, text: audit.project }
        }
        title={audit.title}
        facts={
          audit.state === 'ready' &&
          `${plural(audit.materials.length, 'material')}, ${plural(audit.models.length, 'model')}${audit.lights.length > 0 ? `, ${plural(audit.lights.length, 'light')}` : ''}; ${formatNumber(audit.triangles, 0)} triangles`
        }
        actions={
          audit.state === 'ready' && (
            <>
              <Link to={`/audits/${audit.id}/beside`} className="underline hover:text-ink">
                Beside another
              </Link>
              <Link to={`/audits/${audit.id}/schedule`} className="underline hover:text-ink">
                Schedule
              </Link>
              <a href={`/api/audits/${audit.id}/report`} download className="mr-2 underline hover:text-ink">
                Report
              </a>
              <Choice
                label="Which"
                value={shownClass}
                onChange={setShownClass}
                className="w-44"
                options={[
                  { value: 'all', text: `all ${things.length}` },
                  ...CLASS_ORDER.filter(c => things.some(t => t.class === c)).map(c => ({
                    value: c,
                    text: `${things.filter(t => t.class === c).length} ${CLASS_WORDS[c]}`,
                  })),
                ]}
              />
              <ToIntake audit={audit} shown={shown} current={current} />
              <Forget audit={audit} />
              <Button
                variant={audit.correction === null ? 'next' : undefined}
                disabled={wanted.length === 0 || isLoading || isWriting}
                onClick={putBack}
                title="Writes the scene with library versions in their places; everything else stays as it is"
              >
                Put back {wanted.length}
              </Button>
            </>
          )
        }
      />
      {audit.state === 'failed' ? (
        <EmptyState title="The scene would not read.">
          <p className="mb-3">{audit.message}</p>
          <Forget audit={audit} />
        </EmptyState>
      ) : audit.state !== 'ready' || !audit.shares ? (
        <div role="status" className="mx-auto mt-20 w-96">
          <p className="mb-2">{audit.step || 'In line'}</p>
          <Progress share={audit.share} label={audit.step || 'In line'} />
        </div>
      ) : (
        <>
          <Correction audit={audit} />
          <div className="mb-4 grid grid-cols-2 gap-8">
            <SharesBar shares={audit.shares.byArea} label="By surface" />
            <SharesBar shares={audit.shares.byCount} label="By number" />
          </div>
          {(audit.failures.length > 0 || audit.notCompared > 0) && (
            <p className="mb-3 border-l-2 border-ink pl-2 text-xs">
              {audit.failures.length > 0 &&
                `${plural(audit.failures.length, 'mesh', 'meshes')} would not read: ${audit.failures.join(', ')}. `}
              {audit.notCompared > 0 &&
                `Compared with ${audit.comparedWith} versions; ${audit.notCompared} more were never looked at before. Audit it again to go on with them.`}
            </p>
          )}
          {things.length === 0 ? (
            <EmptyState title="There is nothing in this scene that the library could know.">
              It has no materials and no models.
            </EmptyState>
          ) : (
            <div className="grid min-h-0 flex-1 grid-cols-[21rem_minmax(0,1fr)] gap-6">
              <div className="flex min-h-0 flex-col">
                {things.length > FEW && (
                  <ListSearch label="Among what is in the scene" words={words} onWords={setWords} className="mb-2 w-full" />
                )}
                <ThingList things={shown} current={current} left={left} onOpen={setAt} onMark={mark} />
                {shown.length === 0 && <p className="py-6 text-quiet">Nothing in it is called so.</p>}
              </div>
              {current && <ThingView key={keyOfThing(current)} thing={current} />}
            </div>
          )}
        </>
      )}
    </div>
  )
}

const SCENE_FORM_WORDS: Record<(typeof SCENE_FILE_FORMS)[number], string> = {
  gltf: 'glTF with its files',
  usdz: 'OpenUSD',
  obj: 'OBJ (no lights, no cameras)',
}

/** What came of putting things back: the scene to take along, and whether it is clean now. */
function Correction({ audit: { correction: c } }: { audit: SceneAuditView }) {
  const { data: again } = useGetAuditQuery({ id: c?.auditId ?? 0 }, { skip: !c?.auditId })
  if (!c) return null
  if (c.state === 'failed') return <p className="mb-3 border-l-2 border-ink pl-2">{c.message}</p>
  if (c.state !== 'ready')
    return (
      <div role="status" className="mb-3 bg-sheet px-3 py-2">
        The scene is being written.
      </div>
    )
  const wrong = again
    ? [...again.materials, ...again.models, ...again.lights].filter(t => t.isCorrectable && !t.isCopy).length
    : null
  return (
    <div className="mb-3 bg-sheet px-3 py-2">
      <div className="flex items-center gap-4">
        <span>
          {plural(c.done, 'thing was', 'things were')} put back.{' '}
          {again?.state === 'ready'
            ? wrong === 0
              ? 'Audited again: clean.'
              : `Audited again: ${plural(wrong ?? 0, 'thing is', 'things are')} still not as pinned.`
            : 'What was written is being audited again.'}
        </span>
        {c.auditId !== null && (
          <Link to={`/audits/${c.auditId}`} className="underline">
            Its audit
          </Link>
        )}
        {c.url && (
          <a
            href={c.url}
            download
            className="ml-auto inline-flex h-8 items-center gap-1.5 rounded-sm bg-accent px-3 font-semibold text-on-accent hover:brightness-105"
          >
            <Download aria-hidden className="size-4" />
            The scene{c.bytes !== null && `, ${formatBytes(c.bytes)}`}
          </a>
        )}
      </div>
      {c.url && (
        <p className="mt-1 text-right text-xs text-quiet">
          Binary glTF has all of it. In another form:{' '}
          {SCENE_FILE_FORMS.map((form, i) => (
            <Fragment key={form}>
              {i > 0 && ', '}
              <a href={`${c.url}?form=${form}`} download className="underline hover:text-ink">
                {SCENE_FORM_WORDS[form]}
              </a>
            </Fragment>
          ))}
        </p>
      )}
      {c.refused.length > 0 && (
        <ul className="mt-1 text-xs">
          {c.refused.map(r => (
            <li key={`${r.name} ${r.why}`}>
              <span className="font-medium">{r.name}</span> was left as it is: {r.why}
            </li>
          ))}
        </ul>
      )}
    </div>
  )
}

/** What is foreign and good begins in Intake like any delivery: materials with their maps, models with their parts; equal ones once. */
function ToIntake({ audit, shown, current }: { audit: SceneAuditView; shown: readonly Thing[]; current: Thing | undefined }) {
  const [takeOut, { isLoading }] = useTakeOutOfSceneMutation()
  const navigate = useNavigate()
  const foreign = shown.filter(t => t.class === 'foreign')
  const materials = foreign.flatMap(t => (t.kind === 'material' ? [t.index] : [])).slice(0, MOST_TAKEN_OUT)
  const models = foreign.flatMap(t => (t.kind === 'model' ? [t.node] : [])).slice(0, MOST_TAKEN_OUT)
  if (materials.length + models.length === 0) return null
  const sayAll = (list: readonly number[]) => (list.length === MOST_TAKEN_OUT ? `The first ${MOST_TAKEN_OUT} ` : '')
  const send = async (what: { materials?: number[]; models?: number[] }) => {
    const result = await takeOut({ id: audit.id, ...what })
    if (result.data) navigate(`/intake/${result.data.id}`)
    else tellProblem(result.error)
  }
  const one = current?.class === 'foreign' && current.kind !== 'light' ? current : null
  return (
    <ToolMenu icon={Inbox} label={isLoading ? 'Taking them out' : 'Foreign to Intake'}>
      {materials.length > 0 && (
        <ToolMenuEntry count={materials.length} onClick={() => void send({ materials })}>
          {sayAll(materials) ? `${sayAll(materials)}materials` : 'Materials'}, with their maps
        </ToolMenuEntry>
      )}
      {models.length > 0 && (
        <ToolMenuEntry count={models.length} onClick={() => void send({ models })}>
          {sayAll(models) ? `${sayAll(models)}models` : 'Models'}, with their parts
        </ToolMenuEntry>
      )}
      {materials.length > 0 && models.length > 0 && (
        <ToolMenuEntry count={materials.length + models.length} onClick={() => void send({ materials, models })}>
          Both
        </ToolMenuEntry>
      )}
      {one && (
        <ToolMenuEntry
          isLast
          onClick={() => void send(one.kind === 'material' ? { materials: [one.index] } : { models: [one.node] })}
        >
          Only {one.name || 'this one'}
        </ToolMenuEntry>
      )}
    </ToolMenu>
  )
}

function Forget({ audit }: { audit: SceneAuditView }) {
  const [remove] = useRemoveAuditMutation()
  const navigate = useNavigate()
  const forget = async () => {
    const result = await remove({ id: audit.id })
    if (result.error) return tellProblem(result.error)
    toast(`${audit.title} is forgotten; its files in the project are not touched.`)
    navigate(audit.projectId === null ? '/projects' : `/projects/${audit.projectId}`)
  }
  return (
    <Button variant="bare" onClick={forget}>
      Forget it
    </Button>
  )
}
