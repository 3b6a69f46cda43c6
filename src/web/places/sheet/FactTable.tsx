import type { Sheet } from '#shared/contracts/items.contract'
import { factLabel, formatFact } from '#shared/units'

/** The three figures of this text are facts of their own and stand in it. */
const COVERED = ['widthM', 'heightM', 'depthM']

/** Measured facts with their units; colours are shown as what they are. */
export function FactTable({ sheet }: { sheet: Sheet }) {
  const shown = sheet.facts.filter(f => !COVERED.includes(f.name) && f.value !== '')
  return (
    <section>
      <h2 className="mb-2 font-medium">Facts</h2>
      <dl className="border-t border-line">
        {shown.map(({ name, value }) => (
          <div key={name} className="grid grid-cols-[9.5rem_minmax(0,1fr)] gap-3 border-b border-line py-1">
            <dt className="text-quiet">{factLabel(name)}</dt>
            <dd className="figures text-xs leading-5 break-words">
              {name === 'palette' ? (
                <Palette text={String(value)} />
              ) : name === 'meanColor' ? (
                <Swatch color={String(value)} label={String(value)} />
              ) : (
                formatFact(name, value)
              )}
            </dd>
          </div>
        ))}
      </dl>
    </section>
  )
}

function Swatch({ color, label }: { color: string; label: string }) {
  return (
    <span className="flex items-center gap-2">
      <span aria-hidden className="size-4 border border-line" style={{ background: color }} />
      {label}
    </span>
  )
}

/** "#rrggbb share" pairs as a bar in proportion. */
function Palette({ text }: { text: string }) {
  const colors = text.split(', ').map(pair => {
    const [color, share] = pair.split(' ')
    return { color, share: Number(share) }
  })
  return (
    <span className="flex h-5 w-full overflow-hidden" role="img" aria-label={text}>
      {colors.map(c => (
        <span
          key={c.color}
          title={`${c.color}, ${Math.round(c.share * 100)} %`}
          style={{ background: c.color, flexGrow: c.share }}
        />
      ))}
    </span>
  )
}
