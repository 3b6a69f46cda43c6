import { toast } from 'sonner'
import { HOUSE_FLIP_LIMIT } from '#shared/contracts/fidelity.contract'
import type { Sheet } from '#shared/contracts/items.contract'
import { lostWord } from '#shared/parameter-words'
import { TARGET_WORDS } from '#shared/target-words'
import { formatNumber } from '#shared/units'
import { tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { useMeasureFidelityMutation } from '../../state/api'

/** What a colleague's renderer will make of the material: pictures, figures, and what does not come through. */
export function FidelityTable({ sheet }: { sheet: Sheet }) {
  const [measure, { isLoading }] = useMeasureFidelityMutation()
  const ask = async () => {
    const result = await measure({ id: sheet.id })
    if (result.error) tellProblem(result.error)
    else toast('It is rendered as every target keeps it; the figures appear here when that is done.')
  }
  return (
    <section aria-label="Target fidelity">
      <div className="mb-2 flex items-center gap-3">
        <h2 className="text-section">As each target keeps it</h2>
        <Button variant={sheet.fidelity.length === 0 ? 'plain' : 'bare'} className="ml-auto" onClick={ask} disabled={isLoading}>
          {sheet.fidelity.length === 0 ? 'Measure' : 'Measure again'}
        </Button>
      </div>
      {sheet.fidelity.length === 0 ? (
        <p className="text-quiet">Not measured yet: the material is written in each form, read back, and both are rendered.</p>
      ) : (
        <table className="w-full border-collapse">
          <thead>
            <tr className="border-b border-line text-left text-xs text-quiet [&>th]:py-1 [&>th]:pr-3 [&>th]:font-normal">
              <th>
                <span className="sr-only">Pictures</span>
              </th>
              <th>Target</th>
              <th className="text-right">FLIP, mean</th>
              <th className="text-right">95th pct.</th>
              <th className="text-right">ΔE00</th>
              <th className="!pr-0">Lost</th>
            </tr>
          </thead>
          <tbody>
            {sheet.fidelity.map(f => (
              <tr key={f.target} className="border-b border-line [&>td]:py-1 [&>td]:pr-3">
                <td className="w-40">
                  <span className="flex gap-1">
                    <img src={f.original} alt="as it is" className="aspect-[4/3] w-18 bg-mount" />
                    <img src={f.picture} alt={`as ${TARGET_WORDS[f.target]} keeps it`} className="aspect-[4/3] w-18 bg-mount" />
                  </span>
                </td>
                <td>{TARGET_WORDS[f.target]}</td>
                <td className={`figures text-right ${f.meanFlip > HOUSE_FLIP_LIMIT ? 'font-semibold' : ''}`}>
                  {formatNumber(f.meanFlip, 3)}
                </td>
                <td className="figures text-right">{formatNumber(f.p95Flip, 3)}</td>
                <td className="figures text-right">{formatNumber(f.deltaE, 1)}</td>
                <td className="!pr-0 text-xs">{f.lost.length > 0 ? f.lost.map(lostWord).join(', ') : 'nothing'}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  )
}
