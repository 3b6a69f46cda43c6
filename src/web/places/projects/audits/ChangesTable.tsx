import { changeWord } from '#shared/audit-words'
import type { AuditedMaterialView } from '#shared/contracts/audits.contract'

/** What is different, from one to the other. */
export function ChangesTable({
  changes,
  heads,
}: {
  changes: AuditedMaterialView['changes']
  heads: readonly [from: string, to: string]
}) {
  return (
    <table className="w-full">
      <thead>
        <tr className="text-left text-xs text-quiet">
          <th className="pb-1 font-normal">of it</th>
          <th className="pr-3 pb-1 text-right font-normal">{heads[0]}</th>
          <th className="pb-1 text-right font-normal">{heads[1]}</th>
        </tr>
      </thead>
      <tbody>
        {changes.map(c => (
          <tr key={c.what} className="border-t border-line align-top">
            <td className="py-1 pr-3">{changeWord(c.what)}</td>
            <td className="py-1 pr-3 text-right">
              <Value value={c.from} />
            </td>
            <td className="py-1 text-right font-medium">
              <Value value={c.to} />
              {c.deltaE00 !== undefined && (
                <span className="block text-xs font-normal text-quiet">ΔE00 {c.deltaE00.toFixed(1)}</span>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

/** A colour shows itself beside its code. */
function Value({ value }: { value: string | number }) {
  const isColor = typeof value === 'string' && /^#[0-9a-f]{6}$/.test(value)
  return (
    <span className="figures inline-flex items-center gap-1.5">
      {isColor && <span aria-hidden className="size-3 border border-edge" style={{ background: value }} />}
      {value}
    </span>
  )
}
