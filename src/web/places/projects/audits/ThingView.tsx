import type { ReactNode } from 'react'
import { Link, useLocation } from 'react-router'
import { CLASS_WORDS } from '#shared/audit-words'
import type { AuditedMaterialView, AuditedModelView, SceneAuditView } from '#shared/contracts/audits.contract'
import { formatNumber } from '#shared/units'
import { PreviewFrame } from '../../../components/PreviewFrame'
import { plural } from '../../../words/states'
import { CLASS_HINTS } from './audit-words'
import { ChangesTable } from './ChangesTable'

export type Thing =
  | ({ kind: 'material' } & AuditedMaterialView)
  | ({ kind: 'model' } & AuditedModelView)
  | ({ kind: 'light' } & SceneAuditView['lights'][number])

/** One thing of a scene: what it is, by what that is known, and what is not as it should be. */
export function ThingView({ thing: t }: { thing: Thing }) {
  const location = useLocation()
  return (
    <section aria-label={t.name} className="min-h-0 overflow-y-auto pb-8">
      <h2 className="truncate text-section" title={t.name}>
        {t.name || 'without a name'}
      </h2>
      <p className="mb-4 text-quiet">
        {t.kind === 'material' && t.ofModel !== null && t.code !== null ? 'A material of the model ' : ''}
        {t.code !== null && (
          <>
            <Link to={`/items/${t.code}`} state={{ behind: location }} className="figures text-ink underline">
              {t.code}
            </Link>{' '}
            {t.itemName}, version {t.version},{' '}
          </>
        )}
        <span className="font-medium text-ink">{CLASS_WORDS[t.class]}</span>. {CLASS_HINTS[t.class]}
      </p>
      {t.kind === 'material' && t.pictures && <Pictures material={t} />}
      {t.remarks.length > 0 && (
        <ul className="mb-4 border-l-2 border-ink pl-2">
          {t.remarks.map(remark => (
            <li key={remark}>{remark}</li>
          ))}
        </ul>
      )}
      <div className="grid grid-cols-2 items-start gap-8">
        <div>
          {t.changes.length > 0 && (
            <Part title="What is different">
              <ChangesTable changes={t.changes} heads={['library', 'here']} />
            </Part>
          )}
          {t.nearest.length > 0 && <Nearest nearest={t.nearest} />}
        </div>
        <div>
          {t.evidence.length > 0 && (
            <Part title="Known by">
              <ul>
                {t.evidence.map(e => (
                  <li key={e.text} className="border-t border-line py-1">
                    {e.text}
                  </li>
                ))}
              </ul>
            </Part>
          )}
          {t.kind === 'material' && (
            <Part title="Lies on">
              <p className="border-t border-line py-1">
                {formatNumber(t.areaM2)} m² of surface
                <span className="block text-xs text-quiet">{t.places.join(', ')}</span>
              </p>
            </Part>
          )}
          {t.kind === 'model' && t.uses > 1 && <p className="border-t border-line py-1">Stands here {plural(t.uses, 'time')}</p>}
        </div>
      </div>
    </section>
  )
}

function Pictures({ material: { pictures, flipMean, deltaE00, version } }: { material: AuditedMaterialView }) {
  const [own, library] = pictures!
  return (
    <figure className="mb-4">
      <div className="grid max-w-2xl grid-cols-2 gap-2">
        <img src={library} alt={`As version ${version} of the library`} className="w-full bg-mount" />
        <img src={own} alt="As it is in this scene" className="w-full bg-mount" />
        <span className="text-xs text-quiet">Version {version} of the library</span>
        <span className="text-xs text-quiet">As it is in this scene</span>
      </div>
      <figcaption className="mt-1 text-xs">
        On the rig: FLIP <span className="figures">{flipMean!.toFixed(3)}</span>, ΔE00{' '}
        <span className="figures">{deltaE00!.toFixed(1)}</span> of the means
      </figcaption>
    </figure>
  )
}

const Part = ({ title, children }: { title: string; children: ReactNode }) => (
  <section className="mb-5">
    <h3 className="mb-1 font-medium">{title}</h3>
    {children}
  </section>
)

/** The items that look most like it. */
function Nearest({ nearest }: { nearest: Thing['nearest'] }) {
  const location = useLocation()
  return (
    <Part title="Most like it in the library">
      <ul className="grid grid-cols-3 gap-2">
        {nearest.map(n => (
          <li key={n.code}>
            <Link to={`/items/${n.code}`} state={{ behind: location }} className="block hover:underline">
              <PreviewFrame url={n.preview} alt="" />
              <span className="block truncate text-xs">{n.name}</span>
              <span className="figures text-2xs text-quiet">{n.code}</span>
              <span className="block text-xs text-quiet">{n.distance.toFixed(2)} apart</span>
            </Link>
          </li>
        ))}
      </ul>
    </Part>
  )
}
