import type { AuditClass } from '#core/audit/reference'
import { CLASS_ORDER, CLASS_WORDS } from '#shared/audit-words'
import { CLASS_TONES } from './audit-words'

const percent = (share: number): string => (share > 0 && share < 0.01 ? '<1 %' : `${Math.round(share * 100)} %`)

/** How much of a scene is what: from what is as pinned to what is foreign. */
export function SharesBar({
  shares,
  label,
  isSmall = false,
}: {
  shares: Partial<Record<AuditClass, number>>
  label: string
  isSmall?: boolean
}) {
  const parts = [...CLASS_ORDER].reverse().flatMap(c => (shares[c] ? [{ c, share: shares[c] }] : []))
  const words = parts.map(({ c, share }) => `${percent(share)} ${CLASS_WORDS[c]}`)
  return (
    <div>
      <div
        role="img"
        aria-label={`${label}: ${words.join(', ')}`}
        className={`flex overflow-hidden rounded-sm border border-edge ${isSmall ? 'h-2' : 'h-3'}`}
      >
        {parts.map(({ c, share }) => (
          <div
            key={c}
            className={CLASS_TONES[c]}
            style={{ width: `${share * 100}%` }}
            title={`${percent(share)} ${CLASS_WORDS[c]}`}
          />
        ))}
      </div>
      {!isSmall && (
        <p className="mt-1 flex flex-wrap gap-x-4 text-xs text-quiet">
          <span className="text-ink">{label}</span>
          {parts.map(({ c, share }) => (
            <span key={c} className="inline-flex items-center gap-1.5">
              <span aria-hidden className={`size-2 border border-edge ${CLASS_TONES[c]}`} />
              {percent(share)} {CLASS_WORDS[c]}
            </span>
          ))}
        </p>
      )}
    </div>
  )
}
