import { type FormEvent, useState } from 'react'
import { toast } from 'sonner'
import type { Category } from '#shared/contracts/items.contract'
import type { ChangeTree, SplitRule } from '#shared/contracts/standard.contract'
import { factWord } from '#shared/units'
import { tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { CategoryField } from '../../components/controls/CategoryChoice'
import { Choice, ChoiceField } from '../../components/controls/Choice'
import { CONTROL } from '../../components/controls/control-look'
import { useChangeTreeMutation, useCountMatchingQuery, useUndoTreeMutation } from '../../state/api'
import { plural } from '../../words/states'

const LABEL = 'flex flex-col gap-1 text-xs text-quiet'
/** As large as any other field, inside a small label. */
const FIELD = `${CONTROL} text-sm text-ink`

type Send = (wish: ChangeTree, said: (moved: number) => string, done?: () => void) => (event: FormEvent) => Promise<unknown>

interface FormProps {
  category: Category
  isLoading: boolean
  send: Send
}

/** Changes of the tree at one category: its title, categories in it, and where it goes when it is no longer wanted. */
export function TreeTools({ category, categories }: { category: Category; categories: readonly Category[] }) {
  const [title, setTitle] = useState(category.title)
  const [into, setInto] = useState('')
  const [change, { isLoading }] = useChangeTreeMutation()
  const [undo] = useUndoTreeMutation()
  const send: Send = (wish, said, done) => async event => {
    event.preventDefault()
    const result = await change(wish)
    if (!result.data) return tellProblem(result.error)
    const { undo: eventId, moved } = result.data
    setInto('')
    done?.()
    toast(said(moved), {
      action: {
        label: 'Undo',
        onClick: async () => {
          const back = await undo({ undo: eventId })
          if (back.error) tellProblem(back.error)
        },
      },
    })
  }
  return (
    <div className="grid grid-cols-3 items-end gap-x-6 gap-y-4 border-t border-line pt-3">
      <form
        className="flex items-end gap-2"
        onSubmit={send({ action: 'rename', path: category.path, title }, () => `It is called ${title} now.`)}
      >
        <label className={`${LABEL} min-w-0 flex-1`}>
          Title
          <input className={FIELD} value={title} onChange={e => setTitle(e.target.value)} />
        </label>
        <Button type="submit" disabled={isLoading || title.trim() === '' || title === category.title}>
          Rename
        </Button>
      </form>
      <form
        className="flex items-end gap-2"
        onSubmit={send(
          { action: 'merge', path: category.path, into },
          moved => `${plural(moved, 'item')} moved. The old address leads to the new place.`,
        )}
      >
        <div className="min-w-0 flex-1">
          <CategoryField
            label="Merge into"
            none="choose…"
            value={into}
            onChange={setInto}
            categories={categories.filter(
              c => c.kind === category.kind && c.path !== category.path && !c.path.startsWith(`${category.path}.`),
            )}
          />
        </div>
        <Button type="submit" disabled={isLoading || into === ''}>
          Merge
        </Button>
      </form>
      <MoveForm {...{ category, categories, isLoading, send }} />
      <SplitForm {...{ category, isLoading, send }} />
    </div>
  )
}

/** The category with everything in it into another one. */
function MoveForm({ category, categories, isLoading, send }: FormProps & { categories: readonly Category[] }) {
  const [into, setInto] = useState('')
  const parent = category.path.split('.').slice(0, -1).join('.')
  const places = categories.filter(
    c => c.kind === category.kind && c.path !== parent && c.path !== category.path && !c.path.startsWith(`${category.path}.`),
  )
  const title = categories.find(c => c.path === into)?.title ?? ''
  return (
    <form
      className="flex items-end gap-2"
      onSubmit={send(
        { action: 'move', path: category.path, into },
        () => `${category.title} lies in ${title} now; codes, rules and old addresses hold.`,
        () => setInto(''),
      )}
    >
      <div className="min-w-0 flex-1">
        <CategoryField
          label="Move into"
          none={parent === '' ? 'the first level stays' : 'choose…'}
          value={into}
          disabled={parent === ''}
          onChange={setInto}
          categories={places}
        />
      </div>
      <Button type="submit" disabled={isLoading || into === ''}>
        Move
      </Button>
    </form>
  )
}

const COMPARISONS: [SplitRule['is'], string][] = [
  ['equal', 'is'],
  ['below', 'is below'],
  ['above', 'is above'],
]
const SPLIT_FACTS: Record<Category['kind'], string[]> = {
  material: ['maker', 'series', 'sheen', 'tags', 'meanRoughness', 'lrv', 'metalShare', 'widthMm'],
  model: ['maker', 'series', 'botanicalName', 'tags', 'triangles', 'widthM', 'heightM', 'depthM'],
  environment: ['maker', 'setting', 'sky', 'shadows', 'tags', 'dynamicRangeStops', 'colorTemperatureK'],
  map: ['maker', 'series', 'mapUse', 'mapTiles', 'mapChannels', 'tags', 'widthPx', 'mapMean', 'widthMm'],
  light: ['maker', 'series', 'lightSymmetry', 'tags', 'luminousFluxLm', 'beamAngleDeg', 'lampCctK'],
}

/** A new category in this one, empty or with what a rule means. */
function SplitForm({ category, isLoading, send }: FormProps) {
  const [title, setTitle] = useState('')
  const [prefix, setPrefix] = useState('')
  const [rule, setRule] = useState<SplitRule>(NO_RULE)
  const isSplit = rule.words.trim() !== '' || (rule.fact !== '' && rule.value.trim() !== '')
  const { data: matching } = useCountMatchingQuery({ path: category.path, ...rule }, { skip: !isSplit })
  const clear = () => {
    setTitle('')
    setPrefix('')
    setRule(NO_RULE)
  }
  return (
    <form
      className="col-span-3 flex flex-wrap items-end gap-2"
      onSubmit={send(
        isSplit
          ? { action: 'split', path: category.path, title, prefix, rule }
          : { action: 'add', path: category.path, title, prefix },
        moved => (isSplit ? `${plural(moved, 'item')} went into ${title}.` : `${title} is in ${category.title} now.`),
        clear,
      )}
    >
      <label className={`${LABEL} min-w-24 flex-1`}>
        New category in it
        <input className={FIELD} value={title} placeholder="its title" onChange={e => setTitle(e.target.value)} />
      </label>
      <label className={LABEL}>
        Codes
        <input
          className={`${FIELD} figures w-14 uppercase`}
          value={prefix}
          maxLength={3}
          placeholder="ABC"
          onChange={e => setPrefix(e.target.value.toUpperCase())}
        />
      </label>
      <label className={`${LABEL} min-w-24 flex-1`}>
        with what is found by
        <input
          className={FIELD}
          value={rule.words}
          placeholder="words, or nothing"
          onChange={e => setRule({ ...rule, words: e.target.value })}
        />
      </label>
      <div className="w-32">
        <ChoiceField
          label="and whose"
          value={rule.fact}
          onChange={fact => setRule({ ...rule, fact })}
          options={[
            { value: '', text: 'any fact' },
            ...SPLIT_FACTS[category.kind].map(fact => ({ value: fact, text: factWord(fact) })),
          ]}
        />
      </div>
      {rule.fact !== '' && (
        <>
          <Choice
            label="How the fact compares"
            className="text-sm text-ink"
            value={rule.is}
            onChange={is => setRule({ ...rule, is })}
            options={COMPARISONS.map(([value, text]) => ({ value, text }))}
          />
          <input
            aria-label="Value of the fact"
            className={`${FIELD} figures w-20`}
            value={rule.value}
            onChange={e => setRule({ ...rule, value: e.target.value })}
          />
        </>
      )}
      <Button type="submit" disabled={isLoading || title.trim() === '' || !/^[A-Z]{3}$/.test(prefix)}>
        {isSplit ? `Split off ${matching ? matching.count : '…'}` : 'Add'}
      </Button>
    </form>
  )
}
const NO_RULE: SplitRule = { words: '', fact: '', is: 'equal', value: '' }
