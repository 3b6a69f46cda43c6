import { type FormEvent, useState } from 'react'
import { toast } from 'sonner'
import type { Category } from '#shared/contracts/items.contract'
import type { ChangeTree } from '#shared/contracts/standard.contract'
import { useChangeTreeMutation, useCountMatchingQuery, useUndoTreeMutation } from '../../app/api'
import { Button } from '../../components/Button'
import { tellProblem } from '../../components/bulk-words'
import { INPUT } from '../../components/Field'
import { plural } from '../../words/states'

const LABEL = 'flex flex-col gap-1 text-xs text-quiet'

/** Changes of the tree at one category: its title, categories in it, and where it goes when it is no longer wanted. */
export function TreeTools({ category, categories }: { category: Category; categories: readonly Category[] }) {
  const [title, setTitle] = useState(category.title)
  const [child, setChild] = useState('')
  const [prefix, setPrefix] = useState('')
  const [words, setWords] = useState('')
  const [into, setInto] = useState('')
  const [change, { isLoading }] = useChangeTreeMutation()
  const [undo] = useUndoTreeMutation()
  const { data: matching } = useCountMatchingQuery({ path: category.path, words: words.trim() }, { skip: words.trim() === '' })
  const hasChildren = categories.some(c => c.path.startsWith(`${category.path}.`))
  const send = (wish: ChangeTree, said: (moved: number) => string) => async (event: FormEvent) => {
    event.preventDefault()
    const result = await change(wish)
    if (!result.data) return tellProblem(result.error)
    const { undo: eventId, moved } = result.data
    setChild('')
    setPrefix('')
    setWords('')
    setInto('')
    toast(said(moved), {
      action: {
        label: 'Undo',
        onClick: async () => {
          const back = await undo(eventId)
          if (back.error) tellProblem(back.error)
        },
      },
    })
  }
  const isSplit = words.trim() !== ''
  return (
    <div className="col-span-2 grid grid-cols-2 items-end gap-x-8 gap-y-4 border-t border-line pt-3">
      <form
        className="flex items-end gap-2"
        onSubmit={send({ action: 'rename', path: category.path, title }, () => `It is called ${title} now.`)}
      >
        <label className={`${LABEL} min-w-0 flex-1`}>
          Title
          <input className={INPUT} value={title} onChange={e => setTitle(e.target.value)} />
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
        <label className={`${LABEL} min-w-0 flex-1`}>
          Merge into
          <select className={INPUT} value={into} disabled={hasChildren} onChange={e => setInto(e.target.value)}>
            <option value="">{hasChildren ? 'not while others are in it' : 'choose…'}</option>
            {categories
              .filter(c => c.kind === category.kind && c.path !== category.path)
              .map(c => (
                <option key={c.path} value={c.path}>
                  {c.title}
                </option>
              ))}
          </select>
        </label>
        <Button type="submit" disabled={isLoading || into === ''}>
          Merge
        </Button>
      </form>
      <form
        className="col-span-2 flex items-end gap-2"
        onSubmit={send(
          isSplit
            ? { action: 'split', path: category.path, title: child, prefix, words }
            : { action: 'add', path: category.path, title: child, prefix },
          moved => (isSplit ? `${plural(moved, 'item')} went into ${child}.` : `${child} is in ${category.title} now.`),
        )}
      >
        <label className={`${LABEL} min-w-0 flex-1`}>
          New category in it
          <input className={INPUT} value={child} placeholder="its title" onChange={e => setChild(e.target.value)} />
        </label>
        <label className={LABEL}>
          Codes
          <input
            className={`${INPUT} figures w-16 uppercase`}
            value={prefix}
            maxLength={3}
            placeholder="ABC"
            onChange={e => setPrefix(e.target.value.toUpperCase())}
          />
        </label>
        <label className={`${LABEL} min-w-0 flex-1`}>
          and what is found by
          <input className={INPUT} value={words} placeholder="words, or nothing" onChange={e => setWords(e.target.value)} />
        </label>
        <Button type="submit" disabled={isLoading || child.trim() === '' || !/^[A-Z]{3}$/.test(prefix)}>
          {isSplit ? `Split off ${matching ? matching.count : '…'}` : 'Add'}
        </Button>
      </form>
    </div>
  )
}
