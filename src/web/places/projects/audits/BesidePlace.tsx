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

/** Two audited scenes beside each other: whether they show the same materials, and what makes the difference. */
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
        facts={data && `${plural(data.materials.length, 'material')} in both`}
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
              : 'What both have of the library is compared: parameters, maps, and how large it is laid.'}
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

function Both({ beside }: { beside: Beside }) {
  const { own, other, materials, onlyOwn, onlyOther } = beside
  const [at, setAt] = useState(0)
  const current = materials[Math.min(at, materials.length - 1)]
  useKey('j', () => setAt(n => Math.min(materials.length - 1, n + 1)))
  useKey('k', () => setAt(n => Math.max(0, n - 1)))
  if (!current)
    return (
      <EmptyState title="They have no material of the library in common.">
        <Only {...{ own, other, onlyOwn, onlyOther }} />
      </EmptyState>
    )
  const same = materials.filter(m => m.changes.length === 0).length
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[20rem_minmax(0,1fr)] gap-8">
      <div className="min-h-0 overflow-y-auto pb-8">
        <p className="mb-2 text-quiet">
          {same === materials.length
            ? 'All of them are the same in both.'
            : `${same} of ${materials.length} are the same in both.`}
        </p>
        <ul aria-label="Materials of both">
          {materials.map((m, k) => (
            <li key={m.code} className="border-t border-line">
              <button
                type="button"
                aria-pressed={m === current}
                onClick={() => setAt(k)}
                className={`grid w-full grid-cols-[minmax(0,1fr)_auto] gap-2 px-2 py-1.5 text-left ${m === current ? 'bg-mount' : 'hover:bg-mount/60'}`}
              >
                <span className="min-w-0">
                  <span className="block truncate font-medium">{m.itemName || m.own.name}</span>
                  <span className="figures text-xs text-quiet">{m.code}</span>
                </span>
                <span className={`text-xs ${m.changes.length > 0 ? 'font-medium' : 'text-quiet'}`}>
                  {m.changes.length > 0 ? plural(m.changes.length, 'difference') : 'the same'}
                </span>
              </button>
            </li>
          ))}
        </ul>
        <div className="mt-4">
          <Only {...{ own, other, onlyOwn, onlyOther }} />
        </div>
      </div>
      <OnePair key={current.code} pair={current} beside={beside} />
    </div>
  )
}

function OnePair({ pair, beside: { own, other } }: { pair: Pair; beside: Beside }) {
  const location = useLocation()
  const { data: pictures, error } = useGetBesidePicturesQuery({ id: own.id, other: other.id, code: pair.code })
  return (
    <section aria-label={pair.itemName || pair.code} className="min-h-0 overflow-y-auto pb-8">
      <h2 className="truncate text-section">{pair.itemName || pair.own.name}</h2>
      <p className="mb-4 text-quiet">
        <Link to={`/items/${pair.code}`} state={{ behind: location }} className="figures text-ink underline">
          {pair.code}
        </Link>
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
        <p>Parameters, maps and the size of a repeat are the same.</p>
      )}
    </section>
  )
}

function Only({ own, other, onlyOwn, onlyOther }: Pick<Beside, 'own' | 'other' | 'onlyOwn' | 'onlyOther'>) {
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
