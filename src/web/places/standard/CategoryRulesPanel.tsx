import { X } from 'lucide-react'
import { useState } from 'react'
import { toast } from 'sonner'
import { formatName, parseNamePattern } from '#core/standard/name-pattern'
import { TARGETS, type Target } from '#core/standard/target-names'
import type { Category } from '#shared/contracts/items.contract'
import type { StandardRules } from '#shared/contracts/standard.contract'
import { TARGET_WORDS } from '#shared/target-words'
import { factLabel, factWord } from '#shared/units'
import { tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { CheckBox } from '../../components/controls/CheckBox'
import { Choice, ChoiceField } from '../../components/controls/Choice'
import { CONTROL } from '../../components/controls/control-look'
import { TextField } from '../../components/controls/Field'
import { useSetRulesMutation } from '../../state/api'
import { OffList } from './OffList'
import { type Draft, formatTags, toDraft, toRules } from './rules-draft'
import { TreeTools } from './TreeTools'

/** A name as the pattern would give it, from made-up facts. */
function exampleOf(pattern: string): string {
  const parsed = parseNamePattern(pattern)
  if ('problem' in parsed) return parsed.problem
  const facts = new Proxy<Record<string, string>>({}, { get: (_, fact) => EXAMPLES[String(fact)] ?? String(fact) })
  return `For example: ${formatName(parsed.parts, facts).name ?? ''}`
}
const EXAMPLES: Record<string, string> = {
  name: 'oak plank natural',
  botanicalName: 'Betula pendula',
  commonName: 'Silver birch',
  maker: 'Oddmere Surfaces',
  series: 'HL',
  number: '12',
  sheen: 'matt',
}

type TextKey = { [K in keyof Draft]: Draft[K] extends string ? K : never }[keyof Draft]

/** What the house asks of a category, and what of it is off standard now. */
export function CategoryRulesPanel({
  category,
  categories,
  rules,
  mayEdit,
}: {
  category: Category
  categories: readonly Category[]
  rules: StandardRules
  mayEdit: boolean
}) {
  const [draft, setDraft] = useState(() => toDraft(rules.own))
  const [save, { isLoading }] = useSetRulesMutation()
  const { resolved } = rules
  const field = (key: TextKey, label: string, inherited: string, hint?: string) => (
    <TextField
      label={label}
      hint={hint}
      value={draft[key]}
      disabled={!mayEdit}
      placeholder={inherited}
      onChange={e => setDraft({ ...draft, [key]: e.target.value })}
    />
  )
  const isChanged = JSON.stringify(toRules(draft)) !== JSON.stringify(toRules(toDraft(rules.own)))
  const submit = async () => {
    const result = await save({ path: category.path, rules: toRules(draft) })
    if (result.error) tellProblem(result.error)
    else toast(`The rules of ${category.title} hold from now on.`)
  }
  const pattern = draft.namePattern.trim() || resolved.namePattern || ''
  return (
    <div className="flex flex-col gap-6 bg-sheet p-4">
      <form
        className="grid grid-cols-2 items-start gap-x-8 gap-y-4"
        onSubmit={event => {
          event.preventDefault()
          void submit()
        }}
      >
        <div className="flex flex-col gap-3">
          {field('requiredFacts', 'Facts everything here must carry', resolved.requiredFacts?.join(', ') ?? 'none')}
          {field('namePattern', 'Name pattern', resolved.namePattern ?? 'any name', pattern ? exampleOf(pattern) : undefined)}
          {category.kind === 'model' && (
            <div className="grid grid-cols-3 gap-3">
              {field('smallestM', 'Smallest size, m', String(resolved.expectedSizeM?.[0] ?? ''))}
              {field('largestM', 'Largest size, m', String(resolved.expectedSizeM?.[1] ?? ''))}
              {field('triangleBudget', 'Triangle budget', String(resolved.triangleBudget ?? 'none'))}
            </div>
          )}
          {category.kind === 'material' && (
            <div className="grid grid-cols-2 gap-3">
              {field('mapBudgetPx', 'Largest map, px', String(resolved.mapBudgetPx ?? 4096))}
              <ChoiceField
                label="Roughness and metalness"
                value={draft.mapPacking}
                disabled={!mayEdit}
                onChange={mapPacking => setDraft({ ...draft, mapPacking })}
                options={[
                  { value: '', text: `${resolved.mapPacking === 'packed' ? 'packed' : 'apart'}, as above` },
                  { value: 'apart', text: 'apart' },
                  { value: 'packed', text: 'packed' },
                ]}
              />
            </div>
          )}
        </div>
        <div className="flex flex-col gap-3">
          <RangeFields kind={category.kind} draft={draft} disabled={!mayEdit} onChange={setDraft} />
          <label className="flex flex-col gap-1 text-xs text-quiet">
            Our tags: one a line, other words for it behind =
            <textarea
              value={draft.tags}
              disabled={!mayEdit}
              rows={Math.min(8, Math.max(2, draft.tags.split('\n').length))}
              placeholder={formatTags(resolved.tags ?? []) || 'oak = eiche, quercus'}
              onChange={e => setDraft({ ...draft, tags: e.target.value })}
              className="rounded-sm border border-edge bg-mount px-2 py-1 text-sm text-ink placeholder:text-quiet/80 disabled:opacity-50"
            />
          </label>
          {category.kind === 'material' && (
            <TargetFields draft={draft} inherited={resolved.targets} disabled={!mayEdit} onChange={setDraft} />
          )}
        </div>
        <p className="col-span-2 flex items-center gap-3">
          {mayEdit && (
            <Button type="submit" variant="next" disabled={!isChanged || isLoading}>
              Hold from now on
            </Button>
          )}
          <span className="text-xs text-quiet">
            {rules.isShipped ? 'As shipped.' : 'Ours.'} An empty field takes what stands in it from the category above; ranges and
            tags add to those above.
          </span>
        </p>
      </form>
      <OffList category={category} mayEdit={mayEdit} />
      {mayEdit && <TreeTools key={category.title} category={category} categories={categories} />}
    </div>
  )
}

interface PartProps {
  draft: Draft
  disabled: boolean
  onChange: (draft: Draft) => void
}

/** Measured facts by kind, that a range makes sense for. */
const RANGED: Record<Category['kind'], string[]> = {
  material: ['meanRoughness', 'lrv', 'metalShare', 'texelDensityPxM', 'widthMm', 'widthPx', 'colorDeltaE00'],
  model: ['triangles', 'materials', 'textures', 'gpuMegabytes', 'texelDensityPxM', 'widthM', 'heightM', 'depthM', 'levels'],
  environment: ['dynamicRangeStops', 'widthPx', 'keyToFill', 'colorTemperatureK', 'sunElevationDeg', 'exposureEv'],
  map: ['widthPx', 'bitsPerChannel', 'mapMean', 'mapLow', 'mapHigh', 'coverShare', 'widthMm'],
  light: ['luminousFluxLm', 'beamAngleDeg', 'fieldAngleDeg', 'peakCandela', 'lampCctK', 'luminaireWatts'],
}

function RangeFields({ kind, draft, disabled, onChange }: PartProps & { kind: Category['kind'] }) {
  const { ranges } = draft
  const set = (index: number, change: Partial<Draft['ranges'][number]>) =>
    onChange({ ...draft, ranges: ranges.map((r, i) => (i === index ? { ...r, ...change } : r)) })
  const free = RANGED[kind].filter(fact => !ranges.some(r => r.fact === fact))
  return (
    <fieldset disabled={disabled} className="flex flex-col gap-1">
      <legend className="mb-1 text-xs text-quiet">Measured facts and what they may be here</legend>
      {ranges.map((range, i) => (
        <div key={range.fact} className="grid grid-cols-[minmax(0,1fr)_5rem_1.5rem_5rem_1.75rem] items-center gap-2">
          <span className="truncate">{factLabel(range.fact)}</span>
          <input
            aria-label={`Lowest ${factWord(range.fact)}`}
            className={`${CONTROL} figures text-right`}
            value={range.low}
            onChange={e => set(i, { low: e.target.value })}
          />
          <span className="text-center text-xs text-quiet">to</span>
          <input
            aria-label={`Highest ${factWord(range.fact)}`}
            className={`${CONTROL} figures text-right`}
            value={range.high}
            onChange={e => set(i, { high: e.target.value })}
          />
          <button
            type="button"
            aria-label={`No range for ${factWord(range.fact)}`}
            className="flex size-7 items-center justify-center rounded-sm hover:bg-mount"
            onClick={() => onChange({ ...draft, ranges: ranges.filter((_, k) => k !== i) })}
          >
            <X aria-hidden className="size-4" />
          </button>
        </div>
      ))}
      <Choice
        label="A range for another fact"
        className="w-48"
        value=""
        disabled={disabled}
        onChange={fact => onChange({ ...draft, ranges: [...ranges, { fact, low: '', high: '' }] })}
        options={[{ value: '', text: 'A range for…' }, ...free.map(fact => ({ value: fact, text: factLabel(fact) }))]}
      />
    </fieldset>
  )
}

/** In which delivery forms its look has to hold. */
function TargetFields({ draft, inherited, disabled, onChange }: PartProps & { inherited: Target[] | null }) {
  const chosen = draft.targets ?? inherited ?? TARGETS
  const toggle = (target: Target) => {
    const next = TARGETS.filter(t => (t === target ? !chosen.includes(t) : chosen.includes(t)))
    onChange({ ...draft, targets: next.length === TARGETS.length ? null : next })
  }
  return (
    <fieldset disabled={disabled}>
      <legend className="mb-1 text-xs text-quiet">Forms in which its look has to hold</legend>
      <div className="flex flex-wrap gap-x-4 gap-y-2.5">
        {TARGETS.map(target => (
          <CheckBox
            key={target}
            label={TARGET_WORDS[target]}
            checked={chosen.includes(target)}
            disabled={disabled}
            onChange={() => toggle(target)}
            className="whitespace-nowrap"
          />
        ))}
      </div>
    </fieldset>
  )
}
