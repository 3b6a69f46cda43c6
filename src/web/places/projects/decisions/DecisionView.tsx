import { format } from 'date-fns'
import { type ReactNode, useState } from 'react'
import { Link, useLocation } from 'react-router'
import { toast } from 'sonner'
import type { Decision } from '#shared/contracts/decisions.contract'
import type { Project } from '#shared/contracts/projects.contract'
import { factLabel, formatBytes, formatFact } from '#shared/units'
import { tellProblem } from '../../../components/bulk-words'
import { Button } from '../../../components/controls/Button'
import { Choice } from '../../../components/controls/Choice'
import { Tabs } from '../../../components/controls/Tabs'
import { PreviewFrame } from '../../../components/PreviewFrame'
import { toImageData } from '../../../components/tracing/to-image-data'
import { useOrderComparisonMutation, useReplacePinMutation } from '../../../state/api'
import { plural, roleWord } from '../../../words/states'
import { PAIR_MODES, type PairMode, PairView } from '../../compare/PairView'
import type { Spot } from '../../compare/PictureStage'
import { usePictures } from '../../compare/use-pictures'
import { type View, WHOLE } from '../../compare/view-state'

interface Props {
  decision: Decision
  project: Project
  mayDecide: boolean
  onTake: () => void
  onStay: () => void
  onAgain: () => void
}

/** One thing to decide: how it looks in either version, what it says differently, and where the project shows it. */
export function DecisionView({ decision: d, project, mayDecide, onTake, onStay, onAgain }: Props) {
  const location = useLocation()
  return (
    <section aria-label={d.name} className="min-h-0 overflow-y-auto pb-8">
      <header className="mb-3 flex flex-wrap items-center gap-3">
        <div className="min-w-0">
          <h2 className="truncate text-section">{d.name}</h2>
          <p className="text-xs text-quiet">
            <Link to={`/items/${d.code}`} state={{ behind: location }} className="figures underline">
              {d.code}
            </Link>{' '}
            {d.isWithdrawn
              ? 'was withdrawn from the library'
              : `version ${d.to.number} by ${d.to.author}, ${format(new Date(d.to.createdAt), 'd MMM yyyy')}${d.to.note ? `: ${d.to.note}` : ''}`}
          </p>
        </div>
        <div className="ml-auto flex gap-2">
          {d.stays ? (
            <Button onClick={onAgain} disabled={!mayDecide}>
              Decide again
            </Button>
          ) : (
            <>
              <Button onClick={onStay} disabled={!mayDecide} title="Key S">
                Leave version {d.from.number}
              </Button>
              {!d.isWithdrawn && (
                <Button variant="next" onClick={onTake} disabled={!mayDecide} title="Key T">
                  Take version {d.to.number}
                </Button>
              )}
            </>
          )}
        </div>
      </header>
      {!mayDecide && (
        <p className="mb-3 border-l-2 border-ink pl-2 text-xs">
          {project.phase === 'open'
            ? `${project.people.map(p => p.name).join(', ')} decide${project.people.length === 1 ? 's' : ''} for ${project.code}.`
            : `${project.code} is ${project.phase}: it keeps its versions until somebody opens it again.`}
        </p>
      )}
      {d.stays && (
        <p className="mb-3 border-l-2 border-ink pl-2 text-xs">
          Stays at version {d.from.number}
          {d.stays.until ? ` until ${format(new Date(d.stays.until), 'd MMM yyyy')}` : ' until the next version'}: {d.stays.why} (
          {d.stays.person})
        </p>
      )}
      {d.isWithdrawn ? <Replacements decision={d} projectId={project.id} mayDecide={mayDecide} /> : <Looks decision={d} />}
      <div className="mt-6 grid grid-cols-2 gap-8">
        <div>
          <Changes decision={d} />
        </div>
        <UsedIn decision={d} projectId={project.id} />
      </div>
    </section>
  )
}

function Looks({ decision: d }: { decision: Decision }) {
  const [mode, setMode] = useState<PairMode>('wiper')
  const [view, setView] = useState<View>(WHOLE)
  const [spot, setSpot] = useState<Spot | null>(null)
  const versions = [d.from, d.to]
  const compared = versions.map(v => ({ name: `Version ${v.number}`, preview: v.preview }))
  const loaded = usePictures(compared, p => toImageData(p.display))
  const { preview } = d.to
  const aspect = preview ? preview.width / preview.height : undefined
  return (
    <>
      <div className="mb-2">
        <Tabs label="Way of comparing" tabs={PAIR_MODES} value={mode} onChange={setMode} />
      </div>
      {/* As high as leaves room for what changed. */}
      <div style={{ maxWidth: `calc((100vh - 29rem) * ${aspect ?? 1.333} + 19.5rem)`, minWidth: '44rem' }}>
        <PairView
          mode={mode}
          compared={compared}
          pictures={loaded}
          pair={[0, 1]}
          onPair={() => {}}
          view={view}
          onView={setView}
          spot={spot}
          onSpot={setSpot}
          aspect={aspect}
          caption={index => (
            <p>
              <span className="figures mr-2">{'AB'[index]}</span>
              Version {versions[index].number}
              <span className="block text-xs text-quiet">{index === 0 ? 'pinned here' : 'approved now'}</span>
            </p>
          )}
        />
      </div>
    </>
  )
}

