import { useState } from 'react'
import { type BatchItem, DECISIONS, type EditBatchItems } from '#shared/contracts/intake.contract'
import type { Category } from '#shared/contracts/items.contract'
import { factWord, GIVEN_FACTS } from '#shared/units'
import { Button } from '../../../../components/controls/Button'
import { CategoryChoice } from '../../../../components/controls/CategoryChoice'
import { Choice, optionsOf } from '../../../../components/controls/Choice'
import { CONTROL } from '../../../../components/controls/control-look'
import { parseNumber } from '../../../../components/controls/parse-number'
import { DECISION_WORDS } from '../../../../words/conflicts'

interface Props {
  items: readonly BatchItem[]
  categories: readonly Category[]
  onChange: (patch: Omit<EditBatchItems, 'ids'>) => void
}

/** One fact for all marked; what the house misses most of them comes first. */
function FactForm({ items, onChange }: Pick<Props, 'items' | 'onChange'>) {
  const missing = [...new Set(items.flatMap(i => i.missingFacts))]
  const names = [...missing, ...GIVEN_FACTS.filter(f => !missing.includes(f))]
  const [fact, setFact] = useState('')
  const [value, setValue] = useState('')
  return (
    <form
      className="flex items-center gap-1.5"
      onSubmit={e => {
        e.preventDefault()
        if (fact && value.trim()) onChange({ facts: { [fact]: value.trim() } })
        setFact('')
        setValue('')
      }}
    >
      <Choice
        label="Fact for all marked"
        className="w-40"
        value={fact}
        onChange={setFact}
        options={[
          { value: '', text: 'Fact for all…' },
          ...names.map(name => ({ value: name, text: `${factWord(name)}${missing.includes(name) ? ' (missing)' : ''}` })),
        ]}
      />
      {fact && (
        <>
          <input
            aria-label={`Value of ${factWord(fact)} for all marked`}
            className={`${CONTROL} w-40`}
            value={value}
            onChange={e => setValue(e.target.value)}
          />
          <Button type="submit" disabled={!value.trim()}>
            Give all
          </Button>
        </>
      )}
    </form>
  )
}

/** One category or one width for every marked row at once. */
export function BulkFacts({ items, categories, onChange }: Props) {
  const [width, setWidth] = useState('')
  const kinds = new Set(items.map(i => i.kind))
  const widthMm = parseNumber(width)
  return (
    <div className="flex items-center gap-2">
      <CategoryChoice
        label="Category for all marked"
        className="w-44"
        none="Category for all…"
        value=""
        onChange={category => category && onChange({ category })}
        categories={categories.filter(c => kinds.has(c.kind))}
      />
      {kinds.has('material') && (
        <form
          className="flex items-center gap-1.5"
          onSubmit={e => {
            e.preventDefault()
            if (widthMm > 0) onChange({ widthMm })
            setWidth('')
          }}
        >
          <input
            aria-label="Repeat width for all marked, millimetres"
            className={`${CONTROL} figures w-24 text-right`}
            placeholder="width"
            value={width}
            onChange={e => setWidth(e.target.value)}
          />
          <span className="text-xs text-quiet">mm</span>
          <Button type="submit" disabled={!(widthMm > 0)}>
            Give all
          </Button>
        </form>
      )}
      <FactForm items={items} onChange={onChange} />
      {items.some(i => i.conflict) && (
        <Choice
          label="What becomes of those the library may have"
          className="w-44"
          value=""
          onChange={decision => {
            if (decision !== '') onChange({ decision })
          }}
          options={[{ value: '', text: 'What is known…' }, ...optionsOf(DECISIONS, DECISION_WORDS)]}
        />
      )}
      <Button variant="bare" onClick={() => onChange({ setAside: true })}>
        Set aside
      </Button>
    </div>
  )
}
