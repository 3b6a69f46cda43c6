import { HOUSE_RIGS } from '#core/render/house-rigs'
import { HOUSE_CATEGORIES } from '#core/standard/categories'
import { formatNumber } from '#shared/units'
import { useListCategoriesQuery } from '../../app/api'
import { Skeleton, Trouble } from '../../components/Notice'
import { Page } from '../../components/Page'
import { KIND_WORDS } from '../../words/states'

const range = (size?: [number, number]) => (size ? `${formatNumber(size[0])} – ${formatNumber(size[1])} m` : '')

/** The house rules as they stand: the tree, codes, rigs and budgets. */
export function StandardPlace() {
  const { data: categories, error, refetch } = useListCategoriesQuery()
  if (error) return <Trouble error={error} onRetry={refetch} />
  return (
    <Page>
      <div className="mx-auto grid max-w-6xl grid-cols-[minmax(0,1fr)_20rem] gap-10">
        <section>
          <h1 className="mb-3 text-lg font-medium">The house tree</h1>
          {!categories ? (
            <Skeleton className="h-96" />
          ) : (
            <table className="w-full border-collapse">
              <thead>
                <tr className="border-b border-line text-left text-xs text-quiet [&>th]:py-1.5 [&>th]:pr-3 [&>th]:font-normal">
                  <th>Category</th>
                  <th>Holds</th>
                  <th>Codes</th>
                  <th>Rig</th>
                  <th>Expected size</th>
                  <th className="text-right">Triangle budget</th>
                  <th className="!pr-0 text-right">Items</th>
                </tr>
              </thead>
              <tbody>
                {categories.map(c => {
                  const rule = HOUSE_CATEGORIES.find(h => h.path === c.path)
                  const depth = c.path.split('.').length - 1
                  return (
                    <tr key={c.path} className="border-b border-line/60 [&>td]:py-1 [&>td]:pr-3">
                      <td className={depth === 0 ? 'font-medium' : ''} style={{ paddingLeft: `${depth * 1.25}rem` }}>
                        {c.title}
                      </td>
                      <td className="text-quiet">{KIND_WORDS[c.kind].many}</td>
                      <td className="figures text-xs">{c.prefix}-0001…</td>
                      <td>{HOUSE_RIGS[c.rig as keyof typeof HOUSE_RIGS]?.title ?? c.rig}</td>
                      <td className="figures text-xs">{range(rule?.expectedSizeM)}</td>
                      <td className="figures text-right text-xs">
                        {rule?.triangleBudget ? formatNumber(rule.triangleBudget, 0) : ''}
                      </td>
                      <td className="figures !pr-0 text-right text-xs">{c.count}</td>
                    </tr>
                  )
                })}
              </tbody>
            </table>
          )}
        </section>
        <section>
          <h2 className="mb-3 text-lg font-medium">Preview rigs</h2>
          <ul className="flex flex-col gap-3">
            {Object.values(HOUSE_RIGS).map(rig => (
              <li key={rig.name} className="bg-sheet p-3">
                <p className="font-medium">{rig.title}</p>
                <dl className="mt-1 grid grid-cols-[7rem_1fr] gap-y-0.5 text-xs">
                  <dt className="text-quiet">Camera</dt>
                  <dd className="figures">
                    {rig.camera.azimuthDeg}° / {rig.camera.elevationDeg}°, {rig.camera.focalMm} mm
                  </dd>
                  <dt className="text-quiet">Fills</dt>
                  <dd className="figures">{Math.round(rig.camera.coverage * 100)} % of the frame</dd>
                  <dt className="text-quiet">Exposure</dt>
                  <dd className="figures">{formatNumber(rig.exposureEv)} EV</dd>
                  <dt className="text-quiet">Backdrop</dt>
                  <dd className="figures">albedo {rig.backdrops.join(', ')}</dd>
                </dl>
              </li>
            ))}
          </ul>
        </section>
      </div>
    </Page>
  )
}
