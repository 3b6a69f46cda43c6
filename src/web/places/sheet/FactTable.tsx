import { type FormEvent, useState } from 'react'
import { Link } from 'react-router'
import { readAppearance } from '#core/material/appearance'
import type { Sheet } from '#shared/contracts/items.contract'
import { factLabel, factWord, formatFact, formatLengthMm, formatNumber, GIVEN_FACTS, isGivenFact } from '#shared/units'
import { tellBulk, tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { Choice } from '../../components/controls/Choice'
import { CONTROL } from '../../components/controls/control-look'
import { useSetFactsMutation } from '../../state/api'
import { roleWord } from '../../words/states'
import { Histogram } from './map/Histogram'

/** The three figures of this text are facts of their own and stand in it. */
const COVERED = ['widthM', 'heightM', 'depthM']

/** In words what likeness goes by. */
function describeAppearance(text: string, widthMm: number | null): string {
  const appearance = readAppearance(text)
  if (!appearance) return ''
  const { period, coherence, directionDeg, relief, contrast } = appearance
  return [
    contrast < 1 ? 'plain' : `contrast ${formatNumber(contrast, 0)} L*`,
    ...(period > 0
      ? [
          `repeats after ${widthMm === null ? `${formatNumber(100 * period, 0)} % of its width` : formatLengthMm(period * widthMm)}`,
        ]
      : []),
    ...(coherence > 0.5 ? [`runs at ${formatNumber(directionDeg, 0)}°`] : []),
    ...(relief > 0 ? [`relief ${formatNumber(relief, 2)}`] : []),
  ].join(', ')
}

/** Measured facts with their units; colours are shown as what they are. */
export function FactTable({ sheet }: { sheet: Sheet }) {
  const shown = sheet.facts.filter(f => !COVERED.includes(f.name) && f.value !== '')
  return (
    <section>
      <h2 className="mb-2 text-section">Facts</h2>
      <dl className="border-t border-line">
        {shown.map(({ name, value }) => (
          <div key={name} className="grid grid-cols-[9.5rem_minmax(0,1fr)] gap-3 border-b border-line py-1">
            <dt className="text-quiet">{factLabel(name)}</dt>
            <dd className="leading-5 break-words tabular-nums">
              {name === 'palette' ? (
                <Palette text={String(value)} />
              ) : name === 'meanColor' ? (
                <Swatch color={String(value)} label={String(value)} />
              ) : name === 'appearance' ? (
                describeAppearance(String(value), sheet.widthMm)
              ) : name === 'histogram' ? (
                <Histogram text={String(value)} />
              ) : name === 'madeFrom' ? (
                <Link to={`/items/${value}`} className="figures underline">
                  {String(value)}
                </Link>
              ) : name === 'maps' ? (
                String(value).split(', ').map(roleWord).join(', ')
              ) : (
                formatFact(name, value)
              )}
            </dd>
          </div>
        ))}
      </dl>
      {sheet.mayEdit && sheet.versions[0]?.id === sheet.version.id && <GiveFact sheet={sheet} />}
    </section>
  )
}

/** One of the facts that no check measures: said, said otherwise, or taken away. */
function GiveFact({ sheet }: { sheet: Sheet }) {
  const { missingFacts } = sheet.standard
  const names = [...new Set([...missingFacts, ...GIVEN_FACTS])].filter(isGivenFact)
  const [fact, setFact] = useState('')
  const [value, setValue] = useState('')
  const [setFacts, { isLoading }] = useSetFactsMutation()
  const known = (name: string) => String(sheet.facts.find(f => f.name === name)?.value ?? '')
  const submit = async (event: FormEvent) => {
    event.preventDefault()
    const result = await setFacts({ items: [{ id: sheet.id, facts: { [fact]: value.trim() || null } }] })
    if (!result.data) return tellProblem(result.error)
    const { before } = result.data
    tellBulk(
      () => (value.trim() ? `The ${factWord(fact)} is ${value.trim()}.` : `It has no ${factWord(fact)} now.`),
      result.data,
      {
        label: 'Undo',
        onClick: () => setFacts({ items: before }),
      },
    )
    setFact('')
  }
  return (
    <form className="mt-2 flex items-center gap-2" onSubmit={submit}>
      <Choice
        label="Fact to give"
        className="w-40"
        value={fact}
        onChange={name => {
          setFact(name)
          setValue(known(name))
        }}
        options={[
          { value: '', text: 'Give a fact…' },
          ...names.map(name => ({ value: name, text: `${factLabel(name)}${missingFacts.includes(name) ? ' (missing)' : ''}` })),
        ]}
      />
      {fact && (
        <>
          <input
            aria-label={`Value of ${factWord(fact)}`}
            className={`${CONTROL} flex-1`}
            value={value}
            onChange={e => setValue(e.target.value)}
          />
          <Button type="submit" disabled={isLoading || value.trim() === known(fact)}>
            {value.trim() === '' && known(fact) !== '' ? 'Take away' : 'Give'}
          </Button>
        </>
      )}
    </form>
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
