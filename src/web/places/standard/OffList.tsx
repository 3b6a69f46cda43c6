import { useState } from 'react'
import { Link, useLocation } from 'react-router'
import type { Category, SetFacts } from '#shared/contracts/items.contract'
import { MOST_GIVEN, type OffStandard } from '#shared/contracts/standard.contract'
import { factWord, isGivenFact } from '#shared/units'
import { sendTelling, tellBulk, tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { Choice } from '../../components/controls/Choice'
import { CONTROL } from '../../components/controls/control-look'
import { Skeleton } from '../../components/Notice'
import { useListOffStandardQuery, useRenameItemsMutation, useSetFactsMutation } from '../../state/api'
import { offWords } from '../../words/standard'
import { plural } from '../../words/states'

/** What of a category is off its standard, and what can be done about many of them at once. */
export function OffList({ category, mayEdit }: { category: Category; mayEdit: boolean }) {
  const { data: off } = useListOffStandardQuery({ path: category.path })
  const [rename, { isLoading }] = useRenameItemsMutation()
  const [setFacts] = useSetFactsMutation()
  const location = useLocation()
  if (!off) return <Skeleton className="h-32" />
  const renamed = off.filter((o): o is OffStandard & { proposedName: string } => o.proposedName !== null)
  const retagged = off.filter((o): o is OffStandard & { proposedTags: string } => o.proposedTags !== null)
  const renameAll = async () => {
    const nameAll = (nameOf: (item: (typeof renamed)[number]) => string) =>
      sendTelling(renamed, MOST_GIVEN, part => rename({ names: part.map(o => ({ id: o.id, name: nameOf(o) })) }))
    const { all, error } = await nameAll(o => o.proposedName)
    if (error) tellProblem(error)
    if (all.changed.length + all.refused.length === 0) return
    tellBulk(n => `${plural(n, 'item')} renamed.`, all, { label: 'Undo', onClick: () => nameAll(o => o.name) })
  }
  const give = async (items: SetFacts['items'], said: (count: number) => string) => {
    const giveAll = (given: SetFacts['items']) => sendTelling(given, MOST_GIVEN, part => setFacts({ items: part }))
    const { done, all, error } = await giveAll(items)
    if (error) tellProblem(error)
    if (all.changed.length + all.refused.length === 0) return
    const before = done.flatMap(d => d.before)
    tellBulk(said, all, { label: 'Undo', onClick: () => giveAll(before) })
  }
  return (
    <div className="min-w-0 border-t border-line pt-3">
      <div className="mb-1 flex flex-wrap items-center gap-3">
        <h3 className="font-medium">{off.length === 0 ? 'All of it is on standard' : `Off standard (${off.length})`}</h3>
        {mayEdit && renamed.length > 0 && (
          <Button className="ml-auto" disabled={isLoading} onClick={renameAll}>
            Rename {plural(renamed.length, 'item')} by the pattern
          </Button>
        )}
        {mayEdit && retagged.length > 0 && (
          <Button
            className="ml-auto"
            onClick={() =>
              give(
                retagged.map(o => ({ id: o.id, facts: { tags: o.proposedTags } })),
                n => `${plural(n, 'item')} tagged in our words.`,
              )
            }
          >
            Tag {retagged.length} in our words
          </Button>
        )}
      </div>
      {mayEdit && <MissingFacts off={off} onGive={give} />}
      <ul className="grid max-h-72 grid-cols-2 gap-x-8 overflow-auto text-xs">
        {off.map(o => (
          <li key={o.id} className="grid grid-cols-[5rem_minmax(0,1fr)] gap-3 border-t border-line/60 py-1.5">
            <Link to={`/items/${o.code}`} state={{ behind: location }} className="figures hover:underline">
              {o.code}
            </Link>
            <span>
              {o.name}
              {o.proposedName !== null && <span className="block font-medium">{o.proposedName}</span>}
              {offWords(o).map(line => (
                <span key={line} className="block text-quiet">
                  {line}
                </span>
              ))}
            </span>
          </li>
        ))}
      </ul>
    </div>
  )
}

interface MissingProps {
  off: readonly OffStandard[]
  onGive: (items: SetFacts['items'], said: (count: number) => string) => void
}

/** One value for everything here that has none of a fact. */
function MissingFacts({ off, onGive }: MissingProps) {
  const missing = [...new Set(off.flatMap(o => o.missingFacts))].filter(isGivenFact)
  const [chosen, setChosen] = useState('')
  const [value, setValue] = useState('')
  const fact = missing.includes(chosen) ? chosen : missing[0]
  if (!fact) return null
  const without = off.filter(o => o.missingFacts.includes(fact))
  return (
    <form
      className="mb-2 flex max-w-xl items-center gap-2"
      onSubmit={event => {
        event.preventDefault()
        onGive(
          without.map(o => ({ id: o.id, facts: { [fact]: value.trim() } })),
          n => `${plural(n, 'item')} got the ${factWord(fact)} ${value.trim()}.`,
        )
        setValue('')
      }}
    >
      <Choice
        label="Missing fact"
        className="w-36"
        value={fact}
        onChange={setChosen}
        options={missing.map(name => ({ value: name, text: factWord(name) }))}
      />
      <input
        aria-label={`The ${factWord(fact)} of those without`}
        className={`${CONTROL} flex-1`}
        value={value}
        onChange={e => setValue(e.target.value)}
      />
      <Button type="submit" disabled={value.trim() === ''}>
        Give the {without.length} without
      </Button>
    </form>
  )
}
