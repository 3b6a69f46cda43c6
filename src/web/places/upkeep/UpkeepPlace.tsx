import { Link } from 'react-router'
import { STATES } from '#shared/contracts/chip.contract'
import { findingName } from '#shared/finding-words'
import { formatBytes } from '#shared/units'
import { Skeleton, Trouble } from '../../components/Notice'
import { Page, PageHead } from '../../components/Page'
import { useGetSessionQuery, useGetUpkeepQuery } from '../../state/api'
import { plural, SEVERITY_WORDS, STATE_WORDS } from '../../words/states'
import { FailedWorkSection } from './FailedWorkSection'
import { FidelitySection } from './FidelitySection'
import { OwnPictureSection } from './OwnPictureSection'

/** What there is to keep in order, in figures. */
export function UpkeepPlace() {
  const { data, error, refetch } = useGetUpkeepQuery()
  const { data: session } = useGetSessionQuery()
  if (error) return <Trouble error={error} onRetry={refetch} />
  if (!data)
    return (
      <div className="px-6 py-5">
        <Skeleton className="h-96" />
      </div>
    )
  const figures: [string, string][] = [
    ['Items', String(data.items)],
    ...STATES.filter(s => s !== 'withdrawn').map((s): [string, string] => [STATE_WORDS[s], String(data.byState[s] ?? 0)]),
    ['in no project', String(data.unused)],
    ['without a preview', String(data.withoutPreview)],
    ['previews in line', String(data.waitingPreviews)],
    ['Files', String(data.files)],
    ['Stored', formatBytes(data.bytes)],
  ]
  return (
    <Page>
      <div className="mx-auto max-w-[100rem]">
        <PageHead
          title="Upkeep"
          facts="What keeps the library in order"
          actions={
            session?.person?.role === 'lead' && (
              <Link to="/upkeep/record" className="rounded-sm border border-edge bg-mount px-3 py-1.5 hover:border-ink">
                Who did what
              </Link>
            )
          }
        />
      </div>
      <div className="mx-auto grid max-w-[100rem] grid-cols-[17rem_minmax(0,1fr)] gap-8">
        <section className="self-start rounded-sm bg-sheet p-4">
          <h2 className="mb-2 text-section">The library now</h2>
          <dl className="border-t border-line">
            {figures.map(([label, value]) => (
              <div key={label} className="flex justify-between border-b border-line py-1.5">
                <dt className="text-quiet">{label}</dt>
                <dd className="figures">{value}</dd>
              </div>
            ))}
          </dl>
        </section>
        <div className="flex flex-col gap-10">
          <FailedWorkSection mayEdit={session?.person?.role === 'lead'} />
          <section>
            <h2 className="mb-2 text-section">Open findings</h2>
            {data.findings.length === 0 ? (
              <p className="text-quiet">Every item passes every check.</p>
            ) : (
              <ul className="border-t border-line">
                {data.findings.map(f => (
                  <li key={f.code} className="grid grid-cols-[5.5rem_minmax(0,1fr)_6rem] gap-4 border-b border-line py-2">
                    <span className={f.severity === 'mustFix' ? 'font-semibold' : 'text-quiet'}>
                      {SEVERITY_WORDS[f.severity]}
                    </span>
                    <span>
                      <span className="block font-medium first-letter:uppercase">{findingName(f.code)}</span>
                      <span className="block text-xs text-quiet">{f.items > 1 ? `One of them: ${f.example}` : f.example}</span>
                    </span>
                    <Link
                      to={`/wall?finding=${f.code}`}
                      className="figures text-right text-xs underline decoration-quiet underline-offset-4 hover:decoration-ink"
                    >
                      {plural(f.items, 'item')}
                    </Link>
                  </li>
                ))}
              </ul>
            )}
          </section>
          <OwnPictureSection mayEdit={session?.person?.role === 'lead'} />
          <FidelitySection mayEdit={session?.person?.role === 'lead'} />
        </div>
      </div>
    </Page>
  )
}
