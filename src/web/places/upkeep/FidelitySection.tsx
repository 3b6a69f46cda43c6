import { useState } from 'react'
import { Link, useLocation } from 'react-router'
import { toast } from 'sonner'
import { TARGETS } from '#core/standard/target-names'
import { type FidelityQuery, fidelityQuerySchema } from '#shared/contracts/fidelity.contract'
import { lostWord } from '#shared/parameter-words'
import { TARGET_WORDS } from '#shared/target-words'
import { formatNumber } from '#shared/units'
import { tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { Choice, optionsOf } from '../../components/controls/Choice'
import { NumberInput } from '../../components/controls/NumberInput'
import { MaterialCategoryChoice } from '../../components/MaterialCategoryChoice'
import { Skeleton, Trouble } from '../../components/Notice'
import { useListFidelityQuery, useMeasureMissingFidelityMutation } from '../../state/api'
import { plural } from '../../words/states'

/** Which materials a target does not keep: of a category, in a target, over a limit. */
export function FidelitySection({ mayEdit }: { mayEdit: boolean }) {
  const [query, setQuery] = useState<FidelityQuery>(() => fidelityQuerySchema.parse({}))
  const { data, error, refetch } = useListFidelityQuery(query)
  const [measure, { isLoading }] = useMeasureMissingFidelityMutation()
  const location = useLocation()
  const change = (patch: Partial<FidelityQuery>) => setQuery(old => ({ ...old, ...patch }))
  const onMeasure = async () => {
    const result = await measure(query)
    if (result.error) tellProblem(result.error)
    else if (result.data)
      toast(`${plural(result.data.asked, 'material')} in line to be measured; the list grows as they are done.`)
  }
  return (
    <section aria-label="Target fidelity">
      <h2 className="mb-2 text-section">What delivery targets lose</h2>
      <div className="mb-3 flex flex-wrap items-center gap-2 text-xs">
        <MaterialCategoryChoice value={query.category} onChange={category => change({ category })} />
        <Choice
          label="State"
          value={query.state}
          onChange={state => change({ state })}
          options={[
            { value: 'approved', text: 'approved ones' },
            { value: '', text: 'in every state' },
          ]}
        />
        that lose more than
        <NumberInput
          label="Limit"
          unit="FLIP"
          className="w-28"
          min={0}
          max={1}
          value={query.over}
          onSettle={over => change({ over: over ?? 0 })}
        />
        in
        <Choice
          label="Target"
          value={query.target}
          onChange={target => change({ target })}
          options={[{ value: '', text: 'any target' }, ...optionsOf(TARGETS, TARGET_WORDS)]}
        />
      </div>
      {error ? (
        <Trouble error={error} onRetry={refetch} />
      ) : !data ? (
        <Skeleton className="h-24" />
      ) : (
        <>
          <p className="mb-2 flex items-center gap-3 text-quiet">
            {plural(data.measured, 'material')} of this view measured, {data.unmeasured} not.
            {mayEdit && data.unmeasured > 0 && (
              <Button onClick={onMeasure} disabled={isLoading}>
                Measure the rest
              </Button>
            )}
          </p>
          {data.rows.length > 0 ? (
            <table className="w-full border-collapse">
              <tbody>
                {data.rows.map(r => (
                  <tr key={`${r.code}-${r.target}`} className="border-b border-line [&>td]:py-1 [&>td]:pr-3">
                    <td className="w-36">
                      <span className="flex gap-1">
                        <img src={r.original} alt="as it is" className="aspect-[4/3] w-16 bg-mount" />
                        <img
                          src={r.picture}
                          alt={`as ${TARGET_WORDS[r.target]} keeps it`}
                          className="aspect-[4/3] w-16 bg-mount"
                        />
                      </span>
                    </td>
                    <td>
                      <Link to={`/items/${r.code}`} state={{ behind: location }} className="font-medium hover:underline">
                        {r.name}
                      </Link>{' '}
                      <span className="figures text-xs text-quiet">{r.code}</span>
                      <span className="block text-xs text-quiet">
                        {TARGET_WORDS[r.target]}; lost: {r.lost.map(lostWord).join(', ')}
                      </span>
                    </td>
                    <td className="figures w-28 text-right text-xs">
                      FLIP {formatNumber(r.meanFlip, 3)}
                      <span className="block text-quiet">ΔE00 {formatNumber(r.deltaE, 1)}</span>
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          ) : (
            data.measured > 0 && <p>Nothing of what was measured loses that much.</p>
          )}
        </>
      )}
    </section>
  )
}