function Changes({ decision: d }: { decision: Decision }) {
  const heavier = d.to.bytes - d.from.bytes
  const isNothing = d.facts.length + d.files.length + d.partsGone.length + d.partsNew.length === 0
  if (d.isWithdrawn) return null
  return (
    <section aria-label="What changed">
      <h3 className="mb-2 font-medium">What changed</h3>
      {isNothing && <p className="text-quiet">Nothing in its facts or files.</p>}
      {d.facts.length > 0 && (
        <table className="w-full">
          <thead className="sr-only">
            <tr>
              <th>Fact</th>
              <th>Version {d.from.number}</th>
              <th>Version {d.to.number}</th>
            </tr>
          </thead>
          <tbody>
            {d.facts.map(f => (
              <tr key={f.name} className="border-t border-line align-top">
                <td className="py-1 pr-3 text-quiet">{factLabel(f.name)}</td>
                <td className="figures py-1 pr-3 text-right">{sayFact(f.name, f.before)}</td>
                <td className="figures py-1 text-right font-medium">
                  {sayFact(f.name, f.after)}
                  {f.growth !== null && <span className="block text-xs font-normal text-quiet">{sayShare(f.growth)}</span>}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {(d.partsGone.length > 0 || d.partsNew.length > 0) && (
        <Line text="Parts">{[...d.partsGone.map(p => `${p} is gone`), ...d.partsNew.map(p => `${p} is new`)].join(', ')}</Line>
      )}
      {d.files.map(f => (
        <Line key={`${f.role} ${f.path}`} text={roleWord(f.role)}>
          {f.kind === 'added' ? 'added' : f.kind === 'gone' ? 'gone' : 'changed'}
          {f.byteGrowth !== 0 && `, ${f.byteGrowth > 0 ? '+' : '−'}${formatBytes(Math.abs(f.byteGrowth))}`}
        </Line>
      ))}
      {heavier !== 0 && (
        <Line text="Weight">
          {formatBytes(d.from.bytes)} to {formatBytes(d.to.bytes)}
        </Line>
      )}
    </section>
  )
}

const sayFact = (name: string, value: Decision['facts'][number]['before']): string =>
  value === null ? 'none' : formatFact(name, value)
const sayShare = (growth: number): string => `${growth > 0 ? '+' : '−'}${Math.abs(growth * 100).toFixed(growth < 0.1 ? 1 : 0)} %`

const Line = ({ text, children }: { text: string; children: ReactNode }) => (
  <p className="flex justify-between gap-3 border-t border-line py-1">
    <span className="text-quiet">{text}</span>
    <span className="figures text-right">{children}</span>
  </p>
)

/** The project's mock-ups that show it; a shot can be rendered with either version before anything is decided. */
function UsedIn({ decision: d, projectId }: { decision: Decision; projectId: number }) {
  const [order, { isLoading }] = useOrderComparisonMutation()
  const see = async (mockUpId: number, shot: string) => {
    const result = await order({ id: projectId, itemId: d.itemId, mockUpId, shot })
    if (result.error) tellProblem(result.error)
    else toast.success('Both are being rendered; they are among the pictures of the mock-up.')
  }
  return (
    <section aria-label="Where this project shows it">
      <h3 className="mb-2 font-medium">Where this project shows it</h3>
      {d.mockUps.length === 0 && <p className="text-quiet">In none of its mock-ups.</p>}
      <ul>
        {d.mockUps.map(m => (
          <li key={m.id} className="border-t border-line py-1.5">
            <p className="flex items-center gap-2">
              <Link to={`/mock-ups/${m.id}`} className="min-w-0 flex-1 truncate hover:underline">
                {m.title}
              </Link>
              {m.pieces > 0 && <span className="figures text-xs text-quiet">{plural(m.pieces, 'piece')}</span>}
            </p>
            {m.breaks.length > 0 && (
              <p className="text-xs font-medium">What was put on {m.breaks.join(', ')} would have no part to go to.</p>
            )}
            {!d.isWithdrawn && m.shots.length > 0 && (
              <Choice
                label={`Render a shot of ${m.title} with either version`}
                value=""
                onChange={shot => shot !== '' && !isLoading && void see(m.id, shot)}
                options={[
                  { value: '', text: 'Render a shot with either version' },
                  ...m.shots.map(s => ({ value: s.id, text: s.name })),
                ]}
                className="mt-1 w-full"
              />
            )}
          </li>
        ))}
      </ul>
    </section>
  )
}

/** Of what was withdrawn: what looks most like it. */
function Replacements({ decision: d, projectId, mayDecide }: { decision: Decision; projectId: number; mayDecide: boolean }) {
  const [replace, { isLoading }] = useReplacePinMutation()
  const put = async (byId: number, name: string) => {
    const result = await replace({ id: projectId, itemId: d.itemId, byId })
    if (result.error) tellProblem(result.error)
    else toast.success(`${name} is in its place, in the mock-ups too.`)
  }
  return (
    <div className="grid grid-cols-4 gap-4">
      <figure>
        <PreviewFrame url={d.from.preview?.url ?? null} alt={d.name} />
        <figcaption className="mt-1 text-xs text-quiet">pinned here, version {d.from.number}</figcaption>
      </figure>
      {d.replacements.map(chip => (
        <figure key={chip.id}>
          <PreviewFrame url={chip.preview} alt={chip.name} />
          <figcaption className="mt-1">
            <span className="block truncate">{chip.name}</span>
            <span className="figures block text-xs text-quiet">{chip.code}</span>
            <Button className="mt-1" disabled={!mayDecide || isLoading} onClick={() => put(chip.id, chip.name)}>
              Put it in the place
            </Button>
          </figcaption>
        </figure>
      ))}
      {d.replacements.length === 0 && (
        <p className="col-span-3 self-center text-quiet">
          Nothing that is approved looks like it. Carry another item into the project from the wall, and take this one out.
        </p>
      )}
    </div>
  )
}
