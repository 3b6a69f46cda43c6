import { useState } from 'react'
import { Link, useLocation } from 'react-router'
import { toast } from 'sonner'
import type { CategoryRules } from '#core/standard/category-rules'
import { formatName, parseNamePattern } from '#core/standard/name-pattern'
import type { Category } from '#shared/contracts/items.contract'
import type { OffStandard, StandardRules } from '#shared/contracts/standard.contract'
import { factWord } from '#shared/units'
import { useListOffStandardQuery, useRenameItemsMutation, useSetRulesMutation } from '../../app/api'
import { Button } from '../../components/Button'
import { tellBulk, tellProblem } from '../../components/bulk-words'
import { TextField } from '../../components/Field'
import { Skeleton } from '../../components/Notice'
import { plural } from '../../words/states'
import { TreeTools } from './TreeTools'

/** A category's rules as they are typed: every field text, empty where the category above decides. */
interface Draft {
  requiredFacts: string
  namePattern: string
  smallestM: string
  largestM: string
  triangleBudget: string
  mapBudgetPx: string
}

const toDraft = (rules: CategoryRules): Draft => ({
  requiredFacts: rules.requiredFacts?.join(', ') ?? '',
  namePattern: rules.namePattern ?? '',
  smallestM: rules.expectedSizeM ? String(rules.expectedSizeM[0]) : '',
  largestM: rules.expectedSizeM ? String(rules.expectedSizeM[1]) : '',
  triangleBudget: rules.triangleBudget === null ? '' : String(rules.triangleBudget),
  mapBudgetPx: rules.mapBudgetPx === null ? '' : String(rules.mapBudgetPx),
})

const toNumber = (text: string): number | null => {
  const value = Number(text.replace(',', '.').replace(/\s/g, ''))
  return text.trim() === '' || !Number.isFinite(value) ? null : value
}

function toRules(draft: Draft): CategoryRules {
  const [low, high] = [toNumber(draft.smallestM), toNumber(draft.largestM)]
  const names = draft.requiredFacts
    .split(/[,\s]+/)
    .map(n => n.trim())
    .filter(Boolean)
  return {
    requiredFacts: names.length > 0 ? names : null,
    namePattern: draft.namePattern.trim() || null,
    expectedSizeM: low !== null && high !== null ? [low, high] : null,
    triangleBudget: toNumber(draft.triangleBudget),
    mapBudgetPx: toNumber(draft.mapBudgetPx),
  }
}

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
  const field = (key: keyof Draft, label: string, inherited: string, hint?: string) => (
    <TextField
      label={label}
      hint={hint}
      value={draft[key]}
      disabled={!mayEdit}
      placeholder={inherited}
      onChange={e => setDraft({ ...draft, [key]: e.target.value })}
    />
  )
  const isChanged = JSON.stringify(toRules(draft)) !== JSON.stringify(rules.own)
  const submit = async () => {
    const result = await save({ path: category.path, rules: toRules(draft) })
    if (result.error) tellProblem(result.error)
    else toast(`The rules of ${category.title} hold from now on.`)
  }
  const pattern = draft.namePattern.trim() || resolved.namePattern || ''
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_minmax(0,1.2fr)] gap-8 bg-sheet p-4">
      <form
        className="flex flex-col gap-3"
        onSubmit={event => {
          event.preventDefault()
          void submit()
        }}
      >
        {field('requiredFacts', 'Facts everything here must carry', resolved.requiredFacts?.join(', ') ?? 'none')}
        {field('namePattern', 'Name pattern', resolved.namePattern ?? 'any name', pattern ? exampleOf(pattern) : undefined)}
        {category.kind === 'model' && (
          <div className="grid grid-cols-2 gap-3">
            {field('smallestM', 'Smallest size, m', String(resolved.expectedSizeM?.[0] ?? ''))}
            {field('largestM', 'Largest size, m', String(resolved.expectedSizeM?.[1] ?? ''))}
          </div>
        )}
        {category.kind === 'model' && field('triangleBudget', 'Triangle budget', String(resolved.triangleBudget ?? 'none'))}
        {category.kind === 'material' && field('mapBudgetPx', 'Largest map, px', String(resolved.mapBudgetPx ?? 4096))}
        <p className="flex items-center gap-3">
          {mayEdit && (
            <Button type="submit" look="next" disabled={!isChanged || isLoading}>
              Hold from now on
            </Button>
          )}
          <span className="text-xs text-quiet">
            {rules.isShipped ? 'As shipped.' : 'Ours.'} An empty field takes what stands in it from the category above.
          </span>
        </p>
      </form>
      <OffList category={category} mayEdit={mayEdit} />
      {mayEdit && <TreeTools key={category.title} category={category} categories={categories} />}
    </div>
  )
}

function OffList({ category, mayEdit }: { category: Category; mayEdit: boolean }) {
  const { data: off } = useListOffStandardQuery(category.path)
  const [rename, { isLoading }] = useRenameItemsMutation()
  const location = useLocation()
  if (!off) return <Skeleton className="h-32" />
  const renamed = off.filter((o): o is OffStandard & { proposedName: string } => o.proposedName !== null)
  const renameAll = async () => {
    const result = await rename({ names: renamed.map(o => ({ id: o.id, name: o.proposedName })) })
    if (!result.data) return tellProblem(result.error)
    tellBulk(n => `${plural(n, 'item')} renamed.`, result.data, {
      label: 'Undo',
      onClick: () => rename({ names: renamed.map(o => ({ id: o.id, name: o.name })) }),
    })
  }
  return (
    <div>
      <div className="mb-1 flex items-center gap-3">
        <h3 className="font-medium">{off.length === 0 ? 'All of it is on standard' : `Off standard (${off.length})`}</h3>
        {mayEdit && renamed.length > 0 && (
          <Button className="ml-auto" disabled={isLoading} onClick={renameAll}>
            Rename {plural(renamed.length, 'item')} by the pattern
          </Button>
        )}
      </div>
      <ul className="max-h-72 overflow-auto text-xs">
        {off.map(o => (
          <li key={o.id} className="grid grid-cols-[5rem_minmax(0,1fr)] gap-3 border-t border-line/60 py-1.5">
            <Link to={`/items/${o.code}`} state={{ behind: location }} className="figures hover:underline">
              {o.code}
            </Link>
            <span>
              {o.name}
              {o.proposedName !== null && <span className="block font-medium">{o.proposedName}</span>}
              {o.missingFacts.length > 0 && (
                <span className="block text-quiet">without {o.missingFacts.map(factWord).join(', ')}</span>
              )}
            </span>
          </li>
        ))}
      </ul>
    </div>
  )
}
